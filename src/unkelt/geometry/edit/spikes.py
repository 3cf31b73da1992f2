"""Spikes: corners of material so sharp that they run out to a point no material holds."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.arc_length import Along
from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import end_tangents
from unkelt.geometry.path import LINE, Floats, Path, concat

SHARPEST = 0.2
"""Width over length of a spike: 2 sin(a/2) for a corner of angle a, so 11.5°, which a mitre limit of 10 still lets
stand.
"""

TIP_MM = 1.0
"""How far from its point a corner must still be as narrow as that, to be a spike and not the end of a bent stroke."""

CANDIDATE = 0.5
"""Only nodes whose tangents leave less than this angle (radians) are looked at."""


@dataclass(frozen=True, slots=True)
class Spike:
    """Where the point is (mm), on which subpath and how far along it (mm), and the corner's angle in degrees."""

    x: float
    y: float
    subpath: int
    along_mm: float
    angle: float


def spikes(path: Path, area: shapely.Geometry, tip_mm: float = TIP_MM) -> list[Spike]:
    """All spikes of closed subpaths that stick out of the filled `area`; notches that run into it are none."""
    found = []
    angles = corner_angles(path)
    for index, (first, stop) in enumerate(zip(path.starts.tolist(), path.stops.tolist(), strict=True)):
        angle = angles[first:stop]
        nodes = np.flatnonzero(angle < CANDIDATE)
        if not len(nodes):
            continue
        subpath = path.subpath(index)
        reach = _Reach(subpath)
        for node in nodes.tolist():
            tip, at = subpath.points[node, 0], float(reach.at_node[node])
            if 2 * tip_mm >= reach.total:
                continue
            a, b = reach.place(at - tip_mm), reach.place(at + tip_mm)
            if np.hypot(*(a - b)) < SHARPEST * tip_mm and area.covers(shapely.Point((tip + (a + b)) / 3)):
                found.append(Spike(float(tip[0]), float(tip[1]), index, at, float(np.degrees(angle[node]))))
    return found


def corner_angles(path: Path) -> Floats:
    """(n,) the angle in radians that the tangents leave between them at each segment's start: π where it is smooth, 0
    at a point; infinite at an end of an open subpath and where there is no tangent.
    """
    if not len(path):
        return np.zeros(0)
    start, end = end_tangents(path)
    before = np.roll(end, 1, axis=0)
    before[path.starts] = end[path.stops - 1]
    angle = np.pi - np.abs(np.arctan2(_cross(before, start), (before * start).sum(axis=1)))
    angle[(np.abs(before).sum(axis=1) == 0) | (np.abs(start).sum(axis=1) == 0)] = np.inf
    angle[path.starts[~path.closed | (path.counts < 2)]] = np.inf
    return np.asarray(angle)


def blunted(path: Path, marked: list[Spike], width_mm: float) -> tuple[Path, float]:
    """The path with each spike cut straight off where it is `width_mm` wide, and the longest piece cut off, in mm.

    What isn't cut stays, to the last bit but for the two segments that are shortened.
    """
    parts, longest = [], 0.0
    for index, subpath in enumerate(path.subpaths()):
        mine = [spike for spike in marked if spike.subpath == index]
        if not mine:
            parts.append(subpath)
            continue
        reach, along = _Reach(subpath), Along.of(subpath)
        cuts = []
        for spike in mine:
            back = _width_reached(reach, spike.along_mm, width_mm)
            cuts.append((spike.along_mm - back, spike.along_mm + back))
            longest = max(longest, back)
        parts.append(_without(along, sorted(cuts)))
    return concat(parts), longest


def _width_reached(reach: _Reach, at_mm: float, width_mm: float) -> float:
    """The distance from the tip at which both sides are `width_mm` apart; no more than a quarter of the ring."""
    low, high = 0.0, reach.total / 4
    for _ in range(50):
        middle = (low + high) / 2
        wide = np.hypot(*(reach.place(at_mm - middle) - reach.place(at_mm + middle)))
        low, high = (middle, high) if wide < width_mm else (low, middle)
    return (low + high) / 2


def _without(along: Along, cuts: list[tuple[float, float]]) -> Path:
    """The closed subpath with stretches taken out, each bridged by a line."""
    total, kept = along.length, []
    for (_, start), (stop, _) in zip(cuts, [*cuts[1:], (cuts[0][0] + total, 0.0)], strict=True):
        if stop - start <= 0:
            continue
        pieces = [along.stretch(start, stop)] if stop <= total else []
        if not pieces:  # over the start node
            pieces = (
                [along.stretch(a, b) for a, b in ((start, total), (0.0, stop - total)) if b > a]
                if start < total
                else [along.stretch(start - total, stop - total)]
            )
        kept += pieces
    rows: list[Floats] = []
    degrees: list[int] = []
    for piece in kept:
        if rows and (rows[-1][-1, 3] != piece.points[0, 0]).any():
            _bridge(rows, degrees, rows[-1][-1, 3], piece.points[0, 0])
        rows.append(piece.points)
        degrees += piece.degrees.tolist()
    _bridge(rows, degrees, rows[-1][-1, 3], rows[0][0, 0])
    return Path(np.concatenate(rows), np.array(degrees, np.uint8), np.zeros(1, np.intp), np.array([True]))


def _bridge(rows: list[Floats], degrees: list[int], start: Floats, end: Floats) -> None:
    rows.append(np.stack([start, start, end, end])[None])
    degrees.append(LINE)


class _Reach:
    """A closed subpath as a fine polyline, measured along it, round and round."""

    def __init__(self, subpath: Path) -> None:
        vertices, _ = flatten(subpath, 1e-3)
        steps = np.linalg.norm(np.diff(vertices, axis=0), axis=1)
        self._run = np.concatenate([[0.0], np.cumsum(steps)])
        self._vertices = vertices
        self.total = float(self._run[-1])
        ends = np.cumsum(Along.of(subpath).lengths)
        self.at_node = np.concatenate([[0.0], ends[:-1]]) * (self.total / max(float(ends[-1]), 1e-300))

    def place(self, along_mm: float) -> Floats:
        at = along_mm % self.total
        return np.array([np.interp(at, self._run, self._vertices[:, axis]) for axis in (0, 1)])


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])
