"""Outlines at a distance from others, strokes, and where something is too thin. Begin with `offset.py`."""
