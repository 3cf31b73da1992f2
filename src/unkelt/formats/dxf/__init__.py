"""DXF, read."""
