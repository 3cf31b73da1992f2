"""SVG, read and written."""
