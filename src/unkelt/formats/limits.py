"""What no drawing may exceed, in any format."""

FARTHEST = 1e9
"""Coordinates beyond this are not drawings; they overflow what later arithmetic can hold."""

DEEPEST_FORM = 60
"""PDF forms nested deeper than this are no drawing."""
