"""The first engine, skia-pathops: how paths are handed to it, and what is made of its answers.

It works in 32-bit floats, so each cluster is moved to the origin and scaled, and every node and segment that it returns
unchanged is replaced by the source's own, to the last bit. Its winding repair fails where result rings share vertices, so it
is never asked for.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import pathops

from unkelt.errors import GeometryRefused
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.merge import merge_micro
from unkelt.geometry.orient import orient_rings, oriented
from unkelt.geometry.path import LINE, QUAD, Floats, Path, PathBuilder, closed_by_line, concat
from unkelt.geometry.region import ring_nesting
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


def wound_once(operand: Operand, frame: Frame, chord: float) -> Path:
    """The operand with winding number 1 in its material and 0 elsewhere; open subpaths are closed, as filling does.

    The rings stay as they are unless they cross or one lies needlessly in another; then the engine simplifies them.
    """
    path = operand.path
    if not path.closed.all():
        path = concat([closed_by_line(part) for part in path.subpaths()])
    _, _, nesting = ring_nesting(path, chord)
    if nesting is not None and (operand.even_odd or nesting.rules_agree()):
        return orient_rings(path, chord)
    return oriented(restored(simplified(path, operand.even_odd, frame), path.points, frame), chord)


def simplified(path: Path, even_odd: bool, frame: Frame) -> Path:
    """The engine's answer, in its own frame."""
    engine = to_engine(path, even_odd, frame)
    try:
        engine.simplify(fix_winding=False, keep_starting_points=False)
    except pathops.PathOpsError as problem:
        raise GeometryRefused(f"the weld engine gave up ({problem})") from problem
    return from_engine(engine)


def to_engine(path: Path, even_odd: bool, frame: Frame) -> pathops.Path:
    engine = pathops.Path(fillType=pathops.FillType.EVEN_ODD if even_odd else pathops.FillType.WINDING)
    numbers = ((path.points - frame.centre) * frame.scale).tolist()
    degrees = path.degrees.tolist()
    for a, b in zip(path.starts.tolist(), path.stops.tolist(), strict=True):
        engine.moveTo(*numbers[a][0])
        for (_, p1, p2, p3), degree in zip(numbers[a:b], degrees[a:b], strict=True):
            if degree == LINE:
                engine.lineTo(*p3)
            elif degree == QUAD:
                engine.quadTo(*p1, *p3)
            else:
                engine.cubicTo(*p1, *p2, *p3)
        engine.close()
    return engine


def from_engine(answer: pathops.Path) -> Path:
    builder = PathBuilder()
    draw: dict[pathops.PathVerb, Callable[..., None]] = {
        pathops.PathVerb.MOVE: builder.move_to,
        pathops.PathVerb.LINE: builder.line_to,
        pathops.PathVerb.QUAD: builder.quad_to,
        pathops.PathVerb.CUBIC: builder.cubic_to,
    }
    for verb, points in answer:
        if verb == pathops.PathVerb.CLOSE:
            builder.close()
        else:
            draw[verb](*(number for point in points for number in point))
    return builder.path()


def restored(path: Path, source: Floats, frame: Frame) -> Path:
    """Back in sheet coordinates; nodes and segments that came through unchanged take the source's 64-bit numbers."""
    engine = np.ascontiguousarray(((source - frame.centre) * frame.scale).astype(np.float32))
    nodes = {key.tobytes(): point for key, point in zip(engine[:, 0], source[:, 0], strict=True)}
    nodes |= {key.tobytes(): point for key, point in zip(engine[:, 3], source[:, 3], strict=True)}
    segments = {key.tobytes(): segment for key, segment in zip(engine, source, strict=True)}
    backwards = np.ascontiguousarray(engine[:, ::-1])
    segments |= {key.tobytes(): segment[::-1] for key, segment in zip(backwards, source, strict=True)}

    result = path.points / frame.scale + frame.centre
    keys = np.ascontiguousarray(path.points.astype(np.float32))
    for index in range(len(result)):
        whole = segments.get(keys[index].tobytes())
        if whole is not None:
            result[index] = whole
            continue
        for end in (0, 3):
            node = nodes.get(keys[index, end].tobytes())
            if node is not None:
                result[index, end] = node
    line = path.degrees == LINE
    result[line, 1], result[line, 2] = result[line, 0], result[line, 3]
    # A node shared by two segments must be one number: the later segment's start follows the earlier one's end.
    for a, b in zip(path.starts, path.stops, strict=True):
        result[a:b, 0] = np.roll(result[a:b, 3], 1, axis=0)
    result[line, 1] = result[line, 0]
    return Path(result, path.degrees, path.starts, path.closed)


def cleaned(path: Path, tolerance: Tolerance) -> Path:
    """Without the slivers and micro segments that the engine's rounding leaves at joints."""
    keep = (np.abs(signed_areas(path)) > tolerance.sliver_mm2) & path.closed
    return merge_micro(path.select(keep), tolerance.engine_noise_mm)
