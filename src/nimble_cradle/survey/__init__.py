"""The survey: level and datum, taped points adjusted together, hole patterns, items from points, weighing."""
