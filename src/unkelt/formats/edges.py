"""Edges beyond which nothing of a drawing is shown."""

from __future__ import annotations

import shapely
from fontTools.misc.transform import Identity, Transform

from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import Box, bounds, find_boxes
from unkelt.geometry.region import transformed
from unkelt.sheet.appearance import stroke_reach
from unkelt.sheet.model import Item, Outline, Sheet

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
    """The box of a stroke without its dashes."""
    look = outline.look
    pen = Transform(*look.pen, 0, 0) if look.pen else Identity
    drawn = shapely.buffer(
        lines(outline.path.transformed(pen.inverse()), CHORD_MM),
        look.stroke_width_mm / 2,
        cap_style={"round": "round", "square": "square"}.get(look.line_cap, "flat"),
        join_style={"round": "round", "bevel": "bevel"}.get(look.line_join, "mitre"),
        mitre_limit=max(1.0, look.mitre_limit),
    )
    box = shapely.bounds(transformed(drawn, pen))
    return (*map(float, box),)  # type: ignore[return-value]


def _holds(edge: Box, inner: Box, by_mm: float = 0.0) -> bool:
    """Whether a box lies in another, grown by some length (mm), but for rounding."""
    room = ROUNDING_MM + by_mm
    return all(
        low >= first - room and high <= last + room
        for low, high, first, last in zip(inner[:2], inner[2:], edge[:2], edge[2:], strict=True)
    )
