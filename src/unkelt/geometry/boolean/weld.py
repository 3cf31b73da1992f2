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
from unkelt.geometry.boolean.chords import Chorded
from unkelt.geometry.boolean.engine import Frame, Operand, cleaned, closed, simplified, wound_once
from unkelt.geometry.boolean.hulls import Hulls, in_boxes
from unkelt.geometry.boolean.judge import PROOF_CHORD, Guarded, Judgement, Second, judged
from unkelt.geometry.boolean.redrawing import Wanted, fills, redrawn_along
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.nesting import Ringed, ring_nesting, ring_nestings
from unkelt.geometry.orient import rings_oriented
from unkelt.geometry.path import Path, concat, concat_groups
from unkelt.tolerance import Tolerance

AWAY_CHORDS = 4
"""A curve stands aside when nothing comes nearer to it than so many times that."""


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
    return ring_nesting(operand.path, tolerance.chord_mm * PROOF_CHORD).nesting is None


def covers_itself(operand: Operand, tolerance: Tolerance) -> bool:
    """Whether a ring lies hidden in what another of the same outline fills: solid by nonzero, a hole by even-odd."""
    nesting = ring_nesting(operand.path, tolerance.chord_mm * PROOF_CHORD).nesting
    return nesting is not None and not operand.even_odd and not nesting.rules_agree()


def weld(operands: Sequence[Operand], tolerance: Tolerance, guard: bool = True) -> tuple[Path, WeldProof]:
    """The union of one cluster's operands as rings that fill the same by both rules, and its proof.

    Guarantees, against GEOS on the sources flattened to a tenth of the tolerance: the same pieces and counters, the
    same area within what the flattening may hide, and no boundary further from the other's than the tolerance. No
    counter of an operand is filled and no operand disappears inside another (a counter that was taken apart looks like
    that), unless `guard` is off: a fill fills the inside of its own stroke.

    Raises GeometryRefused when any of this does not hold.
    """
    chord, sliver = tolerance.chord_mm * PROOF_CHORD, tolerance.sliver_mm2
    sources = np.array(operand_regions(operands, tolerance), object)
    second = Second.of([shapely.unary_union(sources)], sliver)
    hidden = Guarded.of(sources, np.zeros(len(sources), np.intp), second.areas, tolerance)
    if guard:
        hidden.refuse()

    def union(operands: Sequence[Operand]) -> Ringed:
        return rings_oriented(ring_nestings(unions([operands], tolerance), chord), chord)[0]

    return agreed(union, second, operands, fills(operands), int(hidden.counters[0]), tolerance)


def agreed(
    first: Callable[[Sequence[Operand]], Ringed],
    second: Second,
    operands: Sequence[Operand],
    wanted: Wanted,
    counters_before: int,
    tolerance: Tolerance,
) -> tuple[Path, WeldProof]:
    """The first engine's answer where the second agrees; else the second's along the operands' curves, where that fills
    what is wanted. Raises GeometryRefused, with what the engines disagree on, where neither can be proven.

    The first engine is asked with chords for the curves that nothing comes near, which it can't cut in places of its
    own then, and where that isn't proven, with all curves.
    """
    chord = tolerance.chord_mm * PROOF_CHORD
    sources = ring_nestings([operand.path for operand in operands], chord)

    def retrace() -> Ringed:
        made = redrawn_along(_without_slivers(second.areas[0], tolerance), operands, wanted, chord)
        return rings_oriented(ring_nestings([made], chord), chord)[0]

    ways: list[Callable[[], Ringed]] = [lambda: _by_chords(first, operands, chord), lambda: first(operands), retrace]
    refusals = []
    for way in ways:
        try:
            result = way()
            [judgement] = judged([result], second, [sources], tolerance)
            if isinstance(judgement, Judgement):
                return result.path, proven(result.path, judgement, float(second.areas[0].area), counters_before)
            refusals.append(judgement)
        except GeometryRefused as refused:
            refusals.append(refused)
    raise refusals[1]


def proven(path: Path, judgement: Judgement, second_mm2: float, counters_before: int) -> WeldProof:
    """What is proven of a result by what was judged."""
    return WeldProof(
        float(signed_areas(path).sum()),
        second_mm2,
        counters_before,
        judgement.counters,
        judgement.pieces,
        judgement.deviation_mm,
    )


def chorded(clusters: Sequence[Sequence[Operand]], chord: float) -> tuple[Chorded, list[list[Operand]]]:
    """Clusters with chords for the curves that nothing comes near, and what puts the curves back."""
    made = Chorded.of([[closed(each.path) for each in cluster] for cluster in clusters], AWAY_CHORDS * chord)
    paths = iter(made.paths)
    return made, [[Operand(next(paths), each.even_odd) for each in cluster] for cluster in clusters]


def _by_chords(engine: Callable[[Sequence[Operand]], Ringed], operands: Sequence[Operand], chord: float) -> Ringed:
    curves, [drawn] = chorded([operands], chord)
    made = engine(drawn)
    [result] = curves.restored([made.path], np.array(regions.areas([(made, False)]), object))
    if result is None:
        raise GeometryRefused("the engine changed a line that nothing comes near")
    return ring_nesting(result, chord)


def operand_regions(operands: Sequence[Operand], tolerance: Tolerance) -> list[shapely.Geometry]:
    """What each operand fills, as finely flattened as the proof needs it."""
    return regions.regions([(each.path, each.even_odd) for each in operands], tolerance.chord_mm * PROOF_CHORD)


def _without_slivers(shape: shapely.Geometry, tolerance: Tolerance) -> shapely.Geometry:
    """Without the specks and pin-holes that polylines of two curves meeting in a tangent leave."""
    return regions.together(
        [
            shapely.Polygon(
                part.exterior, [r for r in part.interiors if shapely.Polygon(r).area > tolerance.sliver_mm2]
            )
            for part in regions.pieces(shape, tolerance.sliver_mm2)
        ]
    )


def unions(
    clusters: Sequence[Sequence[Operand]], tolerance: Tolerance, found: Sequence[Ringed] | None = None
) -> list[Path]:
    """The first engine's results, in the sources' own numbers where it kept them. Their fill rule is even-odd.

    All operands are first run so that their material has winding number 1, and then simplified together by the nonzero
    rule. The engine's own way of summing operands turns what two share into a hole where one is convex and the other
    has a counter. It isn't asked of rings that have nothing to do with other operands, nor touch one of their own.
    `found` are the rings of all operands, where they are drawn in a way of their own; all are closed then.
    """
    sizes, chord = list(map(len, clusters)), tolerance.chord_mm * PROOF_CHORD
    if found is None:
        found = ring_nestings([closed(each.path) for cluster in clusters for each in cluster], chord)
    whole = concat_groups([each.path for each in found], sizes)
    frames = Frame.around_each(concat(whole).points, [len(path.points) for path in whole])
    operands = wound_once(clusters, frames, found, chord)
    rings = concat([each.path for each in operands])
    ring_of = np.repeat(np.arange(len(operands)), [len(each.path) for each in operands])
    group_of = np.repeat(np.arange(len(clusters)), sizes)
    ring, other, _, _ = in_boxes(Hulls.of(rings.points, rings.starts), ring_of)
    cluster_of, alone = group_of[ring_of], np.array([each.simple for each in operands], bool)[ring_of]
    alone[ring[cluster_of[ring] == group_of[other]]] = False
    asked, place = np.unique(cluster_of[~alone], return_inverse=True)
    made = simplified(rings.select(~alone).split(np.bincount(place)), [frames[index] for index in asked])
    owner = np.append(np.repeat(asked, list(map(len, made))), cluster_of[alone])
    answers = concat([*made, rings.select(alone)]).select(np.argsort(owner, kind="stable"))
    return cleaned(answers.split(np.bincount(owner, minlength=len(clusters))), whole, tolerance)
