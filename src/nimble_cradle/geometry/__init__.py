"""Poses, solids, distances, flat patterns and tube copes. Knows nothing of cars."""
