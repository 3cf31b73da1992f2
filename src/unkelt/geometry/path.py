"""Paths as arrays: the one shape that everything else in this room reads and returns.

A path of n segments in s subpaths holds

    points   (n, 4, 2) float64, mm: start, handle, handle, end of each segment, y down
    degrees  (n,) uint8: LINE, QUAD or CUBIC
    starts   (s,) index of each subpath's first segment
    closed   (s,) whether the subpath is closed

A line keeps its own ends in the two handle places and a quadratic its one handle twice, so that row 0 and row 3 are
always the nodes and all four rows always lie in the segment's control box. `cubics()` gives the exact cubic form.
A closed subpath ends exactly where it starts: whoever builds one adds the closing line where there is a gap.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import TypeVar, cast

import numpy as np
from fontTools.misc.transform import Transform
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
Geometries = NDArray[np.object_]
"""Areas, rings or lines as the second engine knows them."""

LINE, QUAD, CUBIC = 1, 2, 3

R = TypeVar("R")


@dataclass(frozen=True, slots=True, eq=False)
class Path:
    """Immutable; two paths are equal when all their numbers are, and such have the same hash. `same_shape` allows for
    noise. Nothing is kept with a path but what its numbers alone say (`once`).
    """

    points: Floats
    degrees: NDArray[np.uint8]
    starts: Ints
    closed: Bools
    _found: dict[Callable[[Path], object], object] = field(default_factory=dict, init=False, repr=False)
    _part: tuple[Path, int, int] | None = field(default=None, init=False, repr=False)
    """The path that this one was split from, its first subpath there, and the one after its last."""

    def __post_init__(self) -> None:
        self.points.setflags(write=False)
        self.degrees.setflags(write=False)
        self.starts.setflags(write=False)
        self.closed.setflags(write=False)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Path) and all(
            np.array_equal(getattr(self, name), getattr(other, name))
            for name in ("points", "degrees", "starts", "closed")
        )

    def __hash__(self) -> int:
        return self.once(_hash)

    def __reduce__(self) -> tuple[type[Path], tuple[Floats, NDArray[np.uint8], Ints, Bools]]:
        return Path, (self.points, self.degrees, self.starts, self.closed)

    def once(self, find: Callable[[Path], R]) -> R:
        """What a function says of this path, worked out when it is first asked for.

        The function must depend on nothing but the path, so that it doesn't matter who asks first, nor in which
        thread: two that ask at once work out the same.
        """
        known = self._found.get(find)
        if known is None:
            known = self._found.setdefault(find, find(self))
        return cast(R, known)

    def __repr__(self) -> str:
        return f"<Path of {len(self)} subpaths, {len(self.points)} segments>"

    def __len__(self) -> int:
        """The number of subpaths."""
        return len(self.starts)

    @property
    def stops(self) -> Ints:
        """(s,) index after each subpath's last segment."""
        return self.once(_stops)

    @property
    def counts(self) -> Ints:
        """(s,) segments in each subpath."""
        return self.stops - self.starts

    def following(self) -> Ints:
        """(n,) the segment after each one in its subpath, round a closed one; -1 at an open end."""
        following = np.arange(1, len(self.points) + 1)
        following[self.stops - 1] = np.where(self.closed, self.starts, -1)
        return following

    @property
    def node_count(self) -> int:
        """On-curve points; an open subpath has one more than it has segments."""
        return len(self.points) + int(np.count_nonzero(~self.closed))

    def subpath(self, index: int) -> Path:
        """One subpath as a path of its own (views, not copies)."""
        if len(self.starts) == 1 and index in (0, -1):
            return self
        a, b = int(self.starts[index]), int(self.stops[index])
        return Path(self.points[a:b], self.degrees[a:b], np.zeros(1, np.intp), self.closed[index : index + 1])

    def subpaths(self) -> Iterator[Path]:
        """Each as a path of its own (views, not copies)."""
        return (self.subpath(index) for index in range(len(self)))

    def select(self, wanted: Sequence[int] | Ints | Bools) -> Path:
        """The named subpaths, in their order."""
        array = np.asarray(wanted)
        chosen = np.flatnonzero(array) if array.dtype == bool else array.astype(np.intp)
        counts = self.counts[chosen] if len(chosen) else chosen
        segments = ranges(self.starts[chosen], counts)
        return Path(self.points[segments], self.degrees[segments], np.cumsum(counts) - counts, self.closed[chosen])

    def split(self, counts: Sequence[int] | Ints) -> list[Path]:
        """So many subpaths as the first path, so many as the next (views, not copies)."""
        sizes = np.asarray(counts, np.intp)
        stops, edges = np.cumsum(sizes), np.append(self.starts, len(self.points))
        starts = self.starts[: sizes.sum()] - np.repeat(edges[stops - sizes], sizes)
        result, a, first = [], 0, 0
        for b, last in zip(stops.tolist(), edges[stops].tolist(), strict=True):
            part = Path(self.points[first:last], self.degrees[first:last], starts[a:b], self.closed[a:b])
            object.__setattr__(part, "_part", (self, a, b))
            result.append(part)
            a, first = b, last
        return result

    def end_gaps_mm(self) -> Floats:
        """(s,) distance from each subpath's last node to its first."""
        if not len(self):
            return np.zeros(0)
        return np.linalg.norm(self.points[self.stops - 1, 3] - self.points[self.starts, 0], axis=1)

    def cubics(self) -> Floats:
        """(n, 4, 2): every segment as the cubic that is exactly it.

        Lines are cut in thirds; quadratics are raised, P0 + 2/3 (P1 - P0) and P2 + 2/3 (P1 - P2).
        """
        return raised(self.points, self.degrees)

    def transformed(self, matrix: Transform) -> Path:
        """Exact: Bézier segments are closed under affine maps."""
        linear, shift = _as_arrays(matrix)
        points = self.points.reshape(-1, 2).dot(linear)
        points += shift
        return Path(points.reshape(-1, 4, 2), self.degrees, self.starts, self.closed)

    def within(self, limit: float) -> bool:
        """Whether every node and handle has coordinates no larger than `limit`, and none is NaN."""
        # The sum of squares settles it for all but the absurd, in half the time.
        return bool(np.vdot(self.points, self.points) <= limit * limit or np.abs(self.points).max() <= limit)

    def reversed(self, which: Bools | None = None) -> Path:
        """The same curves run through backwards; `which` (s,) limits it to some subpaths."""
        flip = np.repeat(np.ones(len(self), bool) if which is None else which, self.counts)
        mirrored = np.repeat(self.starts + self.stops - 1, self.counts) - np.arange(len(self.points))
        order = np.where(flip, mirrored, np.arange(len(self.points)))
        points = self.points[order]
        points[flip] = points[flip, ::-1]
        return Path(points, self.degrees[order], self.starts, self.closed)


def _hash(path: Path) -> int:
    points = path.points + 0.0  # since -0.0 is equal to 0.0
    return hash((points.tobytes(), path.degrees.tobytes(), path.starts.tobytes(), path.closed.tobytes()))


def _stops(path: Path) -> Ints:
    return np.append(path.starts[1:], len(path.points)) if len(path.starts) else path.starts


def once_each(
    paths: Sequence[Path], find: Callable[[Path], R], together: Callable[[Sequence[Path]], Iterable[R]]
) -> list[R]:
    """`once` of many paths; those that weren't asked before are asked together, where that is quicker. `together` says
    of each path what `find` says of it alone.
    """
    new = [path for path in {id(path): path for path in paths}.values() if find not in path._found]
    for path, answer in zip(new, together(new) if new else (), strict=True):
        path._found.setdefault(find, answer)
    return [path.once(find) for path in paths]


def same_shape(a: Path, b: Path, within_mm: float) -> bool:
    """Whether two paths have the same segments in the same order, each number within a distance in mm of the
    other's.
    """
    if a is b:
        return True
    return (
        a.points.shape == b.points.shape
        and np.array_equal(a.starts, b.starts)
        and np.array_equal(a.closed, b.closed)
        and np.array_equal(a.degrees, b.degrees)
        and bool(np.abs(a.points - b.points).max(initial=0.0) <= within_mm)
    )


def raised(points: Floats, degrees: NDArray[np.uint8]) -> Floats:
    """(n, 4, 2): segments (n, 4, 2) of these degrees as cubics; see `Path.cubics`."""
    line, quad = np.flatnonzero(degrees == LINE), np.flatnonzero(degrees == QUAD)
    if not len(line) and not len(quad):
        return points
    result = points.copy()
    if len(line):
        first, last = points[line, 0], points[line, 3]
        third = (last - first) / 3
        result[line, 1], result[line, 2] = first + third, last - third
    if len(quad):
        first, handle, last = points[quad, 0], points[quad, 1], points[quad, 3]
        result[quad, 1], result[quad, 2] = first + (handle - first) * (2 / 3), last + (handle - last) * (2 / 3)
    return result


def ranges(firsts: Ints, counts: Ints) -> Ints:
    """Every index of runs that begin there and are so long."""
    return np.repeat(firsts - np.cumsum(counts) + counts, counts) + np.arange(int(counts.sum()))


@lru_cache(maxsize=64)
def _as_arrays(matrix: Transform) -> tuple[Floats, Floats]:
    return np.array([[matrix.xx, matrix.xy], [matrix.yx, matrix.yy]]), np.array([matrix.dx, matrix.dy])


def concat(paths: Iterable[Path]) -> Path:
    """All subpaths of all paths, in order."""
    parts = [path for path in paths if len(path.starts)]
    if not parts:
        return EMPTY
    if len(parts) == 1:
        return parts[0]
    whole = _parted(parts)
    if whole is not None:
        return whole
    points, degrees, starts, closed = zip(
        *[(each.points, each.degrees, each.starts, each.closed) for each in parts], strict=True
    )
    before = np.cumsum([0, *map(len, degrees[:-1])])
    return Path(
        np.concatenate(points),
        np.concatenate(degrees),
        np.concatenate(starts) + np.repeat(before, list(map(len, starts))),
        np.concatenate(closed),
    )


def _parted(paths: Sequence[Path]) -> Path | None:
    """The path that these were split from, if they are all of it in its order."""
    whole, done = paths[0]._part[0] if paths[0]._part else None, 0
    for path in paths:
        of, a, b = path._part or (None, 0, 0)
        if of is not whole or a != done:
            return None
        done = b
    return whole if whole is not None and done == len(whole) else None


def concat_groups(paths: Sequence[Path], sizes: Sequence[int]) -> list[Path]:
    """`concat` of the first so many paths, of the next so many, and so on."""
    edges = np.cumsum([0, *sizes])
    held = np.cumsum([0, *(len(path) for path in paths)])[edges]
    return concat(paths).split(np.diff(held))


def closed_by_line(path: Path) -> Path:
    """A single subpath, closed with a straight line from its last node to its first where they lie apart."""
    first, last = path.points[0, 0], path.points[-1, 3]
    if (first == last).all():
        return Path(path.points, path.degrees, path.starts, np.array([True]))
    line = np.stack([last, last, first, first])[None]
    degrees = np.append(path.degrees, np.uint8(LINE))
    return Path(np.concatenate([path.points, line]), degrees, path.starts, np.array([True]))


class PathBuilder:
    """Collects segments one by one, as a pen does; `path()` gives the result.

    A subpath that is begun and never drawn becomes one line of no length, so that a lone point isn't lost; or none,
    without `points`.
    """

    def __init__(self, *, points: bool = True) -> None:
        self._points = points
        self._numbers: list[float] = []
        self._degrees = bytearray()
        self._starts: list[int] = []
        self._closed: list[bool] = []
        self._start = self._now = (0.0, 0.0)
        self._begun = False

    @property
    def begun(self) -> int:
        """How many subpaths were begun."""
        return len(self._starts)

    def move_to(self, x: float, y: float) -> None:
        """Begins a subpath at a place in mm."""
        self.end()
        self._start = self._now = (x, y)
        self._begun = True
        self._starts.append(len(self._degrees))
        self._closed.append(False)

    def line_to(self, x: float, y: float) -> None:
        """A line from where the pen is."""
        x0, y0 = self._now
        self._numbers += (x0, y0, x0, y0, x, y, x, y)
        self._degrees.append(LINE)
        self._now = (x, y)

    def quad_to(self, x1: float, y1: float, x: float, y: float) -> None:
        """A quadratic Bézier by its handle and its end."""
        self._numbers += (*self._now, x1, y1, x1, y1, x, y)
        self._degrees.append(QUAD)
        self._now = (x, y)

    def cubic_to(self, x1: float, y1: float, x2: float, y2: float, x: float, y: float) -> None:
        """A cubic Bézier by its handles and its end."""
        self._numbers += (*self._now, x1, y1, x2, y2, x, y)
        self._degrees.append(CUBIC)
        self._now = (x, y)

    def add_segments(self, numbers: list[float], degrees: bytes | bytearray) -> None:
        """Many segments at once, eight numbers each, the first starting where the pen is."""
        self._numbers += numbers
        self._degrees += degrees
        self._now = (numbers[-2], numbers[-1])

    def close(self) -> None:
        """Closes the subpath, with a line where its ends lie apart by more than rounding."""
        if not self._begun:
            return
        (x0, y0), (x, y) = self._start, self._now
        if self._now != self._start:
            if max(abs(x - x0), abs(y - y0)) <= 1e-9 * max(1.0, abs(x0), abs(y0)) and self._has_segments():
                self._numbers[-2:] = self._start
                if self._degrees[-1] == LINE:
                    self._numbers[-4:-2] = self._start
                self._now = self._start
            else:
                self.line_to(*self._start)
        self._closed[-1] = True
        self.end()

    def end(self) -> None:
        """Ends the subpath as it is."""
        if self._begun and not self._has_segments():
            if self._points or self._closed[-1]:
                self.line_to(*self._start)
            else:
                self._starts.pop()
                self._closed.pop()
        self._begun = False

    def _has_segments(self) -> bool:
        return len(self._degrees) > self._starts[-1]

    def path(self) -> Path:
        """All that was drawn."""
        self.end()
        return Path(
            np.array(self._numbers, np.float64).reshape(-1, 4, 2),
            np.frombuffer(bytes(self._degrees), np.uint8).copy(),
            np.array(self._starts, np.intp),
            np.array(self._closed, bool),
        )


EMPTY = PathBuilder().path()


def polygon(*points: tuple[float, float], closed: bool = True) -> Path:
    """Straight lines through the points."""
    if closed and (points[0] != points[-1] or len(points) == 1):
        points = (*points, points[0])
    ends = points[1:] or points
    return lines([each for a, b in zip(points, ends, strict=False) for each in (*a, *a, *b, *b)], closed)


def lines(numbers: list[float], closed: bool = True) -> Path:
    """One subpath of lines; eight numbers a segment, its start and its end twice each."""
    points = np.array(numbers, np.float64).reshape(-1, 4, 2)
    return Path(points, *_all_lines(len(numbers) // 8, closed))


@lru_cache(maxsize=64)
def _all_lines(count: int, closed: bool) -> tuple[NDArray[np.uint8], Ints, Bools]:
    """Degrees, starts and closed of a subpath of lines; shared, since no path ever changes."""
    return np.full(count, LINE, np.uint8), np.zeros(1, np.intp), np.array([closed])
