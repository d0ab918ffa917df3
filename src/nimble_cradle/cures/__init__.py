"""What would cure a verdict, and by how much: tried, not guessed."""
