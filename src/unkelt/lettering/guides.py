"""Lines that text is set on: circles made to measure and lines of the sheet, where on them a text lies, and text taken
off them again.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from fontTools.misc.transform import Transform

from unkelt.geometry.arc_length import Along
from unkelt.geometry.arcs import arc_to_cubics
from unkelt.geometry.measure import bounds, signed_areas
from unkelt.geometry.path import Path, PathBuilder
from unkelt.sheet.model import Guide, Lettering, Stand

ERROR_MM = 1e-4
"""How far the cubics of a circle may stray from it."""

EVEN = 1e-9
CLOSED_MM = 1e-6
"""Ends so near to each other close a line."""

LOOKED_AT = 2048
"""How finely a line is looked at for its place in some direction."""

OVERHANG = 0.01
"""The share of a closed line that is kept for ink that reaches over the start or end of a text."""

Tops = Literal["outward", "inward"]
Position = Literal["start", "centre", "end"]
Side = Literal["usual", "outside", "inside"]

SHARES: dict[Position, float] = {"start": 0.0, "centre": 0.5, "end": 1.0}
"""Where the part of a text lies that is placed, as a share of its length."""

ANCHORS: dict[Position, str] = {"start": "start", "centre": "middle", "end": "end"}
"""What SVG calls these parts."""


@dataclass(frozen=True, slots=True)
class Way:
    """A line in the direction in which a text runs along it, and the place that its start, centre or end is to have, in
    mm from the line's start. A closed line begins where no letter reaches over its end.
    """

    path: Path
    at_mm: float


def circle(x: float, y: float, radius_mm: float, start_deg: float, clockwise: bool) -> Path:
    """A whole circle from an angle on, 0° at the top and clockwise as seen, run one way or the other."""
    builder = PathBuilder()
    angles = [math.radians(start_deg + (1 if clockwise else -1) * turn) for turn in (0, 180, 360)]
    places = [(x + radius_mm * math.sin(a), y - radius_mm * math.cos(a)) for a in angles]
    builder.move_to(*places[0])
    for begin, end in ((places[0], places[1]), (places[1], places[0])):
        for cubic in arc_to_cubics(*begin, radius_mm, radius_mm, 0, False, clockwise, *end, ERROR_MM):
            builder.cubic_to(*cubic)
    builder.close()
    return builder.path()


def round_circle(
    centre: tuple[float, float], radius_mm: float, around_deg: float, tops: Tops, position: Position
) -> Way:
    """A circle of the sheet. Tops outward it runs clockwise, tops inward the other way, so that text reads the right
    way round on the lower half. `around_deg` is where the start, centre or end of the text lies.
    """
    clockwise = tops == "outward"
    sense = 1 if clockwise else -1
    path = circle(*centre, radius_mm, around_deg - 360 * _ahead(position) * sense, clockwise)
    return Way(path, _ahead(position) * Along.of(path).length)


def _ahead(position: Position) -> float:
    """How far from its start the place of a text lies on a closed line, as a share of its length."""
    return min(max(SHARES[position], OVERHANG), 1 - OVERHANG)


def along_line(
    path: Path, tops: Tops, position: Position, around_deg: float | None, near: tuple[float, float] | None
) -> Way:
    """A line of the sheet, of several subpaths the one nearest to `near`, else the largest.

    The text's place is nearest to `near`, else where the line lies farthest from the middle of its box in the direction
    `around_deg`: 0 is up, 90 to the right. Without either it is the top of a closed line, and the start, middle or end
    of an open one. Round a closed line text with its tops outward runs clockwise as seen; along an open one it runs
    to the right at its place, or up where the line is upright, with its tops to the left of that way.
    """
    line = _subpath(path, near)
    closed = bool(line.closed[0]) or float(line.end_gaps_mm()[0]) < CLOSED_MM
    clockwise = closed and float(signed_areas(line)[0]) < 0
    if closed and clockwise != (tops == "outward"):
        line = line.reversed()
    at = _place(Along.of(line), closed, position, around_deg, near)
    if closed:
        ahead = _ahead(position) * Along.of(line).length
        return Way(Along.of(line).begun_at(at - ahead), ahead)
    if _runs_right(Along.of(line), at) != (tops == "outward"):
        line = line.reversed()
        # The start of a line is where the text that runs along it begins.
        given = near is not None or around_deg is not None
        at = Along.of(line).length - at if given else at
    return Way(line, at)


def _subpath(path: Path, near: tuple[float, float] | None) -> Path:
    parts = list(path.subpaths())
    if near is None:
        return max(parts, key=lambda part: float(np.ptp(part.points, axis=(0, 1)).sum()))
    return min(parts, key=lambda part: _away(Along.of(part), near))


def _away(along: Along, point: tuple[float, float]) -> float:
    where = along.nearest(np.array([point]), 0.0, along.length)
    return float(np.linalg.norm(along.places(where)[0] - point))


def _place(
    along: Along, closed: bool, position: Position, around_deg: float | None, near: tuple[float, float] | None
) -> float:
    if near is not None:
        return nearest_on(along, near)
    if around_deg is None and not closed:
        return SHARES[position] * along.length
    return _towards(along, math.radians(around_deg or 0.0))


def nearest_on(along: Along, point: tuple[float, float]) -> float:
    """How far from its start a line lies nearest to a place, in mm."""
    tried = np.linspace(0.0, along.length, LOOKED_AT)
    best = tried[np.linalg.norm(along.places(tried) - point, axis=1).argmin()]
    return float(along.nearest(np.array([point]), best - 2 * tried[1], best + 2 * tried[1])[0])


def _towards(along: Along, angle: float) -> float:
    """The farthest place in a direction from the middle of the line's box; where it has none there, the place that lies
    farthest that way.
    """
    box = bounds(along.path)
    assert box is not None
    centre = np.array([(box[0] + box[2]) / 2, (box[1] + box[3]) / 2])
    way, across = np.array([math.sin(angle), -math.cos(angle)]), np.array([math.cos(angle), math.sin(angle)])
    tried = np.linspace(0.0, along.length, LOOKED_AT + 1)
    seen = along.places(tried) - centre
    off, ahead = seen @ across, seen @ way
    crossing = np.flatnonzero((np.sign(off[:-1]) != np.sign(off[1:])) & (np.maximum(ahead[:-1], ahead[1:]) > 0))
    if not len(crossing):
        return float(tried[int(ahead.argmax())])
    index = int(crossing[np.maximum(ahead[crossing], ahead[crossing + 1]).argmax()])
    low, high = float(tried[index]), float(tried[index + 1])
    for _ in range(50):
        middle = (low + high) / 2
        value = float((along.places(np.array([middle]))[0] - centre) @ across)
        if (value > 0) == (off[index] > 0 if off[index] else off[index + 1] < 0):
            low = middle
        else:
            high = middle
    return (low + high) / 2


def _runs_right(along: Along, at_mm: float) -> bool:
    """Whether a line runs to the right at a place; an upright one, whether it runs up."""
    found = along.at(min(max(at_mm, 0.0), along.length))
    angle = found[2] if found else 0.0
    return math.cos(angle) > 1e-9 or (abs(math.cos(angle)) <= 1e-9 and math.sin(angle) < 0)


def on_way(lettering: Lettering, way: Way, position: Position, lift_mm: float, source: str, stand: Stand) -> Lettering:
    """The text on a line: starting, centred or ending at its place there, lifted off it to the side of the letters'
    tops. Lengths of the sheet become those of the text's own axes, which its placement may scale or skew.
    """
    into, m = lettering.placement.inverse(), lettering.placement
    own = way.path.transformed(into)
    scale = math.sqrt(abs(m.xx * m.yy - m.xy * m.yx)) or 1.0
    place = into.transformPoint(tuple(Along.of(way.path).places(np.array([way.at_mm]))[0]))
    # The same place; at the end of a line, where it may lie beyond, by the length alone.
    at = nearest_on(Along.of(own), place) if not _keeps_angles(m) else way.at_mm / scale
    guide = Guide(own, offset_mm=at, source=source, stand=stand)
    lift = lift_mm / scale
    runs = [replace(run, at=(None, None), shift=(0.0, 0.0), each=None, baseline_mm=lift) for run in lettering.runs]
    runs[0] = replace(runs[0], at=(0.0, 0.0))
    return replace(
        lettering,
        runs=tuple(runs),
        guide=guide,
        anchor=ANCHORS[position],
        drawn=(),
        length_mm=None,
        vertical=False,
        upright=False,
    )


def _keeps_angles(m: Transform) -> bool:
    """Whether a placement neither skews nor stretches."""
    uneven = abs(m.xx * m.yx + m.xy * m.yy) + abs(m.xx**2 + m.xy**2 - m.yx**2 - m.yy**2)
    return bool(uneven < EVEN * (m.xx**2 + m.xy**2))


def off_guide(lettering: Lettering, at: tuple[float, float]) -> Lettering:
    """The text on a straight line again, its anchor at a place in its own axes."""
    runs = [replace(run, at=(None, None), baseline_mm=0.0) for run in lettering.runs]
    runs[0] = replace(runs[0], at=at)
    return replace(lettering, runs=tuple(runs), guide=None, drawn=(), vertical=False, upright=False)


def in_column(lettering: Lettering, at: tuple[float, float], upright: bool) -> Lettering:
    """The text down the page from a place in its own axes, turned by a quarter or stacked upright."""
    straight = off_guide(lettering, at)
    return replace(straight, vertical=True, upright=upright, anchor="start", length_mm=None)
