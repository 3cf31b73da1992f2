"""Offsets and strokes against closed forms, GEOS buffers and an independent renderer.

Steiner: a convex outline of area A and perimeter P, offset by r with round joins, has area A + P r + π r². The figures
are those of the published closed forms; mitre ratios are 1 / sin(θ/2) (SVG 1.1, section 11.4).
"""

import math

import numpy as np
import pathops
import pytest
import shapely
from fontTools.misc.transform import Transform
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.builders import glyph_paths, moved, rolled, square
from tests.rendering import drawn
from unkelt.errors import GeometryRefused
from unkelt.formats.svg.pathdata import format_path_data, parse_path_data
from unkelt.geometry.measure import lengths, signed_areas
from unkelt.geometry.offset.band import stroke_area
from unkelt.geometry.offset.dashes import corners_by_ends, dashed
from unkelt.geometry.offset.offset import offset_path, stroke_path
from unkelt.geometry.offset.pen import Pen
from unkelt.geometry.path import LINE, polygon
from unkelt.geometry.region import filled, region
from unkelt.tolerance import STANDARD

HEXAGON = polygon(*[(10 * math.cos(math.pi / 3 * k), 10 * math.sin(math.pi / 3 * k)) for k in range(6)])
TRIANGLE = polygon((0, 0), (4, 0), (4, 3))
WORDS = [("Pacifico", "Ki"), ("Arvo", "R&"), ("Dancing Script", "ef"), ("Barlow", "s6"), ("Sacramento", "t")]


def path_of(d):
    return parse_path_data(d, 1e-4).path


def area(path):
    return float(signed_areas(path).sum())


@pytest.mark.parametrize(
    ("path", "distance", "join", "expected"),
    [
        (square(10), 3, "round", 248.274334),
        (square(10), 3, "miter", 256.0),
        (square(10), -3, "miter", 16.0),
        (HEXAGON, 2, "round", 392.373990),
        (HEXAGON, -2, "miter", 153.664028),
        (TRIANGLE, 1, "round", 21.141593),
        (TRIANGLE, 1, "miter", 24.0),
        (path_of("M300 200a50 50 0 1 0 -100 0a50 50 0 1 0 100 0z"), 7, "miter", math.pi * 57**2),
    ],
)
def test_convex_outlines_follow_steiner(path, distance, join, expected):
    result, proof = offset_path(path, distance, STANDARD, join)
    assert area(result) == pytest.approx(expected, rel=1e-5)
    assert proof.max_deviation_mm <= STANDARD.chord_mm
    if join == "miter" and (path.degrees == LINE).all():
        assert len(result.points) == len(path.points)
        assert (result.degrees == LINE).all()


def test_a_corner_is_cut_flat_beyond_the_mitre_limit():
    # 4 is the ratio at 28.955°: a tip of 29° keeps its point, one of 28.9° loses it.
    for angle, nodes in ((29.0, 3), (28.9, 4)):
        half = math.radians(angle / 2)
        tip = polygon((0, 0), (50 * math.cos(half), 50 * math.sin(half)), (50 * math.cos(half), -50 * math.sin(half)))
        assert len(offset_path(tip, 1, STANDARD, "miter", 4)[0].points) == nodes


def test_counters_close_and_thin_parts_vanish_as_geos_says():
    ring = path_of("M0 0H40V30H0ZM10 10V12H30V10Z")
    assert offset_path(ring, 1.1, STANDARD)[1].counters == 0
    assert offset_path(ring, 0.9, STANDARD)[1].counters == 1
    dumb_bell = polygon(
        (0, 0), (10, 0), (10, 4), (20, 4), (20, 0), (30, 0), (30, 10), (20, 10), (20, 6), (10, 6), (10, 10), (0, 10)
    )
    assert offset_path(dumb_bell, -1.2, STANDARD)[1].pieces == 2
    assert len(offset_path(square(10), -6, STANDARD)[0]) == 0


@pytest.mark.parametrize(("family", "letters"), WORDS)
@pytest.mark.parametrize("distance", [3.0, 0.25, -0.2])
@pytest.mark.parametrize("join", ["round", "miter"])
def test_lettering_grows_by_the_distance_and_stays_curves(family, letters, distance, join):
    for path in glyph_paths(letters, family, 40):
        result, proof = offset_path(path, distance, STANDARD, join)
        assert proof.max_deviation_mm <= STANDARD.chord_mm
        assert proof.fitted_rings == 0
        assert len(result.points) <= 2 * len(path.points)
        if join == "round":  # GEOS leaves out detail below 1 % of the distance
            source = region(path, False, 0.001)
            theirs = source.buffer(distance, quad_segs=64)
            assert region(result, False, 0.001).hausdorff_distance(theirs) <= 0.011 * abs(distance) + 0.01


def test_tiny_lettering_is_no_coarser():
    """10 points high, grown by 0.05 mm: the deviation is measured against the distance itself."""
    path = glyph_paths("g", "Arvo", 10 * 25.4 / 72)[0]
    result, proof = offset_path(path, 0.05, STANDARD, "miter")
    edge = region(path, False, 1e-4).boundary
    t = result.points[:, 0]
    assert np.abs([edge.distance(shapely.Point(node)) - 0.05 for node in t]).max() < 0.03
    assert proof.max_deviation_mm < 0.006
    assert proof.fitted_rings == 0


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 30), st.booleans(), st.floats(0, 6.3), st.sampled_from([1e-1, 1.0, 10.0]))
def test_an_offset_does_not_depend_on_start_direction_place_or_size(start, backwards, turn, scale):
    path = glyph_paths("S", "Alfa Slab One", 30)[0]
    changed = rolled(path, start).reversed() if backwards else rolled(path, start)
    cos, sin = scale * math.cos(turn), scale * math.sin(turn)
    changed = changed.transformed(Transform(cos, sin, -sin, cos, 7, -3))
    plain, proof = offset_path(path, 0.4, STANDARD, "round")
    other, again = offset_path(changed, 0.4 * scale, STANDARD, "round")
    assert (proof.pieces, proof.counters) == (again.pieces, again.counters)
    assert area(other) == pytest.approx(scale**2 * area(plain), rel=3e-4 / min(1, scale))


def test_out_and_in_again_contains_the_core():
    path = glyph_paths("B", "Arvo", 40)[0]
    out, _ = offset_path(path, 1.0, STANDARD, "round")
    back, _ = offset_path(out, -1.0, STANDARD, "round")
    core = region(path, False, 0.002).buffer(-0.01)
    assert core.difference(region(back, False, 0.002)).area < 1e-6


STROKED = {
    "curl": "M20 60C40 -10 80 130 100 40S60 20 30 100",
    "zigzag": "M20 20L60 90 70 20 75 90 100 20",
    "triangle": "M20 90L60 20 100 90Z",
    "arch": "M20 90A40 40 0 0 1 100 90",
    "crossing": "M20 20L100 100M100 20L20 100",
}


@pytest.mark.parametrize("name", STROKED)
@pytest.mark.parametrize("join", ["miter", "round", "bevel"])
@pytest.mark.parametrize("cap", ["butt", "round", "square"])
def test_strokes_look_as_an_independent_renderer_draws_them(name, join, cap):
    d, pen = STROKED[name], Pen(7, join, cap, 4)
    if name == "crossing":
        pen = Pen(7, join, cap, 4, (9, 5, 2), 3)
    result, proof = stroke_path(path_of(d), pen, STANDARD)
    assert proof.max_deviation_mm <= STANDARD.chord_mm
    dashes = f'stroke-dasharray="{" ".join(map(str, pen.dashes_mm))}" stroke-dashoffset="3"' if pen.dashes_mm else ""
    theirs = drawn(
        page(
            f'<path d="{d}" fill="none" stroke="#000" stroke-width="7" stroke-linejoin="{join}" stroke-linecap="{cap}" {dashes}/>'
        )
    )
    ours = drawn(page(f'<path d="{format_path_data(result)}"/>'))
    overlap = np.minimum(theirs, ours).sum() / np.maximum(theirs, ours).sum()
    assert overlap > 0.994  # the renderer's own curves are good to a quarter of a pixel
    assert np.abs(theirs - ours).max() < 160


@pytest.mark.parametrize("width", [2.0, 7.0])
def test_a_flat_end_lies_across_the_curve_and_not_across_its_first_chord(width):
    """A line that goes on where a curve begins meets it with no notch between them (SVG 1.1, 11.4: a butt cap is
    perpendicular).
    """
    turning = "M30 60c0 1.8 4.3 3.2 9.6 3.2"
    for d in (f"{turning}M30 30V60.002", turning):
        result, proof = stroke_path(path_of(d), Pen(width), STANDARD)
        drawn_by_us = region(result, False, 1e-4)
        for corner in ((30 - width / 2, 60), (30 + width / 2, 60)):
            assert shapely.distance(drawn_by_us, shapely.Point(corner)) < 0.001
        if d != turning:
            assert drawn_by_us.contains(shapely.box(30.01 - width / 2, 59, 30 + width / 2 - 0.05, 60.05))
            assert proof.pieces == 1


PLACES = st.lists(st.tuples(st.integers(0, 40), st.integers(0, 40)), min_size=3, max_size=5, unique=True)


@given(PLACES, st.integers(1, 60), st.sampled_from(["miter", "bevel"]), st.sampled_from(["butt", "square"]))
def test_a_line_shorter_than_its_stroke_is_wide_is_stroked_as_skia_does(places, width, join, cap):
    """Skia's stroker is another program than GEOS, which says what we cover. Where a line folds back it has no mitre."""
    ways = np.diff(np.array(places, float), axis=0) @ [1, 1j]
    assume((np.abs(np.angle(ways[1:] / ways[:-1])) < 3.1).all())
    theirs = pathops.Path()
    pen = theirs.getPen()
    pen.moveTo(places[0])
    for place in places[1:]:
        pen.lineTo(place)
    pen.endPath()
    theirs.stroke(width, pathops.LineCap[f"{cap.upper()}_CAP"], pathops.LineJoin[f"{join.upper()}_JOIN"], 4.0)
    rings = [[points[-1] for verb, points in contour.segments if points] for contour in theirs.contours]
    path = path_of("M" + "L".join(f"{x} {y}" for x, y in places))
    ours = stroke_area(path, Pen(width, join, cap, 4), 1e-3)
    assert ours.symmetric_difference(filled([np.array(ring) for ring in rings], False)).area < 1e-3 * width


@settings(max_examples=15)
@given(st.tuples(*[st.integers(0, 20)] * 8), st.integers(1, 60))
def test_a_curve_that_bends_more_tightly_than_its_stroke_is_wide_is_covered(numbers, width):
    """A stroke is all that lies across its line (SVG 2, 13.5.1), also past the centre of a bend."""
    curve = np.array(numbers, float).reshape(4, 2)
    assume(min(np.linalg.norm(curve[1] - curve[0]), np.linalg.norm(curve[3] - curve[2])) > 1)
    area = stroke_area(path_of("M{} {}C{} {} {} {} {} {}".format(*numbers)), Pen(width), 1e-3)
    t = np.linspace(0, 1, 101)[:, None]
    at = ((1 - t) ** [3, 2, 1, 0] * t ** [0, 1, 2, 3] * [1, 3, 3, 1]) @ curve
    way = ((1 - t) ** [2, 1, 0] * t ** [0, 1, 2] * [3, 6, 3]) @ np.diff(curve, axis=0)
    assume(np.linalg.norm(way, axis=1).min() > 0.1)  # no cusp, where a line has no direction
    across = np.stack([-way[:, 1], way[:, 0]], axis=1) / np.linalg.norm(way, axis=1)[:, None]
    for share in (-0.5, -0.3, 0.3, 0.5):
        assert shapely.distance(area, shapely.points(at + share * width * across)).max() < 0.0015
    assert area.difference(shapely.LineString(at).buffer(width / 2 + 0.05, quad_segs=64)).area < 1e-3


def page(content):
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="720" height="720" viewBox="0 0 120 120">{content}</svg>'


def test_a_pen_that_is_not_round():
    """A stroke under scale(3 1): as if drawn with a flat pen, then compared with the renderer."""
    d = "M6 20C20 60 20 0 35 30"
    pen = Pen(4 * math.sqrt(3), "round", "round", shape=(math.sqrt(3), 0, 0, 1 / math.sqrt(3)))
    result, _ = stroke_path(path_of(d).transformed(Transform(3, 0, 0, 1, 0, 0)), pen, STANDARD)
    theirs = drawn(
        page(
            f'<path transform="scale(3 1)" d="{d}" fill="none" stroke="#000" stroke-width="4" stroke-linejoin="round" stroke-linecap="round"/>'
        )
    )
    ours = drawn(page(f'<path d="{format_path_data(result)}"/>'))
    assert np.minimum(theirs, ours).sum() / np.maximum(theirs, ours).sum() > 0.996


def test_dashes_have_their_lengths_on_curves_too():
    path = path_of("M0 0C30 60 60 -60 90 0L120 0")
    dashes = dashed(path, (7, 3), 2)
    assert not dashes.closed.any()
    assert lengths(dashes)[:-1] == pytest.approx([5, *[7] * (len(dashes) - 2)], abs=1e-3)
    whole = float(lengths(path).sum())
    assert lengths(dashes).sum() == pytest.approx(5 + sum(min(7, whole - s) for s in np.arange(8, whole, 10)), abs=0.01)
    assert dashed(path, (0, 0), 0) is path
    with pytest.raises(GeometryRefused, match="dashes"):
        dashed(path, (1e-5, 1e-5), 0)


@pytest.mark.parametrize(
    ("pattern", "offset", "starts"),
    [
        ((4, 2), -2, [2, 8]),  # a dash that would end where the line starts is none
        ((4 / 0.61, 2 / 0.61), -2 / 0.61, [2 / 0.61]),  # as it comes out of scaling
        ((0, 4), 0, [0, 4, 8]),  # a dot that starts with the line is one; where the line ends, none begins
        ((0, 4), 4, [0, 4, 8]),
        ((3, 9), 0, [0]),
    ],
)
def test_dashes_begin_and_end_with_the_line_as_renderers_have_it(pattern, offset, starts):
    """A line of 12 mm. Skia and resvg begin with the next length where one is used up (common practice)."""
    found = dashed(polygon((0, 0), (12, 0), closed=False), pattern, offset)
    assert found.points[found.starts, 0, 0].tolist() == pytest.approx(starts)


def test_only_corners_that_a_dash_misses_by_rounding_are_told():
    zigzag = polygon((0, 0), (10, 0), (10, 20.002), (30, 20.002), (30, 3), closed=False)
    found = corners_by_ends(zigzag, (10, 5), 0)  # ends at 10, on the first corner, and at 30, 2 µm before the second
    assert found.tolist() == [[10, 0], [10, 20.002]]
    assert len(corners_by_ends(zigzag, (10, 5), 0.1)) == 0
    assert len(corners_by_ends(square(20), (20, 80), 0)) == 1  # at 20; the start is drawn by all alike


def test_points_and_hairlines():
    assert area(stroke_path(path_of("M5 5h0"), Pen(2, cap="round"), STANDARD)[0]) == pytest.approx(math.pi, rel=1e-4)
    assert area(stroke_path(path_of("M5 5h0"), Pen(2, cap="square"), STANDARD)[0]) == pytest.approx(4)
    assert len(stroke_path(path_of("M5 5h0"), Pen(2), STANDARD)[0]) == 0
    assert area(stroke_path(path_of("M5 5h10"), Pen(0.02), STANDARD)[0]) == pytest.approx(0.2)
    with pytest.raises(GeometryRefused, match="no width"):
        stroke_path(path_of("M5 5h10"), Pen(0), STANDARD)


def test_two_strokes_that_cross_are_one_outline():
    result, proof = stroke_path(path_of("M0 0L20 20M0 20L20 0"), Pen(2), STANDARD)
    assert proof.pieces == 1
    assert area(result) == pytest.approx(2 * 2 * math.sqrt(800) - 4, rel=1e-6)
    assert len(result) == len(moved(result, 1)) == 1
