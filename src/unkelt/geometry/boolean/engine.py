"""The first engine, skia-pathops: how paths are handed to it, and what is made of its answers.

It works in 32-bit floats, so each cluster is moved to the origin and scaled, and every node and segment that it returns
unchanged is replaced by the source's own, to the last bit. Its winding repair fails where result rings share vertices,
so it is never asked for.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pathops

from unkelt.errors import GeometryRefused
from unkelt.geometry.boolean.engine_cuts import without_engine_cuts
from unkelt.geometry.boolean.hulls import Hulls
from unkelt.geometry.boolean.row_index import RowIndex
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.near import pairs_between
from unkelt.geometry.nesting import Ringed, ring_nestings
from unkelt.geometry.orient import rings_oriented, run_by_nesting
from unkelt.geometry.path import CUBIC, LINE, QUAD, Floats, Ints, Path, closed_by_line, concat
from unkelt.geometry.reduce.merge import merge_micro
from unkelt.messages import say
from unkelt.tolerance import Tolerance

ENGINE_EXTENT = 512.0
"""Half the extent that a cluster is scaled to: the engine's own absolute tolerances expect font-like magnitudes."""


ROUNDING = 1e-4
"""How far, so scaled, the engine may set a node that it keeps: three steps of a 32-bit float."""


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
        """Of nodes and handles (n, 4, 2)."""
        return cls.around_each(points, [len(points)])[0]

    @classmethod
    def around_each(cls, points: Floats, counts: Sequence[int]) -> list[Frame]:
        """Of so many of the segments, of so many of the next, and so on; there is at least one of each."""
        sizes = np.array(counts, np.intp)
        firsts = np.cumsum(sizes) - sizes
        boxes = Hulls.of(points, firsts)
        low, high = boxes.low, boxes.high
        half = np.maximum((high - low).max(axis=1) / 2, 1e-9)
        # A power of two, so that scaling costs no digit.
        scale = 2.0 ** np.floor(np.log2(ENGINE_EXTENT / half))
        return list(map(cls, (low + high) / 2, scale.tolist()))


def wound_once(
    groups: Sequence[Sequence[Operand]], frames: Sequence[Frame], found: Sequence[Ringed], chord_mm: float
) -> list[Ringed]:
    """Each operand, one group's after the other's, with a winding number that its group has in all material, 1 or -1,
    and 0 elsewhere. `found` are the operands' rings; open subpaths are closed, as filling does.

    The rings stay as they are unless they cross or one lies needlessly in another; then the engine simplifies them.
    """
    operands, result = [operand for group in groups for operand in group], list(found)
    plain = [
        rings.nesting is not None and (operand.even_odd or rings.nesting.rules_agree())
        for operand, rings in zip(operands, found, strict=True)
    ]
    edges = list(itertools.pairwise(itertools.accumulate(map(len, groups), initial=0)))
    turned = [
        is_plain and rings.nesting is not None and bool(rings.nesting.flips.all())
        for is_plain, rings in zip(plain, found, strict=True)
    ]
    chosen = [
        index
        for a, b in edges
        if not all(turned[a:b])  # a group may run the other way as a whole
        for index in range(a, b)
        if plain[index]
    ]
    for index, run in zip(chosen, run_by_nesting([found[index] for index in chosen]), strict=True):
        result[index] = run
    for (a, b), frame in zip(edges, frames, strict=True):
        for index in range(a, b):
            if not plain[index]:
                made = simplified([found[index].path], [frame], operands[index].even_odd)
                [result[index]] = rings_oriented(ring_nestings(made, chord_mm), chord_mm)
    return result


def closed(path: Path) -> Path:
    """Open subpaths closed by a line, as filling does."""
    return path if all(path.closed.tolist()) else path.once(_closed)


def _closed(path: Path) -> Path:
    return concat([closed_by_line(part) for part in path.subpaths()])


def simplified(paths: Sequence[Path], frames: Sequence[Frame], even_odd: bool = False) -> list[Path]:
    """Each path without its crossings, in its own numbers where the engine kept them. The result's fill rule is
    even-odd.

    Raises GeometryRefused where the engine gives up.
    """
    if not paths:
        return []
    answers = to_engine(paths, frames, even_odd)
    for engine in answers:
        try:
            engine.simplify(fix_winding=False, keep_starting_points=False)
        except pathops.PathOpsError as problem:
            raise GeometryRefused(say("the weld engine gave up ({problem})", problem=problem)) from problem
    return from_engine(answers, paths, frames)


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


def from_engine(answers: Sequence[pathops.Path], sources: Sequence[Path], frames: Sequence[Frame]) -> list[Path]:
    """The engine's answers back on the sheet, in the numbers of the sources, which are closed, wherever it kept them.

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


def _restored(path: Path, counts: Ints, sources: Sequence[Path], frames: Sequence[Frame]) -> Path:
    """Back in sheet coordinates; nodes and segments that came through unchanged take the source's 64-bit numbers."""
    held = [len(source.points) for source in sources]
    all_sources = concat(sources)
    source, degrees = all_sources.points, all_sources.degrees
    engine = _framed(source, frames, held).astype(np.float32) + np.float32(0)  # no negative zero, which has other bits
    of_source, of_result = np.repeat(np.arange(len(frames)), held), np.repeat(np.arange(len(frames)), counts)
    keys = path.points.astype(np.float32) + np.float32(0)
    centre, scale = _each(frames, counts.tolist())
    result = path.points / scale + centre

    # Each node of a closed source is the end of a segment, and the handles of lines follow their nodes.
    node: Ints = RowIndex(engine[:, 3:], of_source).find(keys[:, 3:], of_result)
    astray = np.flatnonzero(node < 0)
    owners = of_source[:, None] * 4 * ENGINE_EXTENT, of_result[astray, None] * 4 * ENGINE_EXTENT
    theirs = np.concatenate([engine[:, 3], owners[0]], axis=1)
    lost = np.concatenate([keys[astray, 3], owners[1]], axis=1)
    one, other = pairs_between(lost, theirs, ROUNDING).T
    farthest_first = np.argsort(-np.linalg.norm(lost[one] - theirs[other], axis=1), kind="stable")
    node[astray[one[farthest_first]]] = other[farthest_first]  # of several the nearest, which comes last
    came = np.flatnonzero(node >= 0)
    result[came, 3], keys[came, 3] = source[node[came], 3], engine[node[came], 3]
    # A node shared by two segments must be one number: the later segment's start follows the earlier one's end.
    previous = np.arange(len(result)) - 1
    previous[path.starts] = path.stops - 1
    keys[:, 0] = keys[previous, 3]
    curved, curves = np.flatnonzero(path.degrees != LINE), np.flatnonzero(degrees != LINE)
    known = RowIndex(np.concatenate([engine[curves], engine[curves, ::-1]]), np.tile(of_source[curves], 2))
    whole = known.find(keys[curved], of_result[curved])
    result[curved[whole >= 0]] = np.concatenate([source[curves], source[curves, ::-1]])[whole[whole >= 0]]
    line = path.degrees == LINE
    result[line, 2] = result[line, 3]
    result[:, 0] = result[previous, 3]
    result[line, 1] = result[line, 0]
    return Path(result, path.degrees, path.starts, path.closed)


def cleaned(paths: Sequence[Path], sources: Sequence[Path], tolerance: Tolerance) -> list[Path]:
    """Each of the engine's answers without the slivers and micro segments that its rounding leaves at joints, and
    without the nodes that are neither its source's nor crossings.
    """
    whole, counts = concat(paths), list(map(len, paths))
    keep = (np.abs(signed_areas(whole)) > tolerance.sliver_mm2) & whole.closed
    owner = np.repeat(np.arange(len(paths)), counts)
    left = whole if keep.all() else whole.select(keep)
    merged = merge_micro(left, tolerance.engine_noise_mm)
    held = np.bincount(owner[keep], minlength=len(paths))
    return _without_cuts(merged, np.repeat(np.arange(len(paths)), held), sources, tolerance).split(held)


def _without_cuts(path: Path, owner: Ints, sources: Sequence[Path], tolerance: Tolerance) -> Path:
    """The engine cuts curves where they bend inward or most; those pieces are made one again, and the source's where
    they can.
    """
    of_result = np.repeat(owner, path.counts)
    of_source = np.repeat(np.arange(len(sources)), [len(source.points) for source in sources])
    source = concat(sources)
    points = source.points + 0.0
    keep = RowIndex(points[:, 3:], of_source).find(path.points[:, 3:] + 0.0, of_result) >= 0
    result = without_engine_cuts(path, keep, tolerance.engine_noise_mm)
    if result is path:
        return path
    of_result = np.repeat(owner, result.counts)
    ends = RowIndex(np.concatenate([points[:, ::3], points[:, ::-3]]), np.tile(of_source, 2))
    place = ends.find(result.points[:, ::3] + 0.0, of_result)
    like = np.concatenate([source.points, source.points[:, ::-1]])[place]
    same = (place >= 0) & (np.tile(source.degrees, 2)[place] == result.degrees)
    same &= np.abs(like - result.points).max(axis=(1, 2)) <= tolerance.engine_noise_mm
    return Path(np.where(same[:, None, None], like, result.points), result.degrees, result.starts, result.closed)
