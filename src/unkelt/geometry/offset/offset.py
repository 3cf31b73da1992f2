"""Offsets and strokes: outlines at a distance, curves kept.

What the result is (its rings, what closes up, what vanishes) is decided by the second engine on polylines of the
source; each stretch of its boundary is then drawn along the exact line it stands for: a side moved along its normals,
the arc or mitre of a corner, a cap. So nodes are those of the source and true intersections, straight sides stay exact,
and nothing depends on how small the lettering is.

Guaranteed, and measured on the result: every point of it that should lie at the distance does so within the tolerance;
its rings are those of the second engine, none further from them than that engine's own simplification (1 % of the
distance) explains.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from unkelt.errors import GeometryRefused
from unkelt.geometry import region as regions
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import crosses_itself, weld
from unkelt.geometry.distance import edges, line_distance
from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import evaluate, signed_areas
from unkelt.geometry.offset.band import band_area, drawn, ends, is_ring, join_style, quarter_steps, with_kites
from unkelt.geometry.offset.dashes import dashed
from unkelt.geometry.offset.pen import Pen
from unkelt.geometry.orient import orient_rings
from unkelt.geometry.path import EMPTY, Floats, Path
from unkelt.geometry.trace.rails import (
    Corner,
    Join,
    Rail,
    Rails,
    cap_rails,
    corners,
    segment_rails,
    turn_counts,
)
from unkelt.geometry.trace.trace import Traced, trace
from unkelt.messages import say
from unkelt.tolerance import Tolerance

CHORD_SHARE = 0.1
"""Chord error of the polylines, as a share of the tolerance."""

FIT_SHARE = 0.1
"""How far a cubic may stray from the exact offset of a curve, as a share of the tolerance."""

ENGINE_SIMPLIFICATION = 0.012
"""The second engine drops concave detail below 1 % of the distance before it offsets; with room."""


@dataclass(frozen=True, slots=True)
class OffsetProof:
    """Of one result: `max_deviation_mm` is how far any of its points lies from where the exact offset has it.

    `fitted_rings` could not be drawn along the exact lines and were fitted to the second engine's polyline.
    """

    area_mm2: float
    area_second_mm2: float
    pieces: int
    counters: int
    max_deviation_mm: float
    fitted_rings: int


NOTHING = OffsetProof(0.0, 0.0, 0, 0, 0.0, 0)


def offset_path(
    path: Path,
    distance_mm: float,
    tolerance: Tolerance,
    join: Join = "miter",
    mitre_limit: float = 4.0,
    even_odd: bool = False,
) -> tuple[Path, OffsetProof]:
    """The outline whose edge lies `distance_mm` outside the filled area's edge; inside where it is negative.

    `join` says how corners are rounded out: `miter` keeps them sharp up to the limit (a ratio, as in SVG) and bevels
    them beyond it. What is too thin for an inward offset vanishes, counters too small for an outward one close: the
    proof counts both. Raises GeometryRefused when the result can't be proven.
    """
    if even_odd or crosses_itself(Operand(path), tolerance):
        path, _ = weld([Operand(path, even_odd)], tolerance)
    # A ring without area is a scrap: it has no edge to move.
    path = path.select(path.closed & (np.abs(signed_areas(path)) > tolerance.graze_mm2))
    path = orient_rings(path, tolerance.chord_mm * CHORD_SHARE)
    chord = _chord(abs(distance_mm), tolerance)
    counts = turn_counts(path, abs(distance_mm), chord)
    vertices, owner = flatten(path, chord, counts)
    rings = [ring for ring in np.split(vertices, np.flatnonzero(np.diff(owner)) + 1) if len(ring) >= 4]
    area = regions.filled(rings, False)
    turns = [corner for subpath in path.subpaths() for corner in corners(subpath)]
    grown = area.buffer(
        distance_mm,
        quad_segs=quarter_steps(abs(distance_mm), chord),
        join_style=join_style(join),
    )
    if join == "miter":
        kites = [kite for corner in turns if (kite := corner.kite(distance_mm, mitre_limit)) is not None]
        grown = with_kites(grown, kites, outward=distance_mm > 0)
    rails: list[Rail] = [*segment_rails(path, distance_mm, counts)]
    for corner in turns:
        rails += corner.rails(distance_mm, join, mitre_limit)
    whole = not any(corner.bevelled(distance_mm, join, mitre_limit) for corner in turns)
    return _traced(grown, rails, path, abs(distance_mm), chord, tolerance, whole)


def stroke_path(path: Path, pen: Pen, tolerance: Tolerance) -> tuple[Path, OffsetProof]:
    """The outline of a stroked path: what the stroke paints, welded.

    Raises GeometryRefused when the stroke has no width or the result can't be proven.
    """
    if pen.width_mm <= 0:
        raise GeometryRefused("the stroke has no width")
    if pen.shape is not None:
        return _skewed(path, pen, tolerance)
    if pen.dashes_mm:
        path = dashed(path, pen.dashes_mm, pen.dash_offset_mm)
    half = pen.width_mm / 2
    chord = _chord(half, tolerance)
    bands: list[shapely.Geometry] = []
    rails: list[Rail] = []
    turns: list[Corner] = []
    for subpath in path.subpaths():
        own = corners(subpath)
        turns += own
        found = _band(subpath, own, half, pen, chord)
        if found is not None:
            bands.append(found[0])
            rails += found[1]
    if not bands:
        return EMPTY, NOTHING
    simplified = pen.cap == "round" or bool(path.closed.any())
    whole = (pen.cap == "round" or bool(path.closed.all())) and not any(
        corner.bevelled(side, pen.join, pen.mitre_limit) for corner in turns for side in (half, -half)
    )
    return _traced(shapely.unary_union(bands), rails, path, half, chord, tolerance, whole, simplified)


def _skewed(path: Path, pen: Pen, tolerance: Tolerance) -> tuple[Path, OffsetProof]:
    """A stroke by a pen that isn't round: a round one's in the pen's own axes, carried back."""
    assert pen.shape is not None
    matrix = Transform(*pen.shape, 0, 0)
    stretch = float(np.linalg.norm(np.array(pen.shape).reshape(2, 2), 2))
    finer = replace(tolerance, chord_mm=tolerance.chord_mm / stretch)
    result, proof = stroke_path(path.transformed(matrix.inverse()), replace(pen, shape=None), finer)
    result = result.transformed(matrix)
    if matrix.xx * matrix.yy - matrix.xy * matrix.yx < 0:
        result = result.reversed()
    return result, replace(proof, max_deviation_mm=proof.max_deviation_mm * stretch)


def _band(
    path: Path, turns: list[Corner], half: float, pen: Pen, chord: float
) -> tuple[shapely.Geometry, list[Rail]] | None:
    """What the stroke of one subpath covers, and the rails along its edge."""
    area = band_area(path, turns, half, pen, chord)
    if area is None:
        return None
    if not drawn(path).any():
        node, right = path.points[0, 0], np.array([1.0, 0.0])
        return area, [*cap_rails(node, right, half, pen.cap), *cap_rails(node, -right, half, pen.cap)]
    counts = turn_counts(path, half, chord)
    rails: list[Rail] = [rail for side in (half, -half) for rail in segment_rails(path, side, counts)]
    rails += [
        rail for side in (half, -half) for corner in turns for rail in corner.rails(side, pen.join, pen.mitre_limit)
    ]
    if not is_ring(path, len(flatten(path, chord, counts)[0])):
        rails += [rail for node, outward in ends(path) for rail in cap_rails(node, outward, half, pen.cap)]
    return area, rails


def _chord(distance: float, tolerance: Tolerance) -> float:
    """Chord error of the polylines: a share of the tolerance, finer where the distance itself is small."""
    return max(1e-6, min(tolerance.chord_mm * CHORD_SHARE, distance / 50))


def _traced(
    grown: shapely.Geometry,
    rails: list[Rail],
    source: Path,
    distance: float,
    chord: float,
    tolerance: Tolerance,
    whole: bool,
    simplified: bool = True,
) -> tuple[Path, OffsetProof]:
    """Draws the area's boundary and proves it.

    `whole` says that the area holds all that lies within the distance of the source, so that no edge may be nearer. A
    flat end or a bevel leaves some of that out; then it is the distance from the rails that is measured. `simplified`
    says that the second engine's own offset had a part in the area.
    """
    sliver = min(tolerance.sliver_mm2, distance * distance / 10)
    parts = list(_significant(grown, sliver))
    if not parts:
        return EMPTY, NOTHING
    significant = shapely.multipolygons(parts)
    near = (ENGINE_SIMPLIFICATION * distance if simplified else 0.0) + 4 * chord
    sides = edges(*flatten(source, chord / 4))
    tree = shapely.STRtree(sides)

    def snapped(vertices: Floats) -> Floats:
        """Vertices at about the distance from the source, at it; those of mitres, bevels and flat caps as they are."""
        (_, nearest), away = tree.query_nearest(shapely.points(vertices), return_distance=True, all_matches=False)
        near_sides, points = sides[nearest], shapely.points(vertices)
        foot = shapely.get_coordinates(
            shapely.line_interpolate_point(near_sides, shapely.line_locate_point(near_sides, points))
        )
        moved = foot + (vertices - foot) * (distance / np.maximum(away, 1e-300))[:, None]
        return np.where((np.abs(away - distance) <= near)[:, None], moved, vertices)

    traced = trace(significant, rails, snapped, near, chord, tolerance.chord_mm * FIT_SHARE)
    if whole:
        deviation = _deviation(traced.path, traced.true, tree, distance) + chord
    else:
        sampled, _, owner = Rails(rails).sampled(chord / 4)
        deviation = _deviation(traced.path, traced.true, shapely.STRtree(edges(sampled, owner)), 0.0) + chord
    return _proven(traced, significant, sliver, near, max(deviation, traced.fitted_bound_mm), chord, tolerance)


def _proven(
    traced: Traced,
    significant: shapely.Geometry,
    sliver: float,
    near: float,
    deviation: float,
    chord: float,
    tolerance: Tolerance,
) -> tuple[Path, OffsetProof]:
    """What was drawn beside the second engine's area, no line further off than `deviation`. Raises GeometryRefused."""
    result = orient_rings(traced.path, chord)
    ours = regions.region(result, False, chord)
    pieces, counters = len(regions.pieces(ours, sliver)), len(regions.counters(ours, sliver))
    wanted = len(regions.pieces(significant, sliver)), len(regions.counters(significant, sliver))
    if (pieces, counters) != wanted:
        raise GeometryRefused(
            say(
                "the offset has {pieces} pieces and {counters} counters where the second engine has {wanted} and "
                "{wanted_2}",
                pieces=pieces,
                counters=counters,
                wanted=wanted[0],
                wanted_2=wanted[1],
            )
        )
    apart = line_distance(ours, significant)
    if apart > 1.5 * near + tolerance.chord_mm:
        raise GeometryRefused(say("the offset lies {apart:.4f} mm from the second engine's", apart=apart))
    if deviation > tolerance.chord_mm:
        raise GeometryRefused(say("the offset would be out by {deviation:.4f} mm", deviation=deviation))
    area = float(signed_areas(result).sum())
    return result, OffsetProof(area, float(significant.area), pieces, counters, deviation, traced.fitted_rings)


def _significant(area: shapely.Geometry, sliver: float) -> Iterator[shapely.Polygon]:
    for part in regions.pieces(area, sliver):
        holes = [ring for ring in part.interiors if shapely.Polygon(ring).area > sliver]
        yield shapely.Polygon(part.exterior, holes)


def _deviation(result: Path, true: np.ndarray, source: shapely.STRtree, distance: float) -> float:
    """The greatest difference from the distance, at 9 points of every segment that should keep it."""
    if not true.any():
        return 0.0
    t = np.broadcast_to(np.linspace(0, 1, 9), (int(true.sum()), 9))
    points = shapely.points(evaluate(result.cubics()[true], t).reshape(-1, 2))
    _, away = source.query_nearest(points, return_distance=True, all_matches=False)
    return float(np.abs(away - distance).max())
