"""The judge of what is made of outlines: what the first engine answers beside what the second does, for many clusters
of outlines in one go. A single one is many of which there is one.

Both are judged as finely flattened lines, which are handed in: nothing is flattened here.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.errors import GeometryRefused, Swallowed
from unkelt.geometry import region as regions
from unkelt.geometry.distance import departure, line_distances
from unkelt.geometry.nesting import Ringed
from unkelt.geometry.path import Bools, Floats, Geometries, Ints
from unkelt.messages import say
from unkelt.tolerance import Tolerance

PROOF_CHORD = 0.1
"""Chord error of the lines that are judged, as a share of the tolerance."""


@dataclass(frozen=True, slots=True)
class Counted:
    """How many pieces and counters (c,) areas have, without slivers, and the lines around them."""

    pieces: Ints
    counters: Ints
    lines: Geometries
    line_of: Ints
    """The area that each line is of."""

    @classmethod
    def of(cls, areas: Geometries, sliver_mm2: float) -> Counted:
        """Of areas (c,)."""
        parts, part_of, counters, counter_of = regions.parts(areas, sliver_mm2)
        return cls(
            np.bincount(part_of, minlength=len(areas)),
            np.bincount(counter_of, minlength=len(areas)),
            shapely.get_exterior_ring(np.append(parts, counters)),
            np.append(part_of, counter_of),
        )

    def alike(self, other: Counted, index: int) -> bool:
        """Whether an area has as many pieces and counters as one of others has."""
        return bool(self.pieces[index] == other.pieces[index] and self.counters[index] == other.counters[index])


@dataclass(frozen=True, slots=True)
class Second:
    """What the second engine (GEOS) says of clusters (c,)."""

    areas: Geometries
    counted: Counted

    @classmethod
    def of(cls, areas: Sequence[shapely.Geometry] | Geometries, sliver_mm2: float) -> Second:
        """How far each of the areas (c,) that it found may be off, mm²."""
        whole = np.array(areas, object)
        return cls(whole, Counted.of(whole, sliver_mm2))


@dataclass(frozen=True, slots=True)
class Judgement:
    """What both engines agree on: the area of a result, as it is drawn, its pieces and counters, and how far its lines
    are from the second engine's, at most.
    """

    area_mm2: float
    pieces: int
    counters: int
    deviation_mm: float


Judged = Judgement | GeometryRefused


def judged(
    results: Sequence[Ringed],
    second: Second,
    sources: Sequence[Sequence[Ringed]],
    tolerance: Tolerance,
    off_mm: Floats | None = None,
) -> list[Judged]:
    """Of each result what the engines agree on, or what they don't: the same area within what flattening may hide, the
    same by both fill rules, the same pieces and counters, no line further off than the tolerance.

    `sources` are the rings of each one's operands; `off_mm` (c,) says how far a result may be from how it is drawn,
    beyond the chord error.
    """
    chord = tolerance.chord_mm * PROOF_CHORD
    ours = np.array(regions.areas([(each, False) for each in results]), object)
    counted = Counted.of(ours, tolerance.sliver_mm2)
    refusals: dict[int, GeometryRefused] = {}
    for index in range(len(results)):
        try:
            _refuse_other_shape(results[index], ours[index], counted, second, index, tolerance)
        except GeometryRefused as refused:
            refusals[index] = refused
    well = np.array([index not in refusals for index in range(len(results))], bool)
    lines, line_of = shapely.get_parts(shapely.boundary(ours), return_index=True)
    others, other_of = second.counted.lines, second.counted.line_of
    chosen, other = well[line_of], well[other_of]
    deviations = (
        line_distances(lines[chosen], line_of[chosen], others[other], other_of[other], len(results)) + 2 * chord
    )
    deviations += 0.0 if off_mm is None else off_mm
    for index in np.flatnonzero(well & (deviations > tolerance.chord_mm)).tolist():
        if _differ_by_less_than(ours[index], second.areas[index], chord):
            # Where two outlines graze each other, lines of them part in a notch too thin to matter and too deep for
            # that measure. Then it is enough that no line of the result leaves the sources' lines.
            rings = np.concatenate([each.rings for each in sources[index]])
            deviations[index] = departure(ours[index], shapely.multilinestrings(rings)) + 2 * chord
        try:
            _refuse_moved(float(deviations[index]), tolerance)
        except GeometryRefused as refused:
            refusals[index] = refused
    areas = shapely.area(ours).tolist()
    return [
        refusals.get(index)
        or Judgement(areas[index], int(counted.pieces[index]), int(counted.counters[index]), float(deviations[index]))
        for index in range(len(results))
    ]


def _refuse_other_shape(
    result: Ringed, ours: shapely.Geometry, counted: Counted, second: Second, index: int, tolerance: Tolerance
) -> None:
    theirs, chord = second.areas[index], tolerance.chord_mm * PROOF_CHORD
    slack = (ours.length + theirs.length) * chord + tolerance.sliver_mm2
    if abs(ours.area - theirs.area) > slack:
        raise GeometryRefused(
            say("two engines disagree on the area: {area:.3f} and {area_2:.3f} mm²", area=ours.area, area_2=theirs.area)
        )
    if result.nesting is None and regions.apart_mm2(ours, regions.areas([(result, True)])[0]) > slack:
        raise GeometryRefused("what would be hole and what solid depends on the fill rule")
    one, other, at = counted, second.counted, index
    if not one.alike(
        other, at
    ):  # where two parts meet in a point, rounding joins or parts them: what is thicker decides
        one, other = (
            Counted.of(np.array([each.buffer(-chord)], object), tolerance.sliver_mm2) for each in (ours, theirs)
        )
        at = 0
    if not one.alike(other, at):
        raise GeometryRefused(
            say(
                "two engines disagree: {pieces} and {pieces_2} pieces, {counters} and {counters_2} counters",
                pieces=one.pieces[at],
                pieces_2=other.pieces[at],
                counters=one.counters[at],
                counters_2=other.counters[at],
            )
        )


def _refuse_moved(deviation_mm: float, tolerance: Tolerance) -> None:
    if deviation_mm > tolerance.chord_mm:
        raise GeometryRefused(say("the outline would move by {deviation_mm:.4f} mm", deviation_mm=deviation_mm))


def _differ_by_less_than(a: shapely.Geometry, b: shapely.Geometry, width_mm: float) -> bool:
    """Whether two areas differ nowhere in a stretch wider than `width_mm`, either side of a line."""
    return bool(a.symmetric_difference(b).buffer(-width_mm).is_empty)


@dataclass(frozen=True, slots=True)
class Guarded:
    """What lies in the operands of clusters (c,) that a union would hide."""

    counters: Ints
    """(c,) how many the operands have."""
    filled: Ints
    """(c,) how many of them the union fills."""
    swallowed: Ints
    """(c,) how many operands lie wholly inside another: they may be counters that were split off."""

    @classmethod
    def of(cls, sources: Geometries, cluster_of: Ints, unions: Geometries, tolerance: Tolerance) -> Guarded:
        """Of what all operands fill, the cluster of each, and the clusters' unions."""
        holes, source_of = regions.parts(sources, tolerance.sliver_mm2)[2:]
        hole_of = cluster_of[source_of]
        filled = hole_of[_filled(holes, unions[hole_of], tolerance.sliver_mm2)]
        inner, outer = np.array(regions.lying_inside(sources), np.intp).reshape(-1, 2).T
        edges = regions.prepared(shapely.boundary(sources))
        apart = ~shapely.dwithin(edges[outer], edges[inner], tolerance.same_shape_mm)
        swallowed = cluster_of[inner[apart]]
        return cls(*(np.bincount(each, minlength=len(unions)) for each in (hole_of, filled, swallowed)))

    def refuse(self) -> None:
        """Raises GeometryRefused where the first cluster's union would hide something."""
        if self.filled[0]:
            raise GeometryRefused(
                say("{filled} of {counters} counters would be filled", filled=self.filled[0], counters=self.counters[0])
            )
        if self.swallowed[0]:
            raise Swallowed(
                "one outline lies wholly inside another and would vanish; it may be a counter that was split off"
            )

    @property
    def nothing(self) -> Bools:
        """(c,) where the union hides nothing."""
        return np.asarray((self.filled == 0) & (self.swallowed == 0))


def _filled(holes: Geometries, unions: Geometries, sliver_mm2: float) -> Ints:
    """Which holes are filled by the unions, one for each."""
    doubtful = np.flatnonzero(shapely.contains(regions.prepared(unions), shapely.point_on_surface(holes)))
    left = shapely.area(shapely.difference(holes[doubtful], unions[doubtful]))
    return doubtful[left < sliver_mm2]
