"""Curves that lie aside are drawn as their chords while outlines are welded, and nobody can tell from the result."""

import itertools

import numpy as np
import pytest
import shapely
from fontTools.misc.transform import Transform
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, moved
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.boolean.chords import Chorded, aside, neighbours
from unkelt.geometry.boolean.combine import combine
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.engine_cuts import without_engine_cuts
from unkelt.geometry.boolean.stretches import CHORD, GOES_ON
from unkelt.geometry.boolean.touching import touching
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.boolean.weld_many import weld_clusters
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import part, signed_areas
from unkelt.geometry.path import CUBIC, LINE, QUAD, Path, concat, polygon
from unkelt.geometry.region import counters, region
from unkelt.tolerance import STANDARD

APART = 0.008


def drawn(data: str) -> Path:
    return parse_path_data(data).path


def keeps(result: Path, segments) -> bool:
    """Whether a result has these segments to the last bit, in either direction."""
    rows = {row.tobytes() for points in (result.points, result.points[:, ::-1]) for row in points + 0.0}
    return all(segment.tobytes() in rows for segment in segments + 0.0)


def letters(face: str, word: str, closer: float, turn: float) -> list[Path]:
    matrix = Transform().rotate(turn)
    return [moved(path, -closer * place).transformed(matrix) for place, path in enumerate(glyph_paths(word, face, 40))]


words = st.builds(
    letters,
    st.sampled_from(["Pacifico", "Sacramento", "Alfa Slab One"]),
    st.sampled_from(["Bq", "aS8", "gs"]),
    st.floats(0, 12),
    st.floats(0, 6),
)


@given(words, st.booleans())
def test_no_other_line_comes_into_the_hull_of_a_run_that_lies_aside(paths, in_company):
    whole = concat(paths)
    if in_company:
        neighbours(paths, whole, APART)
        paths = paths[:-1]
        whole = concat(paths)
    marks = aside([paths], APART)
    chosen = (marks & CHORD) > 0
    begins = np.flatnonzero((marks & GOES_ON) == 0)
    assert chosen.any()
    counts = np.diff(np.append(begins, len(marks)))
    hulls = shapely.convex_hull(
        shapely.multipoints(whole.points.reshape(-1, 2), indices=np.repeat(np.arange(len(begins)), 4 * counts))
    )
    run_of = np.repeat(np.arange(len(begins)), counts)
    after = run_of[whole.following()[begins + counts - 1]]
    for index in np.flatnonzero(chosen[begins]).tolist():
        strangers = np.setdiff1d(np.arange(len(hulls)), [index, after[index], *np.flatnonzero(after == index)])
        assert shapely.distance(hulls[index], hulls[strangers]).min() > APART
        common = shapely.intersection(hulls[index], hulls[after[index]])
        assert shapely.distance(common, shapely.Point(whole.points[begins[index] + counts[index] - 1, 3])) < 1e-9
        assert shapely.length(common) < 1e-6


@given(words, st.floats(0.001, 0.2))
def test_chords_leave_pieces_and_counters_as_they_are_and_curves_come_back(paths, apart):
    chorded = Chorded.of([paths], apart)
    areas = [region(path, False, 5e-4) for path in chorded.paths]
    for path, drawn_path, area in zip(paths, chorded.paths, areas, strict=True):
        assert len(drawn_path.points) < len(path.points)
        was = region(path, False, 5e-4)
        assert [len(shapely.get_parts(each)) for each in (was, area)] == [len(shapely.get_parts(was))] * 2
        assert len(counters(area, 0)) == len(counters(was, 0))
    [back] = chorded.restored([concat(chorded.paths).reversed()], np.array([shapely.union_all(areas)]))
    assert back == concat(paths).reversed()


def test_what_chords_would_leave_little_of_keeps_its_shape():
    # Three arcs whose chords lie nearly on a line.
    sliver = drawn("M0 0C6 -4 14 -4 20 0C15 3 12 3 10 0.001C8 3 5 3 0 0Z")
    assert not (aside([[sliver]], APART) & CHORD).any()


@given(words)
def test_a_weld_by_chords_fills_what_geos_fills_and_has_no_node_of_its_own(paths):
    operands = [Operand(path) for path in paths]
    cluster = max(touching(operands, STANDARD), key=len)
    [(result, proof)] = weld_clusters([[operands[i] for i in cluster]], STANDARD)
    sources = concat([paths[i] for i in cluster])
    union = shapely.union_all([region(paths[i], False, 2e-4) for i in cluster])
    ours = region(result, False, 2e-4)
    assert shapely.area(shapely.symmetric_difference(ours, union)) < 2e-3 * shapely.length(union)
    assert proof.area_mm2 == pytest.approx(float(signed_areas(result).sum()))
    # Every node is a source's, or lies where two of the sources' segments cross.
    known = {tuple(node) for node in sources.points[:, 3]}
    new = [node for node in result.points[:, 3] if tuple(node) not in known]
    each = [sources.subpath(i) for i in range(len(sources))]
    segments = [
        lines(Path(p.points[k : k + 1], p.degrees[k : k + 1], np.zeros(1, np.intp), np.array([False])), 1e-4)
        for p in each
        for k in range(len(p.points))
    ]
    for node in new:
        assert (shapely.distance(np.array(segments, object), shapely.Point(node)) < 2e-3).sum() >= 2


def test_curves_whose_chords_run_straight_on_are_all_there():
    # The engine makes one line of two that run straight on, so that these chords can't be found again.
    wave = drawn("M0 0C5 -8 15 -8 20 0C25 -8 35 -8 40 0L40 30L0 30Z")
    [(result, _)] = weld_clusters([[Operand(wave), Operand(moved(wave, 10, 25))]], STANDARD)
    assert keeps(result, wave.points[:2])


def test_a_chord_that_was_changed_is_noticed():
    chorded = Chorded.of([[circle(10)]], APART)
    [path] = chorded.paths
    assert (path.degrees == LINE).all()
    area = [region(path, False, APART / 4)]
    [same] = chorded.restored([path], np.array(area))
    assert same == circle(10)
    first = path.points[0]
    cut = polygon(*(tuple(point) for point in (first[0], first[[0, 3]].mean(axis=0), *path.points[:-1, 3])))
    [lost] = chorded.restored([cut], np.array(area))
    assert lost is None
    [left_out] = chorded.restored([polygon((40, 0), (50, 0), (50, 9))], np.array([shapely.box(40, 0, 50, 9)]))
    assert (left_out.degrees == LINE).all()  # covered by something else


@pytest.mark.parametrize("degree", [LINE, QUAD, CUBIC])
@given(cut=st.floats(0.05, 0.95), again=st.floats(0.1, 0.9), turn=st.floats(0, 6))
def test_what_an_engine_cut_is_one_again(degree, cut, again, turn):
    bend = {LINE: "L60 0", QUAD: "Q25 30 60 0", CUBIC: "C20 40 30 -30 60 0"}[degree]
    path = drawn(f"M0 0{bend}L70 50L-5 40Z").transformed(Transform().rotate(turn))
    cubic = path.cubics()[0]
    places = (0.0, cut * again, cut, 1.0)
    pieces = [part(cubic, a, b) for a, b in itertools.pairwise(places)]
    for index in range(1, 3):
        pieces[index][0] = pieces[index - 1][3]
    if degree == LINE:
        pieces = [piece[[0, 0, 3, 3]] for piece in pieces]
    elif degree == QUAD:
        handles = [(3 * (p[1] + p[2]) - p[0] - p[3]) / 4 for p in pieces]
        pieces = [np.stack([p[0], h, h, p[3]]) for p, h in zip(pieces, handles, strict=True)]
    in_pieces = Path(
        np.concatenate([pieces, path.points[1:]]),
        np.append(np.full(2, degree, np.uint8), path.degrees),
        path.starts,
        path.closed,
    )
    nodes = np.array([False, False, True, True, True, True])[: len(in_pieces.points)]
    one = without_engine_cuts(in_pieces, nodes, 5e-4)
    assert one.degrees.tolist() == path.degrees.tolist()
    assert np.abs(one.points - path.points).max() < 1e-8
    kept = without_engine_cuts(in_pieces, np.ones(len(nodes), bool), 5e-4)
    assert kept == in_pieces


def test_a_curve_that_bends_both_ways_is_cut_at_crossings_alone():
    # The engine cuts it where it turns from one way to the other.
    snake = drawn("M0 0C30 60 30 -60 60 0L60 60L0 60Z")
    bar = polygon((10, -30), (14, -30), (14, 70), (10, 70))
    assert len(weld([Operand(snake), Operand(bar)], STANDARD)[0].points) == 12
    left, _ = combine("difference", [Operand(snake)], [Operand(bar)], STANDARD)
    assert len(left.points) == 8
    crossing_nothing = drawn("M0 0C80 90 -20 -90 60 0L60 60L0 60Z")
    [(same, _)] = weld_clusters([[Operand(crossing_nothing), Operand(polygon((50, 50), (70, 50), (70, 70)))]], STANDARD)
    assert keeps(same, crossing_nothing.points[:1])


def test_what_lies_aside_is_asked_of_the_group_alone():
    """Not of the company in which its paths were looked at before, by whoever else: another thread may be trying a step
    on the same sheet.
    """

    def letters():
        return [moved(path, 0, 0) for path in glyph_paths("Kitti", "Pacifico", 60)]

    alone, before = letters(), letters()
    neighbours(before, concat(before), APART)
    assert (aside([alone[:2]], APART) == aside([before[:2]], APART)).all()
