"""Many clusters welded together: the same as one by one, and a bad one doesn't spoil the others."""

import pytest

from tests.builders import circle, glyph_paths, moved, ring
from unkelt.errors import GeometryRefused
from unkelt.geometry.engine import Operand
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.weld import covers_itself, touching, weld
from unkelt.geometry.weld_many import weld_clusters
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
        assert path == alone
        assert (proof.pieces, proof.counters, proof.counters_before) == (own.pieces, own.counters, own.counters_before)
        assert proof.area_mm2 == pytest.approx(own.area_mm2)
        assert proof.area_second_mm2 == pytest.approx(own.area_second_mm2)


def test_a_cluster_that_is_refused_leaves_the_others_welded():
    swallowed = [Operand(ring(20, 10)), Operand(circle(12))]  # a counter that was split off as a shape
    pair = [Operand(moved(circle(10), 100)), Operand(moved(circle(10), 110))]
    bad, good = weld_clusters([swallowed, pair], STANDARD)
    assert isinstance(bad, GeometryRefused)
    path, proof = good
    assert proof.pieces == 1
    assert signed_areas(path).sum() == pytest.approx(505.481561, rel=1e-3)


def test_what_lies_hidden_in_its_own_outline_is_told_by_the_rule():
    both = Operand(ring(20, 10).reversed([False, True]))
    assert covers_itself(both, STANDARD)
    assert not covers_itself(Operand(ring(20, 10)), STANDARD)
    assert not covers_itself(Operand(both.path, even_odd=True), STANDARD)
