"""Many clusters welded together: the same as one by one, and a bad one doesn't spoil the others."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, moved, ring
from unkelt.errors import GeometryRefused
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.touching import touching
from unkelt.geometry.boolean.weld import covers_itself, weld
from unkelt.geometry.boolean.weld_many import weld_clusters
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.path import concat, polygon
from unkelt.geometry.region import region
from unkelt.tolerance import STANDARD


def clusters_of(paths):
    operands = [Operand(path) for path in paths]
    return [[operands[i] for i in cluster] for cluster in touching(operands, STANDARD)]


def test_together_is_the_same_as_one_by_one():
    paths = [moved(path, 0, 90 * line) for line in range(3) for path in glyph_paths("Tern Quay", "Pacifico", 60)]
    clusters = clusters_of(paths)
    assert len(clusters) > 4
    for cluster, (path, proof) in zip(clusters, weld_clusters(clusters, STANDARD), strict=True):
        alone, own = weld(cluster, STANDARD)
        assert path.degrees.tolist() == alone.degrees.tolist()
        assert np.abs(path.points - alone.points).max() < 4e-5
        assert (proof.pieces, proof.counters, proof.counters_before) == (own.pieces, own.counters, own.counters_before)
        assert proof.area_mm2 == pytest.approx(own.area_mm2)
        assert proof.area_second_mm2 == pytest.approx(own.area_second_mm2, rel=1e-3)


@given(st.floats(-500, 500), st.floats(-500, 500))
def test_a_copy_elsewhere_keeps_its_own_numbers(x, y):
    word = [Operand(path) for path in glyph_paths("Tern", "Pacifico", 60)]
    copy = [Operand(moved(operand.path, 2000 + x, y)) for operand in word]
    (here, proof), (there, own) = weld_clusters([word, copy], STANDARD)
    nodes = {tuple(node) for operand in word for node in operand.path.points[:, 3]}
    kept = np.array([tuple(node) in nodes for node in here.points[:, 3]])
    assert kept.sum() > 0.8 * len(kept)
    assert not kept.all()
    its_own = {tuple(node) for operand in copy for node in operand.path.points[:, 3]}
    assert [tuple(node) in its_own for node in there.points[:, 3]] == kept.tolist()
    ends = np.setdiff1d(np.arange(len(there.points)), there.starts)
    assert (there.points[ends, 0] == there.points[ends - 1, 3]).all()
    alone, _ = weld(copy, STANDARD)
    assert np.abs(there.points - alone.points).max() < 4e-5
    assert own.max_deviation_mm == pytest.approx(proof.max_deviation_mm + 4e-5)
    assert (own.pieces, own.counters, own.counters_before) == (proof.pieces, proof.counters, proof.counters_before)


def test_only_what_fills_the_same_is_a_copy():
    crossed = glyph_paths("A", "Pacifico", 40)[0]
    twice = concat([crossed, moved(crossed, 3, 0)])
    nonzero, even_odd, other = weld_clusters(
        [[Operand(twice)], [Operand(moved(twice, 100), even_odd=True)], [Operand(moved(twice, 200))]], STANDARD
    )
    assert signed_areas(nonzero[0]).sum() == pytest.approx(signed_areas(other[0]).sum(), rel=1e-6)
    assert signed_areas(even_odd[0]).sum() < 0.9 * signed_areas(nonzero[0]).sum()


def test_a_cluster_that_is_refused_leaves_the_others_welded():
    swallowed = [Operand(ring(20, 10)), Operand(circle(12))]  # a counter that was split off as a shape
    pair = [Operand(moved(circle(10), 100)), Operand(moved(circle(10), 110))]
    again = [Operand(moved(operand.path, 300)) for operand in swallowed]
    bad, good, bad_too = weld_clusters([swallowed, pair, again], STANDARD)
    assert isinstance(bad, GeometryRefused)
    assert str(bad_too) == str(bad)
    path, proof = good
    assert proof.pieces == 1
    assert signed_areas(path).sum() == pytest.approx(505.481561, rel=1e-3)


def test_what_lies_hidden_in_its_own_outline_is_told_by_the_rule():
    both = Operand(ring(20, 10).reversed([False, True]))
    assert covers_itself(both, STANDARD)
    assert not covers_itself(Operand(ring(20, 10)), STANDARD)
    assert not covers_itself(Operand(both.path, even_odd=True), STANDARD)


def test_an_outline_of_many_subpaths_is_welded_in_its_parts():
    rings = [moved(ring(8, 4), 20 * (k % 9), 20 * (k // 9)) for k in range(70)]
    bow = polygon((-50, 0), (-30, 20), (-30, 0), (-50, 20))
    pair = [moved(ring(8, 4), -40, 60), moved(ring(8, 4), -30, 60)]
    operands = [Operand(concat([*rings, bow, pair[0]])), Operand(pair[1])]
    [(path, proof)] = weld_clusters([operands], STANDARD)
    whole, own = weld(operands, STANDARD)
    assert (proof.pieces, proof.counters, proof.counters_before) == (own.pieces, own.counters, own.counters_before)
    assert proof.pieces == 70 + 2 + 1
    assert proof.area_mm2 == pytest.approx(own.area_mm2)
    assert len(path.points) == len(whole.points)
    assert region(path, True, 0.002).symmetric_difference(region(whole, True, 0.002)).area < 1e-3
    swallowed = concat([*rings, moved(ring(20, 10), -60, 200)])
    [refused] = weld_clusters([[Operand(swallowed), Operand(moved(circle(12), -60, 200))]], STANDARD)
    assert isinstance(refused, GeometryRefused)
