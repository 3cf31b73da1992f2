"""The first engine, skia-pathops: how paths are handed to it, and what is made of its answers.

It works in 32-bit floats, so each cluster is moved to the origin and scaled, and every node and segment that it returns
unchanged is replaced by the source's own, to the last bit. Its winding repair fails where result rings share vertices, so it
is never asked for.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pathops
from numpy.typing import NDArray

from unkelt.errors import GeometryRefused
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.merge import merge_micro
from unkelt.geometry.nesting import ring_nestings
from unkelt.geometry.orient import oriented, run_by_nesting
from unkelt.geometry.path import CUBIC, LINE, QUAD, Floats, Ints, Path, closed_by_line, concat
from unkelt.tolerance import Tolerance

ENGINE_EXTENT = 512.0
"""Half the extent that a cluster is scaled to: the engine's own absolute tolerances expect font-like magnitudes."""


@dataclass(frozen=True, slots=True)
class Operand:
    """One outline to weld: its path and the fill rule it is drawn by."""

    path: Path
    even_odd: bool = False


@dataclass(frozen=True, slots=True)
class Frame:
    """Where a cluster is moved and how it is scaled for the engine: its centre, and a power of two."""

    centre: Floats
    scale: float

    @classmethod
    def around(cls, points: Floats) -> Frame:
        low, high = points.min(axis=(0, 1)), points.max(axis=(0, 1))
        half = max(float((high - low).max()) / 2, 1e-9)
        # A power of two, so that scaling costs no digit.
        return cls((low + high) / 2, float(2.0 ** np.floor(np.log2(ENGINE_EXTENT / half))))


def wound_once(groups: Sequence[Sequence[Operand]], frames: Sequence[Frame], chord: float) -> list[Path]:
    """Each group's operands side by side, all with winding number 1 in their material and 0 elsewhere.

    Open subpaths are closed, as filling does. The rings stay as they are unless they cross or one lies needlessly in
    another; then the engine simplifies them.
    """
    operands = [operand for group in groups for operand in group]
    paths = [closed(operand.path) for operand in operands]
    found = ring_nestings(paths, chord)
    plain = [
        nesting is not None and (operand.even_odd or nesting.rules_agree())
        for operand, (_, _, nesting) in zip(operands, found, strict=True)
    ]
    chosen = [index for index, is_plain in enumerate(plain) if is_plain]
    run = iter(run_by_nesting([paths[index] for index in chosen], [found[index] for index in chosen], chord))
    places, result = iter(zip(operands, paths, plain, strict=True)), []
    for group, frame in zip(groups, frames, strict=True):
        parts = []
        for operand, path, is_plain in itertools.islice(places, len(group)):
            parts.append(next(run) if is_plain else oriented(simplified([path], [frame], operand.even_odd), chord)[0])
        result.append(concat(parts))
    return result


def closed(path: Path) -> Path:
    """Open subpaths closed by a line, as filling does."""
    return path if path.closed.all() else concat([closed_by_line(part) for part in path.subpaths()])


def simplified(paths: Sequence[Path], frames: Sequence[Frame], even_odd: bool = False) -> list[Path]:
    """Each path without its crossings, in its own numbers where the engine kept them. The result's fill rule is even-odd.

    Raises GeometryRefused where the engine gives up.
    """
    answers = to_engine(paths, frames, even_odd)
    for engine in answers:
        try:
            engine.simplify(fix_winding=False, keep_starting_points=False)
        except pathops.PathOpsError as problem:
            raise GeometryRefused(f"the weld engine gave up ({problem})") from problem
    return from_engine(answers, [path.points for path in paths], frames)


def to_engine(paths: Sequence[Path], frames: Sequence[Frame], even_odd: bool = False) -> list[pathops.Path]:
    """Paths as the engine takes them, each moved and scaled by its frame."""
    fill = pathops.FillType.EVEN_ODD if even_odd else pathops.FillType.WINDING
    numbers = _framed(np.concatenate([path.points for path in paths]), frames, [len(path.points) for path in paths])
    rows = numbers.reshape(-1, 8).tolist()
    result, position = [], 0
    for path in paths:
        engine = pathops.Path(fillType=fill)
        line, quad, cubic = engine.lineTo, engine.quadTo, engine.cubicTo
        degrees = path.degrees.tolist()
        for a, b in zip(path.starts.tolist(), path.stops.tolist(), strict=True):
            engine.moveTo(*rows[position + a][:2])
            for (_, _, x1, y1, x2, y2, x, y), degree in zip(
                rows[position + a : position + b], degrees[a:b], strict=True
            ):
                if degree == LINE:
                    line(x, y)
                elif degree == QUAD:
                    quad(x1, y1, x, y)
                else:
                    cubic(x1, y1, x2, y2, x, y)
            engine.close()
        result.append(engine)
        position += len(path.points)
    return result


def _framed(points: Floats, frames: Sequence[Frame], counts: Sequence[int]) -> Floats:
    centre, scale = _each(frames, counts)
    return (points - centre) * scale


def _each(frames: Sequence[Frame], counts: Sequence[int]) -> tuple[Floats, Floats]:
    """Centre (n, 1, 2) and scale (n, 1, 1) of each segment's frame."""
    centre = np.repeat(np.array([frame.centre for frame in frames]), counts, axis=0)[:, None]
    return centre, np.repeat(np.array([frame.scale for frame in frames]), counts)[:, None, None]


_POINTS = np.array([1, 1, 2, 2, 3, 0])
"""How many points follow each of the engine's verbs: move, line, quadratic, conic, cubic, close."""
_DEGREE = np.array([0, LINE, QUAD, 0, CUBIC, 0], np.uint8)
_CLOSE = int(pathops.PathVerb.CLOSE)


def from_engine(answers: Sequence[pathops.Path], sources: Sequence[Floats], frames: Sequence[Frame]) -> list[Path]:
    """The engine's answers back on the sheet, in the numbers of the sources (n, 4, 2) wherever it kept them.

    Contours without a segment are left out.
    """
    verbs = [answer.verbs for answer in answers]
    chain = itertools.chain.from_iterable
    verb = np.fromiter(chain(verbs), np.intp)
    points = np.fromiter(chain(chain(answer.points for answer in answers)), np.float64).reshape(-1, 2)
    after = np.cumsum(_POINTS[verb])
    drawn = np.flatnonzero(_DEGREE[verb])
    contour = np.cumsum(verb == 0)  # the contour that each verb belongs to, counted from 1
    owner = np.repeat(np.arange(len(answers)), list(map(len, verbs)))
    degrees, last = _DEGREE[verb[drawn]], after[drawn] - 1
    first = last - _POINTS[verb[drawn]]  # the end of what was drawn before
    h1 = np.where(degrees == LINE, first, first + 1)
    h2 = np.where(degrees == CUBIC, first + 2, np.where(degrees == LINE, last, first + 1))
    segments = points[np.stack([first, h1, h2, last], axis=1)]
    contour_of, owner_of = contour[drawn], owner[drawn]
    starts = np.flatnonzero(np.append(True, contour_of[1:] != contour_of[:-1])) if len(drawn) else drawn
    stops = np.append(starts[1:], len(drawn)) if len(drawn) else drawn
    closed = np.isin(contour_of[starts], contour[verb == _CLOSE])
    gap = closed & (segments[starts, 0] != segments[stops - 1, 3]).any(axis=1)
    if gap.any():
        a, b = segments[stops[gap] - 1, 3], segments[starts[gap], 0]
        segments = np.insert(segments, stops[gap], np.stack([a, a, b, b], axis=1), axis=0)
        degrees = np.insert(degrees, stops[gap], LINE)
        owner_of = np.insert(owner_of, stops[gap], owner_of[starts[gap]])
        starts = starts + np.cumsum(gap) - gap
    path = Path(segments, degrees, starts, closed)
    counts = np.bincount(owner_of, minlength=len(answers))
    return _restored(path, counts, sources, frames).split(np.bincount(owner_of[starts], minlength=len(answers)))


def _restored(path: Path, counts: Ints, sources: Sequence[Floats], frames: Sequence[Frame]) -> Path:
    """Back in sheet coordinates; nodes and segments that came through unchanged take the source's 64-bit numbers."""
    held = [len(source) for source in sources]
    source = np.concatenate(sources)
    engine = _framed(source, frames, held).astype(np.float32) + np.float32(0)  # no negative zero, which has other bits
    of_source, of_result = np.repeat(np.arange(len(frames)), held), np.repeat(np.arange(len(frames)), counts)
    keys = path.points.astype(np.float32) + np.float32(0)
    centre, scale = _each(frames, counts.tolist())
    result = path.points / scale + centre

    nodes = _Known(np.concatenate([engine[:, :1], engine[:, 3:]]), np.tile(of_source, 2))
    ends = np.concatenate([source[:, 0], source[:, 3]])
    for end in (0, 3):
        place = nodes.find(keys[:, end : end + 1], of_result)
        result[place >= 0, end] = ends[place[place >= 0]]
    whole = _Known(np.concatenate([engine, engine[:, ::-1]]), np.tile(of_source, 2)).find(keys, of_result)
    result[whole >= 0] = np.concatenate([source, source[:, ::-1]])[whole[whole >= 0]]
    line = path.degrees == LINE
    result[line, 2] = result[line, 3]
    # A node shared by two segments must be one number: the later segment's start follows the earlier one's end.
    previous = np.arange(len(result)) - 1
    previous[path.starts] = path.stops - 1
    result[:, 0] = result[previous, 3]
    result[line, 1] = result[line, 0]
    return Path(result, path.degrees, path.starts, path.closed)


class _Known:
    """Rows of 32-bit numbers (n, k, 2), each of one owner, to be found again by all their bits."""

    def __init__(self, rows: NDArray[np.float32], owner: Ints) -> None:
        keys = _mixed(rows, owner)
        self._order = np.argsort(keys, kind="stable")
        self._keys, self._rows, self._owner = keys[self._order], rows, owner

    def find(self, rows: NDArray[np.float32], owner: Ints) -> Ints:
        """(m,) the place of an equal row of the same owner, or -1."""
        keys = _mixed(rows, owner)
        place = self._order[np.minimum(np.searchsorted(self._keys, keys), len(self._keys) - 1)]
        same = (self._rows[place] == rows).all(axis=(1, 2)) & (self._owner[place] == owner)
        return np.where(same, place, -1)


def _mixed(rows: NDArray[np.float32], owner: Ints) -> NDArray[np.uint64]:
    """(n,) a number that rows with other bits or another owner hardly ever share."""
    bits = np.ascontiguousarray(rows).view(np.uint64).reshape(len(rows), rows.shape[1])
    mixed = owner.astype(np.uint64)
    for column in bits.T:
        mixed = (mixed ^ column ^ (mixed >> np.uint64(29))) * np.uint64(0xBF58476D1CE4E5B9)
    return mixed


def cleaned(paths: Sequence[Path], tolerance: Tolerance) -> list[Path]:
    """Each without the slivers and micro segments that the engine's rounding leaves at joints."""
    whole, counts = concat(paths), list(map(len, paths))
    keep = (np.abs(signed_areas(whole)) > tolerance.sliver_mm2) & whole.closed
    owner = np.repeat(np.arange(len(paths)), counts)
    left = whole if keep.all() else whole.select(keep)
    return merge_micro(left, tolerance.engine_noise_mm).split(np.bincount(owner[keep], minlength=len(paths)))
