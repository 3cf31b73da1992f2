"""Welding: the union of outlines, curves kept, judged by a second engine.

skia-pathops does the work and GEOS judges it. What the first engine is known to get wrong is never relied on: it works
in 32-bit floats (so each cluster is moved to the origin and scaled, and every node and segment that it returns
unchanged is replaced by the source's own, to the last bit), and its winding repair fails where result rings share
vertices (so its result is read by the even-odd rule and oriented here from the nesting of the rings).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.errors import GeometryRefused
from unkelt.geometry import region as regions
from unkelt.geometry.boolean.aside import Chorded
from unkelt.geometry.boolean.engine import Frame, Operand, cleaned, closed, simplified, wound_once
from unkelt.geometry.boolean.hulls import Hulls, in_boxes
from unkelt.geometry.boolean.retrace import Wanted, fills, retraced
from unkelt.geometry.distance import departure, line_distance
from unkelt.geometry.measure import lengths, signed_areas
from unkelt.geometry.nesting import ring_nesting, ring_nestings
from unkelt.geometry.orient import oriented
from unkelt.geometry.path import Path, concat, concat_groups
from unkelt.tolerance import Tolerance

PROOF_CHORD = 0.1
"""Chord error of the proof's polylines, as a share of the tolerance."""

AWAY_CHORDS = 4
"""A curve stands aside when nothing comes nearer to it than so many times that."""

Judgement = tuple[float, tuple[int, int], float]
"""Area in mm², pieces and counters, and deviation in mm."""


@dataclass(frozen=True, slots=True)
class WeldProof:
    """What both engines say of one result. Areas in mm², the deviation in mm."""

    area_mm2: float
    area_second_mm2: float
    counters_before: int
    counters: int
    pieces: int
    max_deviation_mm: float


def side_by_side(results: Sequence[tuple[Path, WeldProof]]) -> tuple[Path, WeldProof]:
    """Results that have nothing but points in common as one, and what is proven of all of them."""
    if len(results) == 1:
        return results[0]
    proofs = [proof for _, proof in results]
    return concat([path for path, _ in results]), WeldProof(
        sum(proof.area_mm2 for proof in proofs),
        sum(proof.area_second_mm2 for proof in proofs),
        sum(proof.counters_before for proof in proofs),
        sum(proof.counters for proof in proofs),
        sum(proof.pieces for proof in proofs),
        max(proof.max_deviation_mm for proof in proofs),
    )


def crosses_itself(operand: Operand, tolerance: Tolerance) -> bool:
    """Whether an outline's rings cross themselves or each other."""
    return ring_nesting(operand.path, tolerance.chord_mm * PROOF_CHORD)[2] is None


def covers_itself(operand: Operand, tolerance: Tolerance) -> bool:
    """Whether a ring lies hidden in what another of the same outline fills: solid by nonzero, a hole by even-odd."""
    _, _, nesting = ring_nesting(operand.path, tolerance.chord_mm * PROOF_CHORD)
    return nesting is not None and not operand.even_odd and not nesting.rules_agree()


def weld(operands: Sequence[Operand], tolerance: Tolerance, guard: bool = True) -> tuple[Path, WeldProof]:
    """The union of one cluster's operands as rings that fill the same by both rules, and its proof.

    Guarantees, against GEOS on the sources flattened to a tenth of the tolerance: the same pieces and counters, the
    same area within what the flattening may hide, and no boundary further from the other's than the tolerance. No
    counter of an operand is filled and no operand disappears inside another (a counter that was taken apart looks like
    that), unless `guard` is off: a fill fills the inside of its own stroke.

    Raises GeometryRefused when any of this does not hold.
    """
    chord = tolerance.chord_mm * PROOF_CHORD
    sources = operand_regions(operands, tolerance)
    second = shapely.unary_union(sources)
    before = [hole for source in sources for hole in regions.counters(source, tolerance.sliver_mm2)]
    if guard:
        _refuse_swallowed(sources, before, second, tolerance)

    def union(operands: Sequence[Operand]) -> Path:
        return oriented(unions([operands], tolerance), chord)[0]

    result, (area, (pieces, counters), deviation) = agreed(
        union,
        second,
        operands,
        fills(operands),
        tolerance,
    )
    return result, WeldProof(area, float(second.area), len(before), counters, pieces, deviation)


def agreed(
    first: Callable[[Sequence[Operand]], Path],
    second: shapely.Geometry,
    operands: Sequence[Operand],
    wanted: Wanted,
    tolerance: Tolerance,
) -> tuple[Path, Judgement]:
    """The first engine's answer where the second agrees; else the second's along the operands' curves, where that fills
    what is wanted. Raises GeometryRefused, with what the engines disagree on, where neither can be proven.

    The first engine is asked with chords for the curves that nothing comes near, which it can't cut in places of its
    own then, and where that isn't proven, with all curves.
    """
    chord = tolerance.chord_mm * PROOF_CHORD

    def retrace() -> Path:
        area = _without_slivers(regions.together(regions.pieces(second, tolerance.sliver_mm2)), tolerance)
        return oriented([retraced(area, operands, wanted, chord)], chord)[0]

    ways: list[Callable[[], Path]] = [lambda: _by_chords(first, operands, chord), lambda: first(operands), retrace]
    refusals = []
    for way in ways:
        try:
            result = way()
            return result, judged(result, second, operands, tolerance)
        except GeometryRefused as refused:
            refusals.append(refused)
    raise refusals[1]


def chorded(clusters: Sequence[Sequence[Operand]], chord: float) -> tuple[Chorded, list[list[Operand]]]:
    """Clusters with chords for the curves that nothing comes near, and what puts the curves back."""
    made = Chorded.of([[closed(each.path) for each in cluster] for cluster in clusters], AWAY_CHORDS * chord)
    paths = iter(made.paths)
    return made, [[Operand(next(paths), each.even_odd) for each in cluster] for cluster in clusters]


def _by_chords(engine: Callable[[Sequence[Operand]], Path], operands: Sequence[Operand], chord: float) -> Path:
    curves, [drawn] = chorded([operands], chord)
    made = engine(drawn)
    [result] = curves.restored([made], np.array([regions.region(made, False, chord)]))
    if result is None:
        raise GeometryRefused("the engine changed a line that nothing comes near")
    return result


def judged(result: Path, second: shapely.Geometry, operands: Sequence[Operand], tolerance: Tolerance) -> Judgement:
    """Area, pieces and counters, and deviation of a result, compared with the second engine's union.

    Raises GeometryRefused where they disagree.
    """
    chord = tolerance.chord_mm * PROOF_CHORD
    ours = regions.region(result, False, chord)
    area = float(signed_areas(result).sum())
    slack = (float(lengths(result).sum()) + second.length) * chord + tolerance.sliver_mm2
    if abs(ours.area - second.area) > slack:
        raise GeometryRefused(f"two engines disagree on the area: {area:.3f} and {second.area:.3f} mm²")
    nesting = ring_nesting(result, chord)[2]
    if nesting is None and regions.apart_mm2(ours, regions.region(result, True, chord)) > slack:
        raise GeometryRefused("what would be hole and what solid depends on the fill rule")
    counts = _counts(ours, second, tolerance)
    if counts[0] != counts[1]:  # where two parts meet in a point, rounding joins or parts them: what is thicker decides
        counts = _counts(ours.buffer(-chord), second.buffer(-chord), tolerance)
    if counts[0] != counts[1]:
        raise GeometryRefused(
            f"two engines disagree: {counts[0][0]} and {counts[1][0]} pieces, {counts[0][1]} and {counts[1][1]} counters"
        )
    significant = regions.together(regions.pieces(second, tolerance.sliver_mm2))
    whole = _without_slivers(significant, tolerance)
    deviation = line_distance(ours, whole) + 2 * chord
    if deviation > tolerance.chord_mm and _differ_by_less_than(ours, second, chord):
        # Where two outlines graze each other, polylines of them part in a notch too thin to matter and too deep for
        # that
        # measure. Then it is enough that no line of the result leaves the sources' lines.
        rings = [rings for rings, _, _ in ring_nestings([operand.path for operand in operands], chord)]
        deviation = departure(ours, shapely.multilinestrings(np.concatenate(rings))) + 2 * chord
    if deviation > tolerance.chord_mm:
        raise GeometryRefused(f"the outline would move by {deviation:.4f} mm")
    return area, counts[0], deviation


def _counts(ours: shapely.Geometry, second: shapely.Geometry, tolerance: Tolerance) -> list[tuple[int, int]]:
    """Pieces and counters of both engines' results."""
    return [
        (len(regions.pieces(shape, tolerance.sliver_mm2)), len(regions.counters(shape, tolerance.sliver_mm2)))
        for shape in (ours, second)
    ]


def operand_regions(operands: Sequence[Operand], tolerance: Tolerance) -> list[shapely.Geometry]:
    """What each operand fills, as finely flattened as the proof needs it."""
    return regions.regions([(each.path, each.even_odd) for each in operands], tolerance.chord_mm * PROOF_CHORD)


def _differ_by_less_than(a: shapely.Geometry, b: shapely.Geometry, width_mm: float) -> bool:
    """Whether two areas differ nowhere in a stretch wider than `width_mm`, either side of a line."""
    return bool(a.symmetric_difference(b).buffer(-width_mm).is_empty)


def _without_slivers(shape: shapely.Geometry, tolerance: Tolerance) -> shapely.Geometry:
    """Drops the pin-holes that polylines of two curves meeting in a tangent leave open."""
    parts = [
        shapely.Polygon(part.exterior, [r for r in part.interiors if shapely.Polygon(r).area > tolerance.sliver_mm2])
        for part in shapely.get_parts(shape)
    ]
    return regions.together(parts)


def _refuse_swallowed(
    sources: list[shapely.Geometry], holes: list[shapely.Polygon], union: shapely.Geometry, tolerance: Tolerance
) -> None:
    # A hole with a place outside the union isn't filled; only of the others must the area be found.
    doubtful = np.array(holes)[shapely.within(shapely.point_on_surface(holes), union)] if holes else []
    filled = sum(hole.difference(union).area < tolerance.sliver_mm2 for hole in doubtful)
    if filled:
        raise GeometryRefused(f"{filled} of {len(holes)} counters would be filled")
    if len(sources) < 2:
        return
    for i, j in regions.lying_inside(sources):
        if sources[i].boundary.distance(sources[j].boundary) > tolerance.same_shape_mm:
            raise GeometryRefused(
                "one outline lies wholly inside another and would vanish; it may be a counter that was split off"
            )


def unions(clusters: Sequence[Sequence[Operand]], tolerance: Tolerance) -> list[Path]:
    """The first engine's results, in the sources' own numbers where it kept them. Their fill rule is even-odd.

    All operands are first run so that their material has winding number 1, and then simplified together by the nonzero
    rule. The engine's own way of summing operands turns what two share into a hole where one is convex and the other
    has a counter. It isn't asked of rings that have nothing to do with other operands, nor touch one of their own.
    """
    sizes = list(map(len, clusters))
    whole = concat_groups([closed(each.path) for cluster in clusters for each in cluster], sizes)
    frames = Frame.around_each(concat(whole).points, [len(path.points) for path in whole])
    chord = tolerance.chord_mm * PROOF_CHORD
    operands = wound_once(clusters, frames, chord)
    rings, ring_of = concat(operands), np.repeat(np.arange(len(operands)), list(map(len, operands)))
    group_of = np.repeat(np.arange(len(clusters)), sizes)
    ring, other, _, _ = in_boxes(Hulls.of(rings.points, rings.starts), ring_of)
    apart = [nesting is not None and not nesting.touching for _, _, nesting in ring_nestings(operands, chord)]
    cluster_of, alone = group_of[ring_of], np.array(apart, bool)[ring_of]
    alone[ring[cluster_of[ring] == group_of[other]]] = False
    asked, place = np.unique(cluster_of[~alone], return_inverse=True)
    made = simplified(rings.select(~alone).split(np.bincount(place)), [frames[index] for index in asked])
    owner = np.append(np.repeat(asked, list(map(len, made))), cluster_of[alone])
    answers = concat([*made, rings.select(alone)]).select(np.argsort(owner, kind="stable"))
    return cleaned(answers.split(np.bincount(owner, minlength=len(clusters))), whole, tolerance)
