"""What the judge of a weld draws: curves that were cut by their sources' vertices, sources finely only where something
is near.
"""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, moved
from unkelt.geometry.boolean import weld_many
from unkelt.geometry.boolean.chords import drawn_near, neighbours
from unkelt.geometry.boolean.curve_pieces import CurvePieces
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld_many import weld_clusters
from unkelt.geometry.flatten import Vertices, flatten, piece_counts
from unkelt.geometry.measure import part
from unkelt.geometry.path import CUBIC, LINE, QUAD, Path, concat
from unkelt.geometry.region import region
from unkelt.tolerance import STANDARD

CHORD = 0.002
WITHIN = 0.0005

places = st.floats(-20, 20, allow_nan=False)


def one_segment(points, degree: int = CUBIC) -> Path:
    return Path(np.array([points], float), np.array([degree], np.uint8), np.zeros(1, np.intp), np.zeros(1, bool))


def looked_for(piece: Path, source: Path) -> CurvePieces:
    owners = (np.zeros(len(path.points), np.intp) for path in (piece, source))
    return CurvePieces.of(piece, next(owners), source, next(owners), WITHIN)


@given(
    st.lists(st.tuples(places, places), min_size=4, max_size=4),
    st.sampled_from([QUAD, CUBIC]),
    st.floats(0.05, 1),
    st.booleans(),
    st.booleans(),
)
def test_a_piece_of_a_curve_is_found_with_its_ends_and_drawn_by_the_curves_vertices(points, degree, t, to_end, turned):
    source = one_segment([points[0], points[1], points[1] if degree == QUAD else points[2], points[3]], degree)
    handles = np.diff(source.points[0], axis=0)
    assume(np.hypot(*handles.T)[[0, 2]].min() > 1 and points[0] != points[3])
    [curve] = source.cubics()
    cut = part(curve, 1 - t, 1) if to_end else part(curve, 0, t)
    cut[0 if not to_end else 3] = curve[0 if not to_end else 3]
    piece = one_segment(cut[::-1] if turned else cut)
    found = looked_for(piece, source)
    assert found.source.tolist() == [0]
    low, high = (1 - t, 1.0) if to_end else (0.0, t)
    assert (found.begins[0], found.ends[0]) == pytest.approx((high, low) if turned else (low, high), abs=1e-9)
    assert found.off_mm[0] < 1e-9
    vertices, _ = found.drawn(piece, source, Vertices.even(piece_counts(source, CHORD)), CHORD)
    whole, _ = flatten(source, CHORD)
    inner = {tuple(row) for row in whole[1:-1]}
    assert all(tuple(row) in inner for row in vertices[1:-1])
    assert (
        shapely.hausdorff_distance(shapely.LineString(vertices), shapely.LineString(flatten(piece, CHORD)[0]))
        < 2 * CHORD
    )


def test_what_only_begins_like_a_curve_is_no_piece_of_it_and_is_drawn_evenly():
    source = one_segment([(0, 0), (0, 10), (10, 20), (20, 20)])
    bent = part(source.points[0], 0, 0.5)
    bent[2] += (0, 2 * WITHIN)
    other = one_segment(bent)
    found = looked_for(other, source)
    assert found.source.tolist() == [-1]
    vertices, _ = found.drawn(other, source, Vertices.even(piece_counts(source, CHORD)), CHORD)
    assert np.array_equal(vertices, flatten(other, CHORD)[0])


@given(
    st.sampled_from(["Pacifico", "Sacramento", "Alfa Slab One"]), st.sampled_from(["Bq", "aS8", "gs"]), st.floats(0, 12)
)
def test_where_lines_are_drawn_coarsely_nothing_meets_them(face, word, closer):
    paths = [moved(path, -closer * place) for place, path in enumerate(glyph_paths(word, face, 40))]
    whole = concat(paths)
    marks, _ = neighbours(paths, whole, 4 * CHORD)
    counts = piece_counts(whole, CHORD)
    counts[counts >= 8] += -counts[counts >= 8] % 4
    lines = []
    for vertices, owner in (drawn_near(whole, marks, CHORD).flattened(whole), flatten(whole, CHORD, counts)):
        rings = shapely.linestrings(vertices, indices=owner)
        sizes = np.cumsum([0, *map(len, paths)])
        lines.append([shapely.multilinestrings(rings[a:b]) for a, b in itertools.pairwise(sizes)])
    coarse, fine = lines
    assert sum(map(shapely.get_num_coordinates, coarse)) < sum(map(shapely.get_num_coordinates, fine))
    for i, j in itertools.combinations(range(len(paths)), 2):
        assert shapely.equals(shapely.intersection(coarse[i], coarse[j]), shapely.intersection(fine[i], fine[j]))


def handle_moved(path: Path) -> Path:
    points, longest = path.points.copy(), int(np.argmax(np.abs(np.diff(path.points, axis=1)).sum(axis=(1, 2))))
    points[longest, 1:3] += 0.1
    return Path(points, path.degrees, path.starts, path.closed)


def curve_for_line(path: Path) -> Path:
    points, degrees = path.points.copy(), path.degrees.copy()
    bent = np.flatnonzero(degrees != LINE)[0]
    points[bent, 1], points[bent, 2], degrees[bent] = points[bent, 0], points[bent, 3], LINE
    return Path(points, degrees, path.starts, path.closed)


@pytest.mark.parametrize(
    "lie",
    [
        handle_moved,
        curve_for_line,
        lambda path: path.select(range(1, len(path))),
        lambda path: concat([path, circle(1)]),
    ],
    ids=["a handle moved", "a line for a curve", "a ring lost", "a ring too many"],
)
def test_an_engine_that_lies_is_found_out(monkeypatch, lie):
    cluster = [Operand(path) for path in glyph_paths("ao", "Pacifico", 40)]
    cluster[1] = Operand(moved(cluster[1].path, -4))
    [(honest, _)] = weld_clusters([cluster], STANDARD)
    true_engine = weld_many.unions
    lied = []

    def lies(clusters, tolerance, drawn):
        lied.extend(lie(path) for path in true_engine(clusters, tolerance, drawn))
        return lied

    monkeypatch.setattr(weld_many, "unions", lies)
    fresh = [Operand(moved(each.path, 0)) for each in cluster]
    [(result, proof)] = weld_clusters([fresh], STANDARD)
    assert lied
    difference = shapely.symmetric_difference(region(result, False, CHORD), region(honest, False, CHORD))
    assert difference.area < 1e-3
    assert proof.max_deviation_mm < STANDARD.chord_mm
