"""Node reduction: its bound holds when somebody else measures, and corners, circles and topology are kept."""

import numpy as np
import pytest
from fontTools.misc.transform import Transform
from hypothesis import given
from hypothesis import strategies as st
from shapely import LineString, hausdorff_distance, linestrings

from tests.builders import circle, glyph_paths, rolled
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.cache import Cache, use
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import end_tangents, halve, signed_areas
from unkelt.geometry.nesting import fill_rings, nest
from unkelt.geometry.path import CUBIC, LINE, Path, polygon
from unkelt.geometry.reduce import fit
from unkelt.geometry.reduce.reduce import reduce_many, reduce_nodes

# Faces that the feasibility study behind the thresholds did not use.
WORDS = [("Sea Thrift", "Pacifico"), ("Kittiwake", "Sacramento"), ("BERTH 12", "Arvo")]


def split(path: Path, times: int = 3) -> Path:
    """Each segment cut into 2^times by de Casteljau: the same curves with far too many nodes."""
    points = path.cubics()
    for _ in range(times):
        points = np.stack(halve(points), axis=1).reshape(-1, 4, 2)
    return Path(points, np.full(len(points), CUBIC, np.uint8), path.starts * 2**times, path.closed)


@pytest.mark.parametrize(("word", "family"), WORDS)
@pytest.mark.parametrize("tolerance", [0.01, 0.05])
def test_split_outlines_come_back_within_the_tolerance(word, family, tolerance):
    for path in glyph_paths(word, family, 70):
        reduced = reduce_nodes(split(path), tolerance)
        assert reduced.path.node_count <= path.node_count  # never more than the designer drew
        assert reduced.bound_mm <= tolerance
        # Measured by GEOS: both ways, on polylines finer than the bound.
        found = hausdorff_distance(lines(path, tolerance / 20), lines(reduced.path, tolerance / 20), densify=0.25)
        assert found <= reduced.bound_mm + tolerance / 10


def test_polylines_come_back_as_curves():
    path = glyph_paths("S", "Pacifico", 70)[0]
    vertices = lines(path, 0.005).geoms[0].coords[:-1]
    reduced = reduce_nodes(polygon(*vertices), 0.02)
    assert len(vertices) > 3 * path.node_count
    assert reduced.path.node_count <= path.node_count
    assert reduced.bound_mm <= 0.02


def test_a_circle_is_four_arcs_whatever_its_start():
    for by in range(0, 32, 5):
        reduced = reduce_nodes(rolled(circle(10, arcs=32), by), 0.02)
        assert reduced.path.node_count == 4
        assert sorted(np.abs(reduced.path.points[:, 0]).round(3).tolist()) == [[0, 10], [0, 10], [10, 0], [10, 0]]
    backwards = reduce_nodes(circle(10, arcs=32).reversed(), 0.02).path
    assert signed_areas(backwards)[0] == pytest.approx(-signed_areas(circle(10))[0], rel=1e-3)


@pytest.mark.parametrize(
    ("d", "nodes"),
    [
        ("M0 0H3H10V4V10H6H0V2Z", 4),  # collinear runs
        ("M0 0H10L5 8Z", 3),
        ("M5 0H45a5 5 0 0 1 5 5V25a5 5 0 0 1-5 5H5a5 5 0 0 1-5-5V5a5 5 0 0 1 5-5Z", 8),
    ],
)
def test_ideal_counts(d, nodes):
    path = parse_path_data(d, 1e-3).path
    reduced = reduce_nodes(split(path) if "a" in d else path, 0.01)
    assert reduced.path.node_count == nodes
    assert signed_areas(reduced.path)[0] == pytest.approx(signed_areas(path)[0], rel=1e-4)


def test_corners_keep_their_place_and_angle():
    star = polygon((0, -10), (3, -3), (10, 0), (3, 3), (0, 10), (-3, 3), (-10, 0), (-3, -3))
    reduced = reduce_nodes(split(star), 0.05).path
    assert {tuple(p) for p in star.points[:, 0]} == {tuple(p) for p in np.round(reduced.points[:, 0], 9)}
    assert (reduced.degrees == LINE).all()


def test_what_cannot_be_reduced_is_returned_as_it_was():
    path = polygon((0, 0), (10, 0), (10, 10))
    assert reduce_nodes(path, 0.01).path is path


def test_a_hairline_band_is_not_closed_up():
    """Two rings 0.03 mm apart under a tolerance of 0.05 mm: the nesting must survive."""
    path = parse_path_data("M0 0H40V40H0ZM.03 .03V39.97H39.97V.03Z").path
    both = split(path)
    reduced = reduce_nodes(both, 0.05).path
    nesting = nest(fill_rings(reduced, 0.005)[0])
    assert nesting is not None
    assert sorted(map(len, nesting.containers)) == [0, 1]


@given(st.lists(st.tuples(st.floats(8, 12), st.floats(0.05, 0.4)), min_size=5, max_size=14), st.floats(0.005, 0.2))
def test_the_bound_holds_for_any_blob(spokes, tolerance):
    angles = np.cumsum([step for _, step in spokes])
    angles = angles / angles[-1] * 2 * np.pi
    points = [(r * np.cos(a), r * np.sin(a)) for (r, _), a in zip(spokes, angles, strict=True)]
    path = split(polygon(*points), 2)
    reduced = reduce_nodes(path, tolerance)
    assert reduced.bound_mm <= tolerance
    found = hausdorff_distance(lines(path, tolerance / 20), lines(reduced.path, tolerance / 20), densify=0.25)
    assert found <= reduced.bound_mm + tolerance / 10


def corners(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """Places and turns in degrees of nodes where one closed subpath turns by more than 15 degrees."""
    start, end = (v[:, 0] + 1j * v[:, 1] for v in end_tangents(path))
    turn = np.degrees(np.angle(start * np.roll(end, 1).conj()))
    sharp = np.abs(turn) > 15
    return path.points[sharp, 0], turn[sharp]


@pytest.mark.parametrize("level", [False, True])
@pytest.mark.parametrize(("word", "family"), WORDS)
def test_corners_of_letters_keep_their_place_and_nearly_their_angle(word, family, level):
    for path in glyph_paths(word, family, 70):
        for before in map(split, path.subpaths()):
            places, turns = corners(before)
            after, now = corners(reduce_nodes(before, 0.02, level).path)
            assert len(now) == len(turns)
            order = [int(np.abs(after - place).max(axis=1).argmin()) for place in places]
            np.testing.assert_allclose(after[order], places, atol=1e-9)
            np.testing.assert_allclose(now[order], turns, atol=4.1)


def test_level_nodes_are_kept_with_handles_along_the_axes():
    """The extrema of a turned ellipse, whose nodes lie elsewhere: half its box is √(a² cos² + b² sin²)."""
    turned = circle(1).transformed(Transform().rotate(0.5).scale(20, 9))
    reduced = reduce_nodes(split(turned), 0.02, level=True).path
    x, y = np.hypot(20 * np.cos(0.5), 9 * np.sin(0.5)), np.hypot(20 * np.sin(0.5), 9 * np.cos(0.5))
    nodes = reduced.points[:, 0]
    assert np.abs(nodes).max(axis=0) == pytest.approx([x, y], abs=0.02)
    axes = np.abs(reduced.points[:, 1] - nodes).min(axis=1) < 1e-9
    assert axes.sum() == 4
    fewest = reduce_nodes(split(turned), 0.02).path
    assert fewest.node_count <= reduced.node_count <= 8


def test_fewer_nodes_than_designed_at_a_wide_tolerance():
    """The study's measure, on faces it did not use: outlines with every segment cut in eight, 70 mm high, at 0.05
    mm.
    """
    paths = [path for word, family in WORDS[:2] for path in glyph_paths(word, family, 70)]
    designed = sum(path.node_count for path in paths)
    reduced = reduce_many([split(path) for path in paths], 0.05)
    assert sum(each.path.node_count for each in reduced) <= 0.45 * designed  # quadratics: two make about one cubic


def test_letters_that_are_the_same_elsewhere_are_reduced_alike_and_keep_their_own_nodes():
    (letter,) = glyph_paths("R", "Arvo", 60)
    dense = split(letter)
    there = dense.transformed(Transform(1, 0, 0, 1, 1234.56789, -7.1))
    one, other = reduce_many([dense, there], 0.02)
    assert other.path.node_count == one.path.node_count < dense.node_count
    np.testing.assert_allclose(other.path.points - there.points[0, 0], one.path.points - dense.points[0, 0], atol=1e-9)
    nodes = {node.tobytes() for node in there.points[:, 3]}
    kept = {node.tobytes() for node in dense.points[:, 3]}
    for here, moved in zip(one.path.points[:, 3], other.path.points[:, 3], strict=True):
        assert (here.tobytes() in kept) == (moved.tobytes() in nodes)
    assert hausdorff_distance(lines(there, 0.001), lines(other.path, 0.001)) <= other.bound_mm + 0.002


def test_what_comes_of_an_outline_depends_on_no_other(monkeypatch):
    """Fits are computed together: beside others, so many at a time or alone, each comes out the same to the last
    bit.
    """
    paths = [split(path) for path in glyph_paths("Kiwa25", "Pacifico", 70)]
    together = reduce_many(paths, 0.02)
    use(Cache())
    alone = [reduce_nodes(path, 0.02) for path in reversed(paths)][::-1]
    use(Cache())
    monkeypatch.setattr(fit, "AT_ONCE", 200)
    for results in (alone, reduce_many(paths, 0.02)):
        for one, other in zip(together, results, strict=True):
            assert np.array_equal(other.path.points, one.path.points)
            assert other.bound_mm == one.bound_mm


def lines_lost(before: Path, after: Path, least: float) -> list[LineString]:
    """The lines of a path, none shorter than that, which no line of the other covers from end to end."""
    asked, kept = (linestrings(path.points[path.degrees == LINE][:, [0, 3]]) for path in (before, after))
    around = [line.buffer(2e-5) for line in kept]
    return [line for line in asked if line.length >= least and not any(each.covers(line) for each in around)]


@pytest.mark.parametrize(("family", "size", "turn", "tolerance"), [
    ("Alfa Slab One", 40, 0, 0.05), ("Barlow", 40, 0, 0.02), ("Barlow", 15, 0.3, 0.02), ("Pacifico", 90, 0, 0.05),
    ("Sacramento", 40, 1, 0.05),
])  # fmt: skip
def test_straight_edges_stay_straight_from_end_to_end(family, size, turn, tolerance):
    """That the outline moves less than the tolerance is no excuse."""
    paths = [path.transformed(Transform().rotate(turn)) for path in glyph_paths("Kai 38", family, size)]
    for path, reduced in zip(paths, reduce_many(paths, tolerance), strict=True):
        after = reduced.path
        assert lines_lost(path, after, 5 * tolerance) == []
        nodes = {node.tobytes() for node in path.points[:, [0, 3]].reshape(-1, 2)}
        ends = after.points[after.degrees == LINE][:, [0, 3]].reshape(-1, 2)
        assert all(node.tobytes() in nodes for node in ends), "to the last bit, so that level stays level"


def test_a_straight_edge_is_one_line_however_it_is_written():
    """In pieces, as a curve, and with an arc smoothly at either end, so that one curve could follow all of it."""
    stadium = "M0 0H30C33 0 35 2 35 5S33 10 30 10H0C-3 10 -5 8 -5 5S-3 0 0 0Z"
    pieces = "M0 0H7H19H30C33 0 35 2 35 5S33 10 30 10C20 10 10 10 0 10C-3 10 -5 8 -5 5S-3 0 0 0Z"
    for drawn in (stadium, pieces):
        after = reduce_nodes(parse_path_data(drawn).path, 0.25).path
        straight = after.points[after.degrees == LINE]
        assert sorted(map(tuple, straight[:, [0, 3]].reshape(-1, 4).tolist())) == [(0, 0, 30, 0), (30, 10, 0, 10)]
