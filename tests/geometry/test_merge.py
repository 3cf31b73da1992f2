"""Micro segments: merged with the rest unmoved, found and cured."""

import numpy as np
import pytest

from tests.builders import glyph_paths, outline, sheet, workshop
from unkelt.geometry.distance import line_distance
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import part
from unkelt.geometry.path import CUBIC, Path, polygon
from unkelt.geometry.reduce.merge import merge_micro, without_crowding
from unkelt.recipe import Call, apply
from unkelt.survey.checks import find_code


def crowded(path: Path, mm: float) -> Path:
    """Every segment with its last `mm` cut off as a segment of its own."""
    pieces = []
    for cubic in path.cubics():
        t = 1 - mm / np.linalg.norm(3 * (cubic[3] - cubic[2]))
        pieces += [part(cubic, 0, t), part(cubic, t, 1)]
    return Path(np.array(pieces), np.full(len(pieces), CUBIC, np.uint8), path.starts * 2, path.closed)


def test_what_was_cut_off_is_merged_again():
    path = glyph_paths("S", "Arvo", 60)[0]
    merged = merge_micro(crowded(path, 0.004), 0.02)
    assert merged.node_count == path.node_count
    assert line_distance(lines(path, 0.001), lines(merged, 0.001)) < 0.006


@pytest.mark.parametrize("letter", "Sag8&")
@pytest.mark.parametrize("mm", [0.003, 0.012])
def test_what_is_said_of_merging_where_it_changed_holds_for_all_of_the_line(letter, mm):
    received = crowded(glyph_paths(letter, "Pacifico", 60)[0], mm)
    found = without_crowding(received, received, 0.0, 0.02, 0.02)
    assert found is not None
    merged, away = found
    assert merged.node_count == received.node_count / 2
    really = line_distance(lines(received, 1e-4), lines(merged, 1e-4), 1e-4)
    assert really - 2e-4 <= away <= min(really + 0.0015, 0.02)
    assert without_crowding(received, received, 0.0, 0.02, really / 2) is None


@pytest.mark.parametrize("closed", [True, False])
def test_lines_stay_lines_and_ends_stay_put(closed):
    path = polygon((0, 0), (0.001, 0), (10, 0), (10, 0.001), (10, 10), (9.999, 10), closed=closed)
    merged = merge_micro(path, 0.02)
    assert merged.node_count == 3
    assert (merged.points[0, 0] == (0, 0)).all() or closed
    assert closed or (merged.points[-1, 3] == (9.999, 10)).all()
    assert (merged.points[:, 1] == merged.points[:, 0]).all()


def test_a_speck_of_nothing_else_stays():
    speck = polygon((0, 0), (0.01, 0), (0.01, 0.01))
    assert merge_micro(speck, 0.02).node_count == 3


def test_crowded_nodes_are_found_and_cured_within_the_tolerance():
    on = sheet(outline("s", crowded(glyph_paths("S", "Arvo", 60)[0], 0.004)))
    (finding,) = find_code("nodes.crowded", on, workshop())
    assert "4.0 µm" in finding.detail
    outcome = apply(Call("merge-nodes", rule="nodes.crowded"), on, workshop())
    assert outcome.evidence.nodes_after == outcome.evidence.nodes_before / 2
    assert outcome.evidence.max_deviation_mm <= 0.02
    assert find_code("nodes.crowded", outcome.sheet, workshop()) == ()
