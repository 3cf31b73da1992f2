"""Rails: the lines that the boundary of an offset or a stroke can run along, each in its exact form.

A rail beside a segment is the segment moved along its normal; around a corner it is an arc or the straight lines of a
mitre or bevel; at an open end, a cap. All rails have a parameter s from 0 to 1. Normals point to the right of the way
as seen, so that positive distances lie outside a ring that runs counter-clockwise as seen.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np

from unkelt.geometry.flatten import piece_counts
from unkelt.geometry.measure import derivative, end_tangents, evaluate
from unkelt.geometry.path import LINE, Floats, Ints, Path

Join = Literal["round", "miter", "bevel"]
Cap = Literal["butt", "round", "square"]

SMOOTH_RAD = 1e-6
"""A turn below this is rounding: there is no corner to join."""

JOINT_MM = 5e-3
"""Rails whose ends lie this near are joined without one: the gap runs along the line, so that closing it moves nothing."""


class Rail(Protocol):
    """`true` says whether all of it lies at the offset's distance from the source: mitres, bevels and flat caps don't."""

    @property
    def true(self) -> bool: ...

    def at(self, s: Floats) -> Floats:
        """Points (k, 2) at parameters (k,)."""

    def slope(self, s: Floats) -> Floats:
        """Derivatives (k, 2) by the parameter."""

    def samples(self, _chord_mm: float) -> Floats:
        """Parameters (k,) from 0 to 1 between which the rail strays from its chord by no more than `_chord_mm`."""


@dataclass(frozen=True, slots=True)
class Straight:
    """A straight rail from `start` to `end`."""

    start: Floats
    end: Floats
    true: bool = True

    def at(self, s: Floats) -> Floats:
        return self.start + s[:, None] * (self.end - self.start)

    def slope(self, s: Floats) -> Floats:
        return np.broadcast_to(self.end - self.start, (len(s), 2))

    def samples(self, _chord_mm: float) -> Floats:
        return np.array([0.0, 1.0])


@dataclass(frozen=True, slots=True)
class Arc:
    """A circular rail around `centre`, through `sweep` radians from `angle`."""

    centre: Floats
    radius: float
    angle: float
    sweep: float
    true: bool = True

    def at(self, s: Floats) -> Floats:
        a = self.angle + s * self.sweep
        return self.centre + self.radius * np.stack([np.cos(a), np.sin(a)], axis=1)

    def slope(self, s: Floats) -> Floats:
        a = self.angle + s * self.sweep
        return self.radius * self.sweep * np.stack([-np.sin(a), np.cos(a)], axis=1)

    def samples(self, _chord_mm: float) -> Floats:
        step = math.sqrt(8 * _chord_mm / self.radius)
        return np.linspace(0, 1, max(2, math.ceil(abs(self.sweep) / step)) + 1)


@dataclass(frozen=True, slots=True)
class Beside:
    """A stretch t0 … t1 of a cubic (4, 2), moved by `distance` along its normal: P + d N, with slope P' (1 - d κ)."""

    cubic: Floats
    distance: float
    t0: float
    t1: float
    steps: int
    true: bool = True

    def _t(self, s: Floats) -> Floats:
        # A handle that lies on its node leaves no tangent there; a hair further there is one.
        return np.clip(self.t0 + s * (self.t1 - self.t0), 1e-7, 1 - 1e-7)

    def at(self, s: Floats) -> Floats:
        t = self._t(s)
        return evaluate(self.cubic[None], (self.t0 + s * (self.t1 - self.t0))[None])[0] + self.distance * normals(
            derivative(self.cubic[None], t[None])[0]
        )

    def slope(self, s: Floats) -> Floats:
        t = self._t(s)
        speed = derivative(self.cubic[None], t[None])[0]
        return speed * (1 - self.distance * curvatures(self.cubic, t))[:, None] * (self.t1 - self.t0)

    def samples(self, _chord_mm: float) -> Floats:
        return np.linspace(0, 1, max(4, math.ceil(self.steps * (self.t1 - self.t0))) + 1)


def normals(directions: Floats) -> Floats:
    """Unit vectors to the right, as seen, of directions (…, 2)."""
    length = np.maximum(np.linalg.norm(directions, axis=-1, keepdims=True), 1e-300)
    return np.stack([-directions[..., 1], directions[..., 0]], axis=-1) / length


def curvatures(cubic: Floats, t: Floats) -> Floats:
    """(k,) signed curvature, positive where the curve turns to the right as seen: x'y'' - y'x'' over |P'|³."""
    d1 = derivative(cubic[None], t[None])[0]
    second = np.diff(cubic, n=2, axis=0)
    d2 = 6 * ((1 - t)[:, None] * second[0] + t[:, None] * second[1])
    cross = d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]
    return cross / np.maximum(np.linalg.norm(d1, axis=1) ** 3, 1e-300)


def turn_counts(path: Path, distance_mm: float, chord_mm: float) -> Ints:
    """(n,) steps for each segment so that neither it nor what lies `distance_mm` beside it strays from its chords.

    A chord over an angle α of radius ρ strays by ρ α²/8; the turning of the handles bounds the turning of the curve.
    """
    legs = np.diff(path.cubics(), axis=1)
    angle = np.arctan2(legs[:, :, 1], legs[:, :, 0])
    turn = np.abs((np.diff(angle, axis=1) + np.pi) % (2 * np.pi) - np.pi).sum(axis=1)
    steps = np.ceil(turn / math.sqrt(8 * chord_mm / max(distance_mm, chord_mm))).astype(np.intp)
    counts = piece_counts(path, chord_mm) + np.minimum(steps, 2000)
    return np.where(path.degrees == LINE, 1, counts)


def segment_rails(path: Path, distance_mm: float, counts: Ints) -> Iterator[Rail]:
    """The rail beside each segment; of one that turns more tightly than the distance, what comes before and after."""
    cubics = path.cubics()
    for index, cubic in enumerate(cubics):
        if path.degrees[index] == LINE:
            shift = distance_mm * normals(cubic[3] - cubic[0])
            if (cubic[3] != cubic[0]).any():
                yield Straight(cubic[0] + shift, cubic[3] + shift)
            continue
        cuts = [0.0, *_turning_back(cubic, distance_mm), 1.0]
        for t0, t1 in itertools.pairwise(cuts):
            # Where the rail runs backwards all of it lies nearer to the source than the distance: no edge follows it.
            if distance_mm * curvatures(cubic, np.array([(t0 + t1) / 2]))[0] < 1:
                yield Beside(cubic, distance_mm, t0, t1, int(counts[index]))


def _turning_back(cubic: Floats, distance: float) -> list[float]:
    """Parameters where 1 - d κ changes its sign, by bisection between 64 samples."""
    t = np.linspace(1e-6, 1 - 1e-6, 65)
    sign = 1 - distance * curvatures(cubic, t)
    low = np.flatnonzero(sign[:-1] * sign[1:] < 0)
    if not len(low):
        return []
    a, b, forward = t[low], t[low + 1], sign[low] > 0
    for _ in range(40):
        middle = (a + b) / 2
        same = (1 - distance * curvatures(cubic, middle) > 0) == forward
        a, b = np.where(same, middle, a), np.where(same, b, middle)
    return [float(value) for value in a if 1e-5 < value < 1 - 1e-5]


@dataclass(frozen=True, slots=True)
class Corner:
    """A node where two segments meet at an angle: `turn` radians, positive to the right as seen."""

    node: Floats
    into: Floats
    out_of: Floats
    turn: float

    def kite(self, distance: float, limit: float) -> Floats | None:
        """The corners (4, 2) of what a mitre adds: node, side, tip, side. None for an inner side or beyond the limit.

        The mitre's length over the stroke's width is 1 / sin(θ/2) of the angle θ between the sides (SVG 1.1, 11.4).
        """
        if self.turn * distance >= -JOINT_MM or 1 / max(math.cos(self.turn / 2), 1e-12) > limit:
            return None
        a, b = normals(self.into), normals(self.out_of)
        tip = self.node + distance * (a + b) / (1 + float(a @ b))
        return np.stack([self.node, self.node + distance * a, tip, self.node + distance * b])

    def bevelled(self, distance: float, join: Join, limit: float) -> bool:
        """Whether the join leaves out a part of what lies within the distance of the node."""
        outer = self.turn * distance < -JOINT_MM
        return outer and join != "round" and (join == "bevel" or self.kite(distance, limit) is None)

    def pie(self, radius: float, quarter_steps: int) -> Floats:
        """The vertices (v, 2) of the sector that a round join fills."""
        start = -math.copysign(radius, self.turn) * normals(self.into)
        steps = max(2, math.ceil(4 * quarter_steps * abs(self.turn) / (2 * math.pi)))
        angle = math.atan2(start[1], start[0]) + self.turn * np.linspace(0, 1, steps + 1)
        return np.concatenate([[self.node], self.node + radius * np.stack([np.cos(angle), np.sin(angle)], axis=1)])

    def rails(self, distance: float, join: Join, limit: float) -> Iterator[Rail]:
        """The rails around the outer side of the corner. On its inner side, the ends of the two sides' bands, which are
        to be seen where a side is shorter than the distance.
        """
        a, b = normals(self.into), normals(self.out_of)
        if self.turn * distance > JOINT_MM:
            yield Straight(self.node, self.node + distance * a, False)
            yield Straight(self.node, self.node + distance * b, False)
        if self.turn * distance >= -JOINT_MM:
            return
        kite = self.kite(distance, limit) if join == "miter" else None
        if kite is not None:
            yield Straight(kite[1], kite[2], False)
            yield Straight(kite[2], kite[3], False)
        elif join == "round":
            start = distance * a
            yield Arc(self.node, abs(distance), math.atan2(start[1], start[0]), self.turn)
        else:
            yield Straight(self.node + distance * a, self.node + distance * b, False)


def corners(path: Path) -> list[Corner]:
    """All nodes of one subpath at which it turns; for an open one, all but its ends."""
    start, end = end_tangents(path)
    drawn = np.flatnonzero(start.any(axis=1))
    if not len(drawn):
        return []
    start, end, nodes = start[drawn], end[drawn], path.points[drawn, 0]
    result = []
    for index in range(0 if path.closed[0] else 1, len(drawn)):
        into, out_of = end[index - 1], start[index]
        turn = math.atan2(into[0] * out_of[1] - into[1] * out_of[0], float(into @ out_of))
        if abs(turn) > SMOOTH_RAD:
            result.append(Corner(nodes[index], into, out_of, turn))
    return result


def cap_rails(node: Floats, outward: Floats, half_width: float, cap: Cap) -> Iterator[Rail]:
    """The rails around an open end; `outward` is the unit direction in which the path would go on."""
    side = half_width * normals(outward)
    if cap == "round":
        yield Arc(node, half_width, math.atan2(side[1], side[0]), -math.pi)
        return
    if cap == "butt":
        yield Straight(node + side, node - side, False)
        return
    ahead = node + half_width * outward
    yield Straight(node + side, ahead + side, False)
    yield Straight(ahead + side, ahead - side, False)
    yield Straight(ahead - side, node - side, False)
