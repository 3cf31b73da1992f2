"""The second engine's answer drawn again along the sources' own curves: what a boolean falls back on.

Where the first engine gives up or is contradicted, GEOS decides on fine polylines what the result is, and each stretch
of its boundary is drawn along the source segment that it comes from: whole segments stay as they are to the last bit,
the others are cut where the curves themselves meet. So that no engine is its own judge, the winding numbers of the
sources (as the SVG specification defines both fill rules) are asked on both sides of every segment, and at places all
over the sheet.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import shapely

from unkelt.errors import GeometryRefused
from unkelt.geometry.boolean.engine import Operand, closed
from unkelt.geometry.flatten import lines, piece_counts
from unkelt.geometry.measure import bounds, derivative, evaluate
from unkelt.geometry.path import CUBIC, QUAD, Bools, Floats, Path
from unkelt.geometry.relations import winding
from unkelt.geometry.trace.rails import Beside, Straight, normals, segment_rails
from unkelt.geometry.trace.trace import trace

NEAR_CHORDS = 4
"""The polylines' vertices lie this near to the curves, in chord errors of theirs; with room."""

GRID = 24
"""As many places along each side of the result's box are asked about."""

Wanted = Callable[[Floats], Bools]
"""Whether the result is to fill places (p, 2)."""


def fills(operands: Sequence[Operand]) -> Wanted:
    """Whether any of these fills a place, each by its own rule."""

    def ask(places: Floats) -> Bools:
        inside = np.zeros(len(places), bool)
        for operand in operands:
            number = winding(operand.path, places)
            inside |= number % 2 != 0 if operand.even_odd else number != 0
        return inside

    return ask


def redrawn_along(area: shapely.Geometry, operands: Sequence[Operand], wanted: Wanted, chord_mm: float) -> Path:
    """The boundary of an area that GEOS made of polylines with that chord error, along the operands' curves.

    Raises GeometryRefused where a part of it follows none of them, or where the result isn't what is wanted.
    """
    sources = [closed(operand.path) for operand in operands]
    rails: dict[bytes, Straight | Beside] = {}
    quads: dict[bytes, Floats] = {}
    for path in sources:
        for rail in segment_rails(path, 0.0, piece_counts(path, chord_mm)):
            way = np.stack([rail.start, rail.end]) if isinstance(rail, Straight) else rail.cubic
            if way[::-1].tobytes() not in rails:  # of two that run along each other only one is followed
                rails.setdefault(way.tobytes(), rail)
        for points, cubic in zip(path.points[path.degrees == QUAD], path.cubics()[path.degrees == QUAD], strict=True):
            quads[cubic.tobytes()], quads[cubic[::-1].tobytes()] = points, points[::-1]
    traced = trace(area, list(rails.values()), lambda vertices: vertices, NEAR_CHORDS * chord_mm, chord_mm, chord_mm)
    if traced.fitted_rings:
        raise GeometryRefused("a part of the result follows no line of the sources")
    result = _with_quads(traced.path, quads)
    _judge(result, sources, wanted, chord_mm)
    return result


def _with_quads(path: Path, quads: dict[bytes, Floats]) -> Path:
    """Cubics that are a source's quadratic curve, as that."""
    points, degrees = path.points.copy(), path.degrees.copy()
    for index in np.flatnonzero(degrees == CUBIC).tolist():
        quad = quads.get(points[index].tobytes())
        if quad is not None:
            points[index], degrees[index] = quad, QUAD
    return Path(points, degrees, path.starts, path.closed)


def _judge(result: Path, sources: Sequence[Path], wanted: Wanted, chord_mm: float) -> None:
    """Refuses a result that isn't filled on the one side of each of its segments alone, or not where it should be."""
    box = bounds(result)
    if box is None:
        return
    t = np.broadcast_to([0.2, 0.5, 0.8], (len(result.points), 3))
    cubics = result.cubics()
    middle = evaluate(cubics, t).reshape(-1, 2)
    side = 3 * chord_mm * normals(derivative(cubics, t).reshape(-1, 2))
    grid = np.stack(np.meshgrid(np.linspace(box[0], box[2], GRID), np.linspace(box[1], box[3], GRID)), axis=-1)
    places = np.concatenate([middle - side, middle + side, grid.reshape(-1, 2)])
    # Nearer to a line than the polylines tell, nothing can be said.
    drawn = shapely.get_parts([lines(path, chord_mm) for path in sources])
    tree = shapely.STRtree(drawn)
    near, _ = tree.query(shapely.points(places), predicate="dwithin", distance=2 * chord_mm)
    clear = np.ones(len(places), bool)
    clear[near] = False
    filled = winding(result, places, chord_mm / 4) != 0
    if (filled != wanted(places))[clear].any():
        raise GeometryRefused("the second engine's answer fills other places than the sources' winding does")
