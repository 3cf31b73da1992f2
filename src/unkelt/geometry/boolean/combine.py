"""Difference, intersection and exclusion of outlines: curves kept, judged by the second engine as a weld is.

Guarantees, against GEOS on the sources flattened to a tenth of the tolerance: the same pieces and counters, the same
area within what the flattening may hide, and no boundary further from the other's than the tolerance.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
import pathops
import shapely

from unkelt.errors import GeometryRefused
from unkelt.geometry import region as regions
from unkelt.geometry.boolean.engine import Frame, Operand, cleaned, closed, from_engine, to_engine, wound_once
from unkelt.geometry.boolean.judge import PROOF_CHORD, Second
from unkelt.geometry.boolean.redrawing import fills
from unkelt.geometry.boolean.weld import WeldProof, agreed, operand_regions, side_by_side
from unkelt.geometry.nesting import Ringed, ring_nestings
from unkelt.geometry.orient import rings_oriented
from unkelt.geometry.path import EMPTY, Path, concat, concat_groups
from unkelt.messages import say
from unkelt.tolerance import Tolerance

Operation = Literal["difference", "intersection", "exclusion"]
_ENGINE = {
    "difference": pathops.PathOp.DIFFERENCE,
    "intersection": pathops.PathOp.INTERSECTION,
}
_SECOND = {
    "difference": shapely.difference,
    "intersection": shapely.intersection,
}


def combine(
    operation: Operation, first: Sequence[Operand], second: Sequence[Operand], tolerance: Tolerance
) -> tuple[Path, WeldProof]:
    """What is left of the first operands' area after the second's are taken from it, common to both, or in one only.

    An empty path where nothing is. What lies in one only is both differences side by side; their pieces meet in points.
    Raises GeometryRefused when the engines disagree.
    """
    if operation == "exclusion":
        return side_by_side(
            [combine("difference", first, second, tolerance), combine("difference", second, first, tolerance)]
        )
    areas = [shapely.unary_union(operand_regions(group, tolerance)) for group in (first, second)]
    expected = _SECOND[operation](*areas)
    before = sum(len(regions.counters(each, tolerance.sliver_mm2)) for each in operand_regions(first, tolerance))
    if not regions.pieces(expected, tolerance.sliver_mm2):
        return EMPTY, WeldProof(0.0, float(expected.area), before, 0, 0, 0.0)
    operands = [*first, *second]
    inside, other = fills(first), fills(second)
    return agreed(
        lambda drawn: _by_engine(operation, drawn[: len(first)], drawn[len(first) :], tolerance),
        Second.of([expected], tolerance.sliver_mm2),
        operands,
        lambda places: inside(places) & (other(places) == (operation == "intersection")),
        before,
        tolerance,
    )


def _by_engine(
    operation: Operation, first: Sequence[Operand], second: Sequence[Operand], tolerance: Tolerance
) -> Ringed:
    chord = tolerance.chord_mm * PROOF_CHORD
    operands = [*first, *second]
    frame = Frame.around(np.concatenate([operand.path.points for operand in operands]))
    found = ring_nestings([closed(operand.path) for operand in operands], chord)
    wound = wound_once([first, second], [frame, frame], found, chord)
    groups = concat_groups([each.path for each in wound], [len(first), len(second)])
    engines = to_engine(groups, [frame, frame])
    try:
        answer = pathops.op(*engines, _ENGINE[operation], fix_winding=False)
    except pathops.PathOpsError as problem:
        raise GeometryRefused(say("the engine gave up ({problem})", problem=problem)) from problem
    made = from_engine([answer], [concat(groups)], [frame])
    whole = cleaned(made, [concat([each.path for each in found])], tolerance)
    return rings_oriented(ring_nestings(whole, chord), chord)[0]
