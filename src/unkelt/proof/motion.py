"""The dry run: in which order a machine would cut what was imported, where its head is when, and how long it takes.

Inner rings before what holds them, so that nothing is cut loose from a moved sheet; then always the nearest start. A
head speeds up and slows down evenly (trapezoidal motion: with top speed v and acceleration a, a stretch of length L
takes L/v + v/a where L ≥ v²/a, else 2 √(L/a)) and stops at corners.
"""

from __future__ import annotations

import bisect
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, Protocol

import numpy as np
import scipy
import shapely

from unkelt.geometry.edit.spikes import corner_angles
from unkelt.geometry.flatten import polylines
from unkelt.geometry.path import EMPTY, Floats, Ints, Path, concat
from unkelt.job.machine import Machine
from unkelt.job.ticket import Ticket
from unkelt.proof.imported import Body
from unkelt.proof.raster import Raster, raster_of
from unkelt.proof.tool_head import Ahead, beside
from unkelt.sheet.appearance import Appearance, Operation

Kind = Literal["travel", "pierce", "cut", "score", "engrave", "raster", "lead"]
_KINDS: dict[Operation | None, Kind] = {Operation.SCORE: "score", Operation.ENGRAVE: "engrave"}
"""Whatever else is done with a line, it is cut."""

CORNER = math.radians(150)
"""The head stops where the line leaves less than this angle."""


@dataclass(frozen=True, slots=True)
class Move:
    """A stretch of the head's way: points (p, 2) in mm, from `start_s` to `stop_s`; `body` it belongs to, -1 for
    travel.
    """

    kind: Kind
    points: Floats
    start_s: float
    stop_s: float
    body: int
    head: Floats | Ahead | None = None
    """Where the head runs meanwhile, where that isn't along the points: beside them by half a kerf, or ahead of a
    blade.
    """

    @property
    def way(self) -> Floats:
        """What the head follows."""
        if isinstance(self.head, Ahead):
            return self.head.way
        return self.points if self.head is None else self.head

    @property
    def end(self) -> Floats:
        """Where the head is at its stop."""
        return self.head.ends[1] if isinstance(self.head, Ahead) else self.way[-1]

    def share(self, seconds: float) -> float:
        """How much of it is done at a moment, 0 to 1; its speed is taken as even."""
        span = self.stop_s - self.start_s
        return min(max((seconds - self.start_s) / span, 0.0), 1.0) if span > 0 else 1.0

    @property
    def length_mm(self) -> float:
        """The tangent of its line."""
        return float(np.linalg.norm(np.diff(self.points, axis=0), axis=1).sum())


@dataclass(frozen=True, slots=True)
class DryRun:
    """All moves in order."""

    moves: tuple[Move, ...]
    pinched: tuple[tuple[float, float], ...] = ()
    """Where lines begin that are too narrow for the kerf to run along their inside."""

    @property
    def seconds(self) -> float:
        """Of all moves."""
        return self.moves[-1].stop_s if self.moves else 0.0

    def length_mm(self, *kinds: Kind) -> float:
        """Of all moves of these kinds; what is burnt line by line counts its lines and the steps between them."""
        return sum(move.length_mm for move in self.moves if move.kind in kinds)

    def seconds_of(self, *kinds: Kind) -> float:
        """How long all moves of these kinds take, with the way to each, and its piercing and lead."""
        total = waiting = 0.0
        for move in self.moves:
            took = move.stop_s - move.start_s
            if move.kind in ("travel", "pierce", "lead"):
                waiting += took
                continue
            total += took + waiting if move.kind in kinds else 0.0
            waiting = 0.0
        return total

    def at(self, seconds: float) -> tuple[float, float, int]:
        """Where the head is, in mm, and which move it is on; speeds within a move are taken as even."""
        if not self.moves:
            return 0.0, 0.0, -1
        number = min(bisect.bisect_right(self.moves, seconds, key=lambda move: move.stop_s), len(self.moves) - 1)
        move = self.moves[number]
        steps = np.linalg.norm(np.diff(move.way, axis=0), axis=1)
        run = np.concatenate([[0.0], np.cumsum(steps)])
        x, y = (np.interp(move.share(seconds) * run[-1], run, move.way[:, axis]) for axis in (0, 1))
        return float(x), float(y), number


def trapezoid_s(length_mm: float, speed_mm_s: float, acceleration_mm_s2: float) -> float:
    """How long a stretch takes from standstill to standstill."""
    if length_mm <= 0:
        return 0.0
    if length_mm >= speed_mm_s**2 / acceleration_mm_s2:
        return length_mm / speed_mm_s + speed_mm_s / acceleration_mm_s2
    return 2 * math.sqrt(length_mm / acceleration_mm_s2)


class Device(Protocol):
    """What a real machine's driver would have to be."""

    @property
    def name(self) -> str:
        """What people call it."""

    def run(self, bodies: Sequence[Body], ticket: Ticket) -> DryRun:
        """What it would do with these bodies, timed."""


@dataclass(frozen=True, slots=True)
class StandInDevice:
    """Stands in for a machine: reckons with the figures of the ticket's profile."""

    name: str = "stand-in"

    def run(self, bodies: Sequence[Body], ticket: Ticket) -> DryRun:
        """The moves of a file, by trapezoidal motion."""
        return dry_run(bodies, ticket)


STAND_IN = StandInDevice()


@dataclass(frozen=True, slots=True)
class _Line:
    """A subpath to be followed: its polyline, which of its vertices are a good start (its corners, or its nodes where
    it has none), the lengths between its corners, and whether it is closed.
    """

    points: Floats
    begins: Ints
    stretches: tuple[float, ...]
    nodes: int
    closed: bool
    body: int
    kind: Kind
    hole: bool


def dry_run(bodies: Sequence[Body], ticket: Ticket) -> DryRun:
    """The run of a machine over imported bodies: engraving first, then scoring, then cutting."""
    chord = ticket.tolerance.chord_mm
    machine = ticket.machine
    areas = [number for number, body in enumerate(bodies) if body.fill and _kind(body, ticket) == "engrave"]
    burnt = raster_of([bodies[number] for number in areas], machine, chord)
    followed = [b if burnt is None or n not in areas else replace(b, path=EMPTY) for n, b in enumerate(bodies)]
    lines = _lines(followed, ticket, chord)
    moves: list[Move] = []
    pinched: list[tuple[float, float]] = []
    head, now = np.zeros(2), 0.0
    if burnt is not None:
        moves = _burning(burnt, areas[0], machine)
        head, now = moves[-1].end, moves[-1].stop_s
    for kind in ("engrave", "score", "cut"):
        for line in _ordered([line for line in lines if line.kind == kind], head):
            points = _begun_amid(line.points) if _pierces_beside(line, machine) else _begun_near(line, head)
            way = _way(points, line, machine)
            if way is None:
                pinched.append((float(points[0, 0]), float(points[0, 1])))
            lead = _lead_in(way if isinstance(way, np.ndarray) else points, line, machine)
            start = lead[0] if lead is not None else _start(points, way)
            away = float(np.hypot(*(start - head)))
            if away > 1e-9:
                stop = now + trapezoid_s(away, machine.travel_mm_s, machine.acceleration_mm_s2)
                moves.append(Move("travel", np.stack([head, start]), now, stop, -1))
                now = stop
            moves.append(Move("pierce", np.stack([start, start]), now, now + machine.pierce_s, line.body))
            now += machine.pierce_s
            if lead is not None:
                stop = now + trapezoid_s(machine.lead_mm, machine.speed_mm_s, machine.acceleration_mm_s2)
                moves.append(Move("lead", lead, now, stop, line.body))
                now = stop
            if line.closed and machine.overcut_mm:
                points = np.concatenate([points, _first_stretch(points, machine.overcut_mm)])
                way = _way(points, line, machine)
            took = sum(trapezoid_s(each, machine.speed_mm_s, machine.acceleration_mm_s2) for each in line.stretches)
            stop = now + took + line.nodes * machine.node_s
            moves.append(Move(kind, points, now, stop, line.body, None if way is points else way))
            head, now = moves[-1].end, stop
    return DryRun(tuple(moves), tuple(pinched))


def _kind(body: Body, ticket: Ticket) -> Kind:
    return _KINDS.get(ticket.operation(Appearance(fill=body.fill, stroke=body.stroke)), "cut")


def _burning(raster: Raster, body: int, machine: Machine) -> list[Move]:
    """The way to the first line of an engraving, and all its lines."""
    start = raster.way[0]
    there = trapezoid_s(float(np.hypot(*start)), machine.travel_mm_s, machine.acceleration_mm_s2)
    travel = Move("travel", np.stack([np.zeros(2), start]), 0.0, there, -1)
    return [travel, Move("raster", raster.way, there, there + raster.seconds(machine), body)]


def _start(points: Floats, way: Floats | Ahead | None) -> Floats:
    if isinstance(way, Ahead):
        return way.ends[0]
    return np.asarray((points if way is None else way)[0])


def _way(points: Floats, line: _Line, machine: Machine) -> Floats | Ahead | None:
    """Where the head runs: along the line itself, unless it has a kerf to make up for or a blade to drag."""
    if line.kind == "engrave":
        return points
    if machine.blade_offset_mm:
        return Ahead(points, machine.blade_offset_mm)
    if machine.kerf_mm and line.kind == "cut" and line.closed and len(points) >= 4:
        return beside(points, machine.kerf_mm, line.hole)
    return points


def _lines(bodies: Sequence[Body], ticket: Ticket, chord: float) -> list[_Line]:
    """The subpaths of all bodies that have something done to them. They are flattened in one go."""
    kinds: list[Kind] = []
    owners: list[int] = []
    worked: list[Path] = []
    for number, body in enumerate(bodies):
        operation = ticket.operation(Appearance(fill=body.fill, stroke=body.stroke))
        if operation is not Operation.LEAVE and len(body.path):
            kinds += [_KINDS.get(operation, "cut")] * len(body.path)
            owners += [number] * len(body.path)
            worked.append(body.path)
    whole = concat(worked)
    sharp = corner_angles(whole) < CORNER
    found: list[_Line] = []
    rings: dict[int, list[int]] = {}
    for index, points in enumerate(polylines(whole, chord)):
        a, b = int(whole.starts[index]), int(whole.stops[index])
        nodes, corners = whole.points[a:b, 0], np.flatnonzero(sharp[a:b])
        steps = np.hypot(*np.diff(points, axis=0).T)
        run = np.concatenate([[0.0], np.cumsum(steps)])
        # Nodes are vertices of the polyline, in order.
        good = nodes[corners] if len(corners) else nodes
        near = np.abs(points[None] - good[:, None]).sum(axis=2).argmin(axis=1)
        at = run[near] if len(corners) else np.zeros(0)
        places = np.unique(np.concatenate([[0.0], at, run[-1:]]))
        closed = bool(whole.closed[index])
        rings.setdefault(owners[index], []).append(index)
        found.append(
            _Line(
                points,
                np.unique(near),
                tuple(np.diff(places).tolist()),
                b - a + (not closed),
                closed,
                owners[index],
                kinds[index],
                False,
            )
        )
    for mine in rings.values():
        if len(mine) > 1:
            for index, depth in zip(mine, _depths([found[index] for index in mine]), strict=True):
                found[index] = replace(found[index], hole=depth % 2 == 1)
    return found


def _depths(lines: Sequence[_Line]) -> list[int]:
    """How many rings of its body lie around each line's start."""
    rings = [index for index, line in enumerate(lines) if line.closed and len(line.points) > 3]
    tree = shapely.STRtree([shapely.Polygon(lines[index].points) for index in rings])
    inner, outer = tree.query(shapely.points([line.points[0] for line in lines]), predicate="within")
    depths = np.zeros(len(lines), int)
    others = inner[np.array(rings, int)[outer] != inner]
    np.add.at(depths, others, 1)
    return [int(depth) for depth in depths]


def _ordered(lines: Sequence[_Line], head: Floats) -> list[_Line]:
    """Inner before outer, and among what may come next always the nearest start."""
    shapes = [shapely.Polygon(line.points) if line.closed and len(line.points) > 3 else None for line in lines]
    solid = [index for index, shape in enumerate(shapes) if shape is not None]
    waits: dict[int, set[int]] = {index: set() for index in range(len(lines))}
    if solid:
        areas = np.array([shapes[index] for index in solid], object)
        inside = shapely.points([line.points[0] for line in lines])
        inner, outer = shapely.STRtree(areas).query(inside, predicate="within")
        for i, o in zip(inner.tolist(), outer.tolist(), strict=True):
            holder = solid[o]
            if holder != i and (shapes[i] is None or shapes[i].area < shapes[holder].area):
                waits[holder].add(i)
    holders: dict[int, list[int]] = {}
    for holder, inner_ones in waits.items():
        for inside_one in inner_ones:
            holders.setdefault(inside_one, []).append(holder)
    blocked = [len(waits[index]) for index in range(len(lines))]
    starts = np.array([line.points[0] for line in lines]).reshape(-1, 2)
    ready = _Nearest(starts, [index for index, count in enumerate(blocked) if not count])
    waiting = {index for index, count in enumerate(blocked) if count}
    order, at = [], head
    while ready or waiting:
        if not ready:  # rings that lie in each other in a circle, as copies may: then as they come
            ready.add(min(waiting))
            waiting.discard(min(waiting))
        nearest = ready.take(at)
        order.append(lines[nearest])
        at = lines[nearest].points[-1]
        for holder in holders.get(nearest, ()):
            blocked[holder] -= 1
            if not blocked[holder] and holder in waiting:
                waiting.discard(holder)
                ready.add(holder)
    return order


class _Nearest:
    """Places of which always the nearest is taken out. A tree holds most; what came since it was made is looked
    through.
    """

    LEAST = 32

    def __init__(self, places: Floats, members: Sequence[int]) -> None:
        self._places, self._in, self._late = places, set(members), list[int]()
        self._plant()

    def __bool__(self) -> bool:
        return bool(self._in)

    def _plant(self) -> None:
        self._late = []
        self._held = np.array(sorted(self._in), np.intp)
        self._tree = scipy.spatial.cKDTree(self._places[self._held])

    def _nearest(self, at: Floats, count: int) -> tuple[list[float], list[int]]:
        away, rows = self._tree.query(at[None], k=list(range(1, count + 1)))
        return np.ravel(away).tolist(), np.ravel(rows).tolist()

    def add(self, index: int) -> None:
        self._in.add(index)
        self._late.append(index)

    def take(self, at: Floats) -> int:
        """The nearest member; of several as near, the first."""
        if len(self._in) + self.LEAST < len(self._held) // 2 or len(self._late) > self.LEAST:
            self._plant()
        late = [index for index in self._late if index in self._in]
        away = np.hypot(*(self._places[late] - at).T)
        found = [(float(distance), index) for distance, index in zip(away, late, strict=True)]
        count = 8
        while len(self._held):
            near, row = self._nearest(at, min(count, len(self._held)))
            here = [
                (float(distance), int(self._held[k]))
                for distance, k in zip(near, row, strict=True)
                if int(self._held[k]) in self._in
            ]
            if here or count >= len(self._held):
                found += here
                break
            count *= 4
        nearest = min(found)[1]
        self._in.discard(nearest)
        return nearest


def _begun_near(line: _Line, head: Floats) -> Floats:
    """A closed line begun at its corner (or node) nearest to the head, where a mark shows least; an open one from its
    nearer end.
    """
    points = line.points
    if line.closed:
        nearest = int(line.begins[np.argmin(np.hypot(*(points[line.begins] - head).T))])
        return np.concatenate([points[nearest:-1], points[: nearest + 1]])
    return points[::-1] if np.hypot(*(points[-1] - head)) < np.hypot(*(points[0] - head)) else points


def _pierces_beside(line: _Line, machine: Machine) -> bool:
    return machine.lead_mm > 0 and line.kind == "cut" and line.closed and len(line.points) >= 4


def _begun_amid(points: Floats) -> Floats:
    """A closed line begun in the middle of its longest edge, where a lead has room on either side."""
    longest = int(np.argmax(np.linalg.norm(np.diff(points, axis=0), axis=1)))
    middle = (points[longest] + points[longest + 1]) / 2
    return np.concatenate([middle[None], points[longest + 1 : -1], points[: longest + 1], middle[None]])


def _lead_in(points: Floats, line: _Line, machine: Machine) -> Floats | None:
    """Where plasma pierces and how it comes to the line: from the side that falls away."""
    if not _pierces_beside(line, machine):
        return None
    shape = shapely.Polygon(points)
    way = points[1] - points[0]
    normal = np.array([-way[1], way[0]]) / max(float(np.hypot(*way)), 1e-12)
    inside = points[0] + normal * min(machine.lead_mm * 0.5, 0.01)
    if shape.contains(shapely.Point(inside)) == line.hole:
        start = points[0] + normal * machine.lead_mm
    else:
        start = points[0] - normal * machine.lead_mm
    return np.stack([start, points[0]])


def _first_stretch(points: Floats, length_mm: float) -> Floats:
    run = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    upto = min(length_mm, float(run[-1]))
    end = np.array([np.interp(upto, run, points[:, axis]) for axis in (0, 1)])
    return np.concatenate([points[1:][run[1:] < upto], end[None]])
