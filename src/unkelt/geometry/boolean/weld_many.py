"""Many clusters welded in one go: both engines are asked, and their answers compared, for all of them together.

The guarantees are those of `weld`, to which every cluster goes in which anything is out of the ordinary.
"""

from __future__ import annotations

import itertools
from collections.abc import Hashable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import shapely

from unkelt.errors import GeometryRefused
from unkelt.geometry import region as regions
from unkelt.geometry.alike import PLACES, shape_keys
from unkelt.geometry.boolean.chords import drawn_near
from unkelt.geometry.boolean.curve_pieces import CurvePieces
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.judge import PROOF_CHORD, Guarded, Judgement, Second, judged
from unkelt.geometry.boolean.weld import WeldProof, chorded, side_by_side, unions, weld
from unkelt.geometry.flatten import Vertices
from unkelt.geometry.measure import signed_areas, subpath_bounds
from unkelt.geometry.nesting import Ringed, ringed
from unkelt.geometry.orient import rings_oriented
from unkelt.geometry.path import EMPTY, Floats, Ints, Path, concat
from unkelt.tolerance import Tolerance

Welded = tuple[Path, WeldProof] | GeometryRefused


MANY = 64
"""An outline of more subpaths is welded in parts that lie apart: the engine's time grows faster than what it is given.
"""


def weld_clusters(clusters: Sequence[Sequence[Operand]], tolerance: Tolerance) -> list[Welded]:
    """Each cluster welded, or why it could not be. The clusters lie apart."""
    parts = [_parts(cluster) for cluster in clusters]
    found = iter(_weld_all([part for each in parts for part in each], tolerance))
    return [_together([next(found) for _ in each]) for each in parts]


def _parts(cluster: Sequence[Operand]) -> list[Sequence[Operand]]:
    """A cluster of many subpaths as clusters whose boxes don't meet, so that nothing one fills has to do with
    another.
    """
    counts = [len(each.path) for each in cluster]
    if sum(counts) <= MANY:
        return [cluster]
    groups = regions.clusters(shapely.box(*subpath_bounds(concat([each.path for each in cluster])).T))
    if len(groups) < 2:
        return [cluster]
    owner, first = np.repeat(np.arange(len(cluster)), counts), np.cumsum([0, *counts])
    result: list[Sequence[Operand]] = []
    for group in groups:
        members: dict[int, list[int]] = {}
        for place in group:
            members.setdefault(int(owner[place]), []).append(place - int(first[owner[place]]))
        result.append([Operand(cluster[k].path.select(own), cluster[k].even_odd) for k, own in members.items()])
    return result


def _together(results: Sequence[Welded]) -> Welded:
    """The parts of a cluster side by side, or the first refusal."""
    refused = next((each for each in results if isinstance(each, GeometryRefused)), None)
    return refused or side_by_side([each for each in results if not isinstance(each, GeometryRefused)])


def _weld_all(clusters: Sequence[Sequence[Operand]], tolerance: Tolerance) -> list[Welded]:
    """Each cluster welded, or why it could not be.

    Of clusters that are the same but for their place, as those of a name that is cut several times, one is welded; the
    others get its result moved, in their own numbers wherever a node or segment was kept. The rounding is part of their
    deviation.
    """
    copies: dict[Hashable, list[int]] = {}
    for index, key in enumerate(_keys(clusters)):
        copies.setdefault(key, []).append(index)
    unlike = [clusters[places[0]] for places in copies.values()]
    plain = _by_chords(unlike, tolerance)
    result: dict[int, Welded] = {}
    for place, (cluster, indices) in enumerate(zip(unlike, copies.values(), strict=True)):
        welded = plain.get(place) or _or_refused(cluster, tolerance)
        result |= {indices[0]: welded} | _copied(welded, cluster, {index: clusters[index] for index in indices[1:]})
    return [result[index] for index in range(len(clusters))]


def _points(cluster: Sequence[Operand]) -> Floats:
    """(k, 2) all nodes and handles."""
    return np.concatenate([each.path.points for each in cluster]).reshape(-1, 2)


def _keys(clusters: Sequence[Sequence[Operand]]) -> list[Hashable]:
    """Of each cluster what is the same for clusters that differ only in their place."""
    operands = [each for cluster in clusters for each in cluster]
    shapes = shape_keys([each.path for each in operands])
    firsts = [int(place) for place in np.cumsum([0, *map(len, clusters)])]
    nodes = np.array([each.path.points[0, 0] if len(each.path) else (0.0, 0.0) for each in operands]).reshape(-1, 2)
    away = np.round(nodes - np.repeat(nodes[firsts[:-1]], np.diff(firsts), axis=0), PLACES) + 0.0
    rows = list(zip(shapes, [each.even_odd for each in operands], map(tuple, away.tolist()), strict=True))
    return [tuple(rows[a:b]) for a, b in itertools.pairwise(firsts)]


def _copied(welded: Welded, cluster: Sequence[Operand], others: dict[int, Sequence[Operand]]) -> dict[int, Welded]:
    """What was made of a cluster, for others of the same shape."""
    if not others or isinstance(welded, GeometryRefused):
        return {index: GeometryRefused(str(welded)) for index in others}
    path, proof = welded
    points, was = path.points.reshape(-1, 2), _points(cluster)
    known, first = np.unique(was @ [1, 1j], return_index=True)
    wanted = points @ [1, 1j]
    at = np.minimum(np.searchsorted(known, wanted), len(known) - 1)
    kept = np.flatnonzero(known[at] == wanted)
    source = first[at[kept]]
    proof = replace(proof, max_deviation_mm=proof.max_deviation_mm + 4 * 10.0**-PLACES)
    result: dict[int, Welded] = {}
    for index, other in others.items():
        now = _points(other)
        moved = points + (now[0] - was[0])
        moved[kept] = now[source]
        result[index] = Path(moved.reshape(-1, 4, 2), path.degrees, path.starts, path.closed), proof
    return result


def _or_refused(cluster: Sequence[Operand], tolerance: Tolerance) -> Welded:
    try:
        return weld(cluster, tolerance)
    except GeometryRefused as problem:
        return problem


def _by_chords(clusters: Sequence[Sequence[Operand]], tolerance: Tolerance) -> dict[int, Welded]:
    """As `_weld_plain`, with chords for the curves that nothing comes near: they are the result's where their chords
    are.
    """
    if not clusters:
        return {}
    chord = tolerance.chord_mm * PROOF_CHORD
    curves, drawn = chorded(clusters, chord)
    found = _weld_plain(drawn, drawn_near(concat(curves.paths), curves.marks, chord), tolerance)
    made = [found[index][0].path if index in found else EMPTY for index in range(len(clusters))]
    filled = np.full(len(clusters), shapely.MultiPolygon(), object)
    filled[list(found)] = regions.areas([(result, False) for result, _ in found.values()])
    restored = curves.restored(made, filled, union=True)
    results = {index: path for index, path in enumerate(restored) if path and index in found}
    counts = [len(path) for path in results.values()]
    areas = np.bincount(np.repeat(np.arange(len(results)), counts), weights=signed_areas(concat(results.values())))
    return {
        index: (path, _with_area(found[index][1], area))
        for (index, path), area in zip(results.items(), areas.tolist(), strict=True)
    }


def _with_area(proof: WeldProof, area_mm2: float) -> WeldProof:
    """The proof of a result in curves, from that of the same in chords: both engines' areas grow by what curves enclose
    more.
    """
    return replace(proof, area_mm2=area_mm2, area_second_mm2=proof.area_second_mm2 + area_mm2 - proof.area_mm2)


def _weld_plain(
    clusters: Sequence[Sequence[Operand]], vertices: Vertices, tolerance: Tolerance
) -> dict[int, tuple[Ringed, WeldProof]]:
    """By their place, the clusters to whose weld nothing at all can be objected. Their outlines, which are closed, are
    drawn by these vertices.
    """
    chord, sliver = tolerance.chord_mm * PROOF_CHORD, tolerance.sliver_mm2
    count, sizes = len(clusters), list(map(len, clusters))
    operands = [each for cluster in clusters for each in cluster]
    whole = concat([each.path for each in operands])
    drawn = ringed([each.path for each in operands], *vertices.flattened(whole))
    filled = regions.areas([(rings, each.even_odd) for rings, each in zip(drawn, operands, strict=True)])
    sources, cluster_of = np.array(filled, object), np.repeat(np.arange(count), sizes)

    def second_engine() -> tuple[Second, Guarded]:
        gathered = shapely.geometrycollections(sources, indices=cluster_of)
        said = Second.of(shapely.union_all(gathered[:, None], axis=1), sliver)
        return said, Guarded.of(sources, cluster_of, said.areas, tolerance)

    with ThreadPoolExecutor(1) as other:  # the second engine lets go of the interpreter: both work at once
        asked = other.submit(second_engine)
        try:
            made = unions(clusters, tolerance, drawn)
            segments_of = np.repeat(cluster_of, [len(each.path.points) for each in operands])
            found, off = _drawn_alike(made, whole, segments_of, vertices, tolerance)
            results = rings_oriented(found, chord)
        except GeometryRefused:
            return {}
        second, hidden = asked.result()
    firsts = np.cumsum([0, *sizes]).tolist()
    judgements = judged(results, second, [drawn[a:b] for a, b in itertools.pairwise(firsts)], tolerance, off)
    areas, before, nothing = shapely.area(second.areas).tolist(), hidden.counters.tolist(), hidden.nothing.tolist()
    return {
        index: (
            results[index],
            WeldProof(
                judgement.area_mm2,
                areas[index],
                before[index],
                judgement.counters,
                judgement.pieces,
                judgement.deviation_mm,
            ),
        )
        for index, judgement in enumerate(judgements)
        if isinstance(judgement, Judgement) and nothing[index]
    }


def _drawn_alike(
    made: Sequence[Path], source: Path, owner: Ints, vertices: Vertices, tolerance: Tolerance
) -> tuple[list[Ringed], Floats]:
    """The rings of the engine's answers, drawn by the vertices of their sources' curves wherever they follow one, and
    how far each is from following them. Every segment of the sources belongs to an answer.
    """
    chord, whole = tolerance.chord_mm * PROOF_CHORD, concat(made)
    answer = np.repeat(np.arange(len(made)), [len(path.points) for path in made])
    pieces = CurvePieces.of(whole, answer, source, owner, tolerance.engine_noise_mm)
    off = np.zeros(len(made))
    np.maximum.at(off, answer, pieces.off_mm)
    return ringed(made, *pieces.drawn(whole, source, vertices, chord)), off
