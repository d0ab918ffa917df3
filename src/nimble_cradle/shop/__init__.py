"""What leaves the screen: templates at 1:1, DXF, SVG, PDF, the cut list, the report."""
