"""What stands in the bay and what goes into it, as solids with a place."""
