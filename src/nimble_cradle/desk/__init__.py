"""The window: the only place that imports PyQt6 and VTK. It shows what the core computes and never
computes itself."""
