"""A shape as it is being drawn on the table."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from unkelt.geometry.arcs import ellipse, rounded
from unkelt.geometry.path import Path, polygon
from unkelt.steps.grip import written_mm

LEAST_MM = 0.1
MOST_PLACES = 300
"""How many places of a freehand line are kept: more are closer to each other than a hand can go."""


@dataclass(frozen=True, slots=True)
class Shaping:
    """Its line, to be shown while it is drawn, and the options of the step that adds it."""

    path: Path
    options: Mapping[str, object]


def shaping(shape: str, places: Sequence[tuple[float, float]], *, even: bool) -> Shaping | None:
    """What a drag through these places (mm) draws; None where it is too small to be meant. `even` makes width and
    height the same, and a line level, plumb or slanted by 45°.
    """
    (x0, y0), (x1, y1) = places[0], places[-1]
    if shape == "freehand":
        step = max(1, math.ceil(len(places) / MOST_PLACES))
        kept = [*places[:-1:step], places[-1]]
        if math.dist(kept[0], kept[-1]) < LEAST_MM and len(kept) < 4:
            return None
        return Shaping(polygon(*kept, closed=False), {"shape": shape, "points": _written(kept)})
    if shape == "line":
        if even:
            turn = round(math.atan2(y1 - y0, x1 - x0) / (math.pi / 4)) * math.pi / 4
            far = math.dist((x0, y0), (x1, y1))
            x1, y1 = x0 + far * math.cos(turn), y0 + far * math.sin(turn)
        if math.dist((x0, y0), (x1, y1)) < LEAST_MM:
            return None
        ends = [(x0, y0), (x1, y1)]
        return Shaping(polygon(*ends, closed=False), {"shape": shape, "points": _written(ends)})
    if shape == "circle":  # from its centre outwards
        radius = math.dist((x0, y0), (x1, y1))
        return _framed(shape, x0, y0, 2 * radius, 2 * radius)
    width, height = abs(x1 - x0), abs(y1 - y0)
    if even:
        width = height = max(width, height)
        x1, y1 = x0 + math.copysign(width, x1 - x0), y0 + math.copysign(height, y1 - y0)
    return _framed(shape, (x0 + x1) / 2, (y0 + y1) / 2, width, height)


def _framed(shape: str, cx: float, cy: float, width: float, height: float) -> Shaping | None:
    if width < LEAST_MM or height < LEAST_MM:
        return None
    options = {"shape": shape, "width": written_mm(width), "x": written_mm(cx), "y": written_mm(cy)}
    if shape != "circle":
        options["height"] = written_mm(height)
    if shape == "rectangle":
        return Shaping(rounded(cx - width / 2, cy - height / 2, cx + width / 2, cy + height / 2, 0.0), options)
    return Shaping(ellipse(cx, cy, width / 2, height / 2), options)


def _written(places: Sequence[tuple[float, float]]) -> str:
    return " ".join(f"{round(x, 2) + 0.0:g},{round(y, 2) + 0.0:g}" for x, y in places)
