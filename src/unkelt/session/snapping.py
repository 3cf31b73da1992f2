"""Guide lines that a person lays across the sheet, and where a dragged place is caught: nodes, lines, guides, page,
grid.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Literal

from unkelt.session.measuring import snapped
from unkelt.sheet.model import Sheet
from unkelt.units import parse_length

Axis = Literal["x", "y"]


@dataclass(frozen=True, slots=True)
class GuideLine:
    """A line across the whole sheet: upright at `mm` from its left edge (x), or level at `mm` from its top (y)."""

    axis: Axis
    mm: float


def parse_guide(words: str) -> GuideLine:
    """What a person writes: "x 40" (millimetres), "y 12.5 mm", "x 1.5 in". Raises ValueError or LengthError, in words
    for that person.
    """
    found = re.fullmatch(r"\s*([xyXY])\s*[:=]?\s*(.+?)\s*", words)
    if found is None:
        raise ValueError("write x or y and a length, as in: x 40 mm")
    axis: Axis = "x" if found[1].lower() == "x" else "y"
    bare = re.fullmatch(r"-?\d+([.,]\d*)?", found[2])
    return GuideLine(axis, parse_length(f"{found[2]} mm" if bare else found[2]))


def caught(
    x: float,
    y: float,
    reach_mm: float,
    sheet: Sheet | None,
    page_mm: tuple[float, float],
    guides: Iterable[GuideLine],
    grid_mm: float = 0.0,
    but: Collection[str] = (),
) -> tuple[float, float]:
    """Where a dragged place comes to lie: on a node or line of the sheet within reach; else, each way for itself, on a
    guide line, the page's edges and middle, or the grid, in this order. Without a sheet nothing that is drawn catches
    it, nor ever do the outlines in `but`, which move along.
    """
    if sheet is not None and (place := snapped(sheet, x, y, reach_mm, but)).on:
        return place.x, place.y
    guides = list(guides)
    width, height = page_mm
    return (
        _nearest(x, reach_mm, [each.mm for each in guides if each.axis == "x"], (0.0, width / 2, width), grid_mm),
        _nearest(y, reach_mm, [each.mm for each in guides if each.axis == "y"], (0.0, height / 2, height), grid_mm),
    )


def _nearest(value: float, reach_mm: float, guides: list[float], page: Iterable[float], grid_mm: float) -> float:
    grid = [round(value / grid_mm) * grid_mm] if grid_mm > 0 else []
    for places in (guides, page, grid):
        within = [place for place in places if abs(place - value) <= reach_mm]
        if within:
            return min(within, key=lambda place: abs(place - value))
    return value
