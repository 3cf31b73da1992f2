"""Rails: the lines that the boundary of an offset or a stroke can run along, each in its exact form.

A rail beside a segment is the segment moved along its normal; around a corner it is an arc or the straight lines of a
mitre or bevel; at an open end, a cap. All rails have a parameter s from 0 to 1. Normals point to the right of the way
as seen, so that positive distances lie outside a ring that runs counter-clockwise as seen.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from unkelt.geometry.flatten import piece_counts
from unkelt.geometry.measure import derivative, end_tangents, points_at
from unkelt.geometry.path import LINE, Floats, Ints, Path, ranges

Join = Literal["round", "miter", "bevel"]
Cap = Literal["butt", "round", "square"]

SMOOTH_RAD = 1e-6
"""A turn below this is rounding: there is no corner to join."""

JOINT_MM = 5e-3
"""Rails whose ends lie this near are joined without one: the gap runs along the line, so that closing it moves nothing.
"""


@dataclass(frozen=True, slots=True)
class Straight:
    """A straight rail from `start` to `end`. `true` says of every rail whether all of it lies at the offset's distance
    from the source: mitres, bevels and flat caps don't.
    """

    start: Floats
    end: Floats
    true: bool = True


@dataclass(frozen=True, slots=True)
class Arc:
    """A circular rail around `centre`, through `sweep` radians from `angle`."""

    centre: Floats
    radius: float
    angle: float
    sweep: float
    true: bool = True


@dataclass(frozen=True, slots=True)
class Beside:
    """A stretch t0 … t1 of a cubic (4, 2), moved by `distance` along its normal: P + d N, with slope P' (1 - d κ)."""

    cubic: Floats
    distance: float
    t0: float
    t1: float
    steps: int
    true: bool = True


Rail = Straight | Arc | Beside


class Rails:
    """Many rails, asked about many places at once: `which` (k,) are their numbers, `s` (k,) the parameters on them."""

    def __init__(self, rails: Sequence[Rail]) -> None:
        self.rails = rails
        self._straight = _Table(rails, Straight)
        self._arc = _Table(rails, Arc)
        self._beside = _Table(rails, Beside)

    def __getitem__(self, number: int) -> Rail:
        return self.rails[number]

    def at(self, which: Ints, s: Floats) -> Floats:
        """Points (k, 2)."""
        result = np.empty((len(which), 2))
        for rows, start, end in self._straight.of(which, "start", "end"):
            result[rows] = start + s[rows, None] * (end - start)
        for rows, centre, radius, angle, sweep in self._arc.of(which, "centre", "radius", "angle", "sweep"):
            a = angle + s[rows] * sweep
            result[rows] = centre + radius[:, None] * np.stack([np.cos(a), np.sin(a)], axis=1)
        for rows, cubic, distance, t0, t1 in self._beside.of(which, "cubic", "distance", "t0", "t1"):
            t = t0 + s[rows] * (t1 - t0)
            side = normals(derivative(cubic, _inside(t)[:, None])[:, 0])
            result[rows] = points_at(cubic, t[:, None])[:, 0] + distance[:, None] * side
        return result

    def slope(self, which: Ints, s: Floats) -> Floats:
        """Derivatives (k, 2) by the parameter."""
        result = np.empty((len(which), 2))
        for rows, start, end in self._straight.of(which, "start", "end"):
            result[rows] = end - start
        for rows, radius, angle, sweep in self._arc.of(which, "radius", "angle", "sweep"):
            a = angle + s[rows] * sweep
            result[rows] = (radius * sweep)[:, None] * np.stack([-np.sin(a), np.cos(a)], axis=1)
        for rows, cubic, distance, t0, t1 in self._beside.of(which, "cubic", "distance", "t0", "t1"):
            t = _inside(t0 + s[rows] * (t1 - t0))[:, None]
            slower = (1 - distance * curvatures(cubic, t)[:, 0]) * (t1 - t0)
            result[rows] = derivative(cubic, t)[:, 0] * slower[:, None]
        return result

    def counts(self, chord_mm: float) -> Ints:
        """(n,) how many steps each rail takes so that it strays from its chords by no more than `chord_mm`."""
        result = np.ones(len(self.rails), np.intp)
        every = np.arange(len(self.rails))
        for rows, radius, sweep in self._arc.of(every, "radius", "sweep"):
            result[rows] = np.maximum(2, np.ceil(np.abs(sweep) / np.sqrt(8 * chord_mm / radius)))
        for rows, steps, t0, t1 in self._beside.of(every, "steps", "t0", "t1"):
            result[rows] = np.maximum(4, np.ceil(steps * (t1 - t0)))
        return result

    def sampled(self, chord_mm: float) -> tuple[Floats, Floats, Ints]:
        """Points (k, 2) along all rails, one after another, with their parameters (k,) and whose they are (k,)."""
        counts = self.counts(chord_mm)
        which, s = ragged(counts)
        return self.at(which, s), s, which


class _Table:
    """The rails of one kind, each of their values in an array."""

    def __init__(self, rails: Sequence[Rail], kind: type[Rail]) -> None:
        own = [number for number, rail in enumerate(rails) if isinstance(rail, kind)]
        self._row = np.full(len(rails), -1)
        self._row[own] = np.arange(len(own))
        self._rails = [rails[number] for number in own]
        self._values: dict[str, Floats] = {}

    def of(self, which: Ints, *names: str) -> Iterator[list[Any]]:
        """Once: which of the places asked about lie on rails of this kind, and the values of their rails; never where
        none do.
        """
        row = self._row[which]
        rows = np.flatnonzero(row >= 0)
        if len(rows):
            yield [rows, *(self._value(name)[row[rows]] for name in names)]

    def _value(self, name: str) -> Floats:
        if name not in self._values:
            self._values[name] = np.array([getattr(rail, name) for rail in self._rails])
        return self._values[name]


def ragged(counts: Ints) -> tuple[Ints, Floats]:
    """For each of n things, parameters from 0 to 1 in so many steps (n,): whose each is (k,), and the parameter
    (k,).
    """
    which = np.repeat(np.arange(len(counts)), counts + 1)
    return which, ranges(np.zeros(len(counts), np.intp), counts + 1) / counts[which]


def _inside(t: Floats) -> Floats:
    """A handle that lies on its node leaves no tangent there; a hair further there is one."""
    return np.clip(t, 1e-7, 1 - 1e-7)


def normals(directions: Floats) -> Floats:
    """Unit vectors to the right, as seen, of directions (…, 2)."""
    x, y = directions[..., 0], directions[..., 1]
    found = np.empty(directions.shape)  # asked for one direction at a time, where stacking takes longest
    found[..., 0], found[..., 1] = -y, x
    return found / np.maximum(np.hypot(x, y), 1e-300)[..., None]


def curvatures(cubics: Floats, t: Floats) -> Floats:
    """Signed curvature of cubics (n, 4, 2) at parameters (n, k): (n, k), positive where the curve turns to the right as
    seen, x'y'' - y'x'' over |P'|³.
    """
    d1 = derivative(cubics, t)
    second = np.diff(cubics, n=2, axis=1)
    d2 = 6 * ((1 - t)[..., None] * second[:, :1] + t[..., None] * second[:, 1:])
    cross = d1[..., 0] * d2[..., 1] - d1[..., 1] * d2[..., 0]
    return np.asarray(cross / np.maximum(np.linalg.norm(d1, axis=-1) ** 3, 1e-300))


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


def segment_rails(path: Path, distance_mm: float, counts: Ints) -> list[Straight | Beside]:
    """The rail beside each segment; of one that turns more tightly than the distance, what comes before and after."""
    cubics = path.cubics()
    chords = cubics[:, 3] - cubics[:, 0]
    shifts = distance_mm * normals(chords)
    cuts = _turning_back(cubics, distance_mm)
    parts: list[tuple[int, float, float]] = []
    for index, degree in enumerate(path.degrees.tolist()):
        parts += (
            [(index, *ends) for ends in itertools.pairwise([0.0, *cuts.get(index, ()), 1.0])]
            if degree != LINE
            else [(index, 0.0, 1.0)]
        )
    which = np.array([part[0] for part in parts], dtype=np.intp)
    middle = np.array([(t0 + t1) / 2 for _, t0, t1 in parts]).reshape(-1, 1)
    # Where the rail runs backwards all of it lies nearer to the source than the distance: no edge follows it.
    forward = distance_mm * curvatures(cubics[which], middle)[:, 0] < 1
    rails: list[Straight | Beside] = []
    for (index, t0, t1), ahead in zip(parts, forward.tolist(), strict=True):
        if path.degrees[index] == LINE:
            if chords[index].any():
                rails.append(Straight(cubics[index, 0] + shifts[index], cubics[index, 3] + shifts[index]))
        elif ahead:
            rails.append(Beside(cubics[index], distance_mm, t0, t1, int(counts[index])))
    return rails


def _turning_back(cubics: Floats, distance: float) -> dict[int, list[float]]:
    """Parameters where 1 - d κ changes its sign, of the cubics that have such, by bisection between 64 samples."""
    t = np.linspace(1e-6, 1 - 1e-6, 65)
    sign = 1 - distance * curvatures(cubics, np.broadcast_to(t, (len(cubics), len(t))))
    index, low = np.nonzero(sign[:, :-1] * sign[:, 1:] < 0)
    if not len(index):
        return {}
    a, b, forward = t[low], t[low + 1], sign[index, low] > 0
    for _ in range(40):
        middle = (a + b) / 2
        same = (1 - distance * curvatures(cubics[index], middle[:, None])[:, 0] > 0) == forward
        a, b = np.where(same, middle, a), np.where(same, b, middle)
    found: dict[int, list[float]] = {}
    for each, value in zip(index.tolist(), a.tolist(), strict=True):
        if 1e-5 < value < 1 - 1e-5:
            found.setdefault(each, []).append(value)
    return found


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
