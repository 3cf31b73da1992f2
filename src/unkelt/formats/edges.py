"""Edges beyond which nothing of a drawing is shown."""

from __future__ import annotations

import numpy as np
import shapely

from unkelt.errors import GeometryRefused
from unkelt.geometry.measure import Box, bounds, find_boxes
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.pens import stroke_reach, stroke_region

ROUNDING_MM = 1e-6
"""What a file's decimals may put beyond an edge."""

CHORD_MM = 0.002
"""How finely a stroke is looked at that may reach beyond: a tenth of the standard chord tolerance."""


def lies_within(items: tuple[Item, ...], edge: Box) -> bool:
    """Whether outlines, with their strokes, stay within a box, but for rounding."""
    outlines = Sheet((0.0, 0.0), items).outlines()
    find_boxes([outline.path for outline in outlines])
    for outline in outlines:
        inner, reach = bounds(outline.path), stroke_reach(outline.look)
        if inner is None or _holds(edge, inner, -reach):
            continue
        if not reach or not _holds(edge, inner) or not _holds(edge, _stroked(outline)):
            return False
    return True


def _stroked(outline: Outline) -> Box:
    """The box of a stroke, NaN where it can't be told, which lies in nothing."""
    try:
        box = shapely.bounds(stroke_region(outline.path, outline.look, CHORD_MM))
    except GeometryRefused:
        box = np.full(4, np.nan)
    return (*map(float, box),)  # type: ignore[return-value]


def _holds(edge: Box, inner: Box, by_mm: float = 0.0) -> bool:
    """Whether a box lies in another, grown by some length (mm), but for rounding."""
    room = ROUNDING_MM + by_mm
    return all(
        low >= first - room and high <= last + room
        for low, high, first, last in zip(inner[:2], inner[2:], edge[:2], edge[2:], strict=True)
    )
