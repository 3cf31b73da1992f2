"""Bridges: straight strips that hold what would fall out. Where one can lie, and which of these places are best.

A strip runs from one edge to the nearest place of another, through what lies between, and reaches into both by as much
as their edges curve under it. It stands square to the edge, away from corners, where what it joins is at least as thick
as it is wide, and touches nothing else.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.path import Floats, Path, polygon

SLANT = math.cos(math.radians(35))
"""How much a strip may lean against the edge it starts from."""

CORNER_DEG = 30.0
"""Where an edge turns by more than this, there is a corner."""

REACHES = (0.02, 0.1, 0.25, 0.5)
"""Shares of the width that a strip reaches into what it joins, tried in turn."""

APART = 2.0
"""Multiple of their width by which the middles of two strips lie apart at least."""

STEPS = 240
"""So many places are tried along an edge, at most."""

CLOSE = 0.02
"""A strip's ends lie on an edge to this share of its width."""


@dataclass(frozen=True, slots=True)
class Strip:
    """A strip from foot to foot (mm), so wide, and how far it reaches beyond each foot."""

    start: tuple[float, float]
    end: tuple[float, float]
    width_mm: float
    before_mm: float
    after_mm: float

    @property
    def length_mm(self) -> float:
        """From foot to foot."""
        return math.dist(self.start, self.end)

    @property
    def middle(self) -> tuple[float, float]:
        """Half way between its feet."""
        return (self.start[0] + self.end[0]) / 2, (self.start[1] + self.end[1]) / 2

    def corners(self) -> list[tuple[float, float]]:
        """Its four corners, in order."""
        return _corners(np.array(self.start), np.array(self.end), self.width_mm, self.before_mm, self.after_mm)

    def path(self) -> Path:
        """Its outline."""
        return polygon(*self.corners())

    def area(self) -> shapely.Polygon:
        """What it covers."""
        return shapely.Polygon(self.corners())


@dataclass(frozen=True, slots=True)
class Between:
    """What a strip is to join: `loose` to `held`, through `through`; it must keep away from `others`."""

    loose: shapely.Geometry
    held: shapely.Geometry
    through: shapely.Geometry
    others: shapely.Geometry


def strips(between: Between, width_mm: float, count: int, at: tuple[float, float] | None = None) -> list[Strip]:
    """The shortest strips, no more than `count`, spread along the edge of what is loose; fewer, or none, where no more
    places will do.

    With `at`, the one nearest to that place that can be laid at all: a person may want it at a corner.
    """
    feet, ends = _lines(between, width_mm)
    if at is not None:
        middle = (feet + ends) / 2
        order = np.argsort(np.hypot(*(middle - at).T))
        found = (_laid(feet[k], ends[k], between, width_mm, free=True) for k in order[:STEPS].tolist())
        best = next((strip for strip in found if strip is not None), None)
        return [best] if best is not None else []
    order = np.argsort(np.hypot(*(ends - feet).T), kind="stable")
    good: list[tuple[Strip, float]] = []
    edge = _edge(between.loose)
    perimeter = float(edge.length)
    along = shapely.line_locate_point(edge, shapely.points(feet))
    for apart in (perimeter / (count + 0.5), perimeter / (2 * count), 0.0):
        apart, good = max(apart, APART * width_mm), []
        for k in order.tolist():
            if any(_round(along[k], other, perimeter) < apart for _, other in good):
                continue
            strip = _laid(feet[k], ends[k], between, width_mm)
            if strip is not None:
                good.append((strip, float(along[k])))
            if len(good) == count:
                return [each for each, _ in good]
    return [strip for strip, _ in good]


def _round(one: float, other: float, perimeter: float) -> float:
    away = abs(one - other)
    return min(away, perimeter - away)


def _edge(shape: shapely.Geometry) -> shapely.Geometry:
    """The outer edge of its largest part."""
    largest = max(shapely.get_parts(shape), key=shapely.area)
    return shapely.get_exterior_ring(largest)


def _lines(between: Between, width_mm: float) -> tuple[Floats, Floats]:
    """From places along the edge of what is loose to the nearest places of what is held."""
    edge = _edge(between.loose)
    count = int(np.clip(edge.length / (width_mm / 4), 12, STEPS))
    feet = shapely.line_interpolate_point(edge, np.linspace(0, edge.length, count, endpoint=False))
    lines = shapely.get_coordinates(shapely.shortest_line(feet, between.held.boundary)).reshape(-1, 2, 2)
    return lines[:, 0], lines[:, 1]


def _laid(foot: Floats, end: Floats, between: Between, width_mm: float, *, free: bool = False) -> Strip | None:
    """A strip between two places; None where it can't lie there. `free` ones may stand at corners and thin places."""
    length = float(np.hypot(*(end - foot)))
    if length < 1e-9:
        return None
    before = _reach(foot, (foot - end) / length, between.loose, width_mm)
    after = _reach(end, (end - foot) / length, between.held, width_mm)
    if before is None or after is None:
        return None
    strip = Strip(_pair(foot), _pair(end), width_mm, before, after)
    area = strip.area()
    joined = shapely.union_all([between.loose, between.held, between.through])
    if area.difference(joined.buffer(CLOSE * width_mm)).area > 0 or area.distance(between.others) < width_mm / 2:
        return None
    return strip if free or _stands_well(strip, between) else None


def _reach(foot: Floats, way: Floats, into: shapely.Geometry, width_mm: float) -> float | None:
    """How far beyond its foot a strip's whole width lies in what it joins; None where it doesn't by half its width."""
    across = np.array([-way[1], way[0]]) * width_mm / 2
    for share in REACHES:
        middle = foot + way * share * width_mm
        if into.covers(shapely.LineString([middle - across, middle + across])):
            return share * width_mm
    return None


def _stands_well(strip: Strip, between: Between) -> bool:
    """Whether a strip stands square, at no corner, and what it joins is as thick there as it is wide."""
    start, end, width = np.array(strip.start), np.array(strip.end), strip.width_mm
    way = (end - start) / strip.length_mm
    for foot, out, joined in ((start, way, between.loose), (end, -way, between.held)):
        turned = _turns_near(shapely.Point(foot), joined, out, width)
        if turned is None or turned > CORNER_DEG:
            return False
        behind = shapely.Polygon(_corners(foot - out * width * REACHES[-1], foot - out * width, width, 0, 0))
        if not joined.covers(behind):
            return False
    return True


def _turns_near(foot: shapely.Point, shape: shapely.Geometry, out: Floats, width_mm: float) -> float | None:
    """By how many degrees the edge of a shape turns most, at one vertex, under a strip or a quarter of its width beside
    it; None where it leans too much against the strip. Curves turn by little at each of their vertices.
    """
    near = shapely.intersection(shape.boundary, foot.buffer(0.75 * width_mm))
    parts = shapely.get_parts(shapely.line_merge(near) if near.geom_type == "MultiLineString" else near)
    lines = [part for part in parts if part.geom_type == "LineString" and part.distance(foot) < CLOSE * width_mm]
    if not lines:
        return None
    steps = np.diff(shapely.get_coordinates(lines[0]), axis=0)
    chord = shapely.get_coordinates(lines[0])[[0, -1]]
    along = (chord[1] - chord[0]) / max(float(np.hypot(*(chord[1] - chord[0]))), 1e-12)
    if abs(along[0] * out[1] - along[1] * out[0]) < SLANT:
        return None
    angles = np.unwrap(np.arctan2(*steps[np.hypot(*steps.T) > 1e-9].T[::-1]))
    return float(np.degrees(np.abs(np.diff(angles)).max())) if len(angles) > 1 else 0.0


def _corners(start: Floats, end: Floats, width: float, before: float, after: float) -> list[tuple[float, float]]:
    length = float(np.hypot(*(end - start)))
    way = (end - start) / length
    across = np.array([-way[1], way[0]]) * width / 2
    first, last = start - way * before, end + way * after
    return [_pair(each) for each in (first + across, last + across, last - across, first - across)]


def _pair(place: Floats) -> tuple[float, float]:
    return float(place[0]), float(place[1])
