"""DXF, written by ezdxf, against closed forms and the DXF reference."""

import math
from dataclasses import replace

import ezdxf
import ezdxf.bbox
import numpy as np
import pyogrio.raw
import pytest
import shapely
from ezdxf.enums import TextEntityAlignment

from tests.builders import SHELF, outline, ring, sheet, square, workshop
from unkelt.errors import InputError
from unkelt.formats.dxf import blocks
from unkelt.formats.dxf.read import MARGIN_MM, read_dxf
from unkelt.formats.dxf.write import write_dxf
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds, evaluate, lengths, signed_areas
from unkelt.geometry.path import concat
from unkelt.job.ticket import Ticket
from unkelt.lettering.setting import set_lettering
from unkelt.recipe import Call, apply
from unkelt.survey.checks import find_code, survey


def dxf(tmp_path, draw, release="R2010", units=4, binary=False):
    document = ezdxf.new(release)
    document.header["$INSUNITS"] = units
    draw(document.modelspace())
    path = tmp_path / "a.dxf"
    document.saveas(path, fmt="bin" if binary else "asc")
    return path


def only(tmp_path, draw, **how):
    return read_dxf(dxf(tmp_path, draw, **how)).outlines()[0].path


@pytest.mark.parametrize(
    ("code", "mm"),
    # $INSUNITS, group code 70, DXF reference.
    [(1, 25.4), (2, 304.8), (4, 1), (5, 10), (6, 1000), (9, 0.0254), (10, 914.4), (14, 100)],
)
def test_units(tmp_path, code, mm):
    found = read_dxf(dxf(tmp_path, lambda msp: msp.add_line((0, 0), (2, 0)), units=code))
    assert lengths(found.outlines()[0].path)[0] == pytest.approx(2 * mm)
    assert not find_code("size.units", found, workshop())


def test_missing_units_are_a_finding_and_can_be_stated(tmp_path):
    found = read_dxf(dxf(tmp_path, lambda msp: msp.add_line((0, 0), (2, 0)), units=0))
    said = find_code("size.units", found, workshop())[0]
    assert "2.0 mm as mm, 50.8 mm as in" in said.message
    after = apply(Call("state-units", options={"units": "in"}), found, workshop()).sheet
    assert lengths(after.outlines()[0].path)[0] == pytest.approx(50.8)


@pytest.mark.parametrize("release", ["R12", "R2000", "R2018"])
@pytest.mark.parametrize("binary", [False, True])
def test_releases_ascii_and_binary(tmp_path, release, binary):
    def draw(msp):
        msp.add_circle((10, 20), 5)
        msp.add_line((0, 0), (30, 0))

    found = read_dxf(dxf(tmp_path, draw, release=release, units=4, binary=binary))
    circle = found.outlines()[0].path
    assert circle.closed.all()
    assert abs(signed_areas(circle)[0]) == pytest.approx(math.pi * 25, rel=1e-3)
    # y runs down here, from a margin around the drawing
    unit = 1.0
    assert bounds(circle) == pytest.approx(tuple(MARGIN_MM + v * unit for v in (5, 0, 15, 10)), abs=0.01)


@pytest.mark.parametrize(("bulge", "angle"), [(1, 180), (0.41421356, 90), (0.5, 106.2602), (-1, -180)])
def test_bulges_are_the_tangent_of_a_quarter_of_the_angle(tmp_path, bulge, angle):
    """tan(θ/4); 0.5 on a chord of 10 has R = 6.25, sagitta 2.5 (closed form)."""
    path = only(tmp_path, lambda msp: msp.add_lwpolyline([(0, 0, bulge), (10, 0, 0)], format="xyb"))
    radius = 10 * (1 + bulge**2) / (4 * abs(bulge))
    assert lengths(path)[0] == pytest.approx(radius * math.radians(abs(angle)), rel=2e-4)
    sagitta = 10 / 2 * abs(bulge)
    box = bounds(path)
    assert box[3] - box[1] == pytest.approx(sagitta if abs(angle) <= 180 else 2 * radius, abs=0.01)


def test_arcs_stay_within_their_error_whatever_their_size(tmp_path):
    path = only(tmp_path, lambda msp: msp.add_arc((0, 0), 500, 10, 250))
    points = evaluate(path.cubics(), np.tile(np.linspace(0, 1, 60), (len(path.points), 1))).reshape(-1, 2)
    ends = path.points[0, 0] - 500 * np.array([math.cos(math.radians(10)), -math.sin(math.radians(10))])
    assert np.abs(np.linalg.norm(points - ends, axis=1) - 500).max() <= 0.002
    assert lengths(path)[0] == pytest.approx(500 * math.radians(240), rel=1e-5)


def test_ellipses_and_their_arcs(tmp_path):
    """Semi-axes 3 and 2: area 18.8495559 (closed form)."""
    whole = only(tmp_path, lambda msp: msp.add_ellipse((0, 0), (3, 0), 2 / 3))
    assert abs(signed_areas(whole)[0]) == pytest.approx(18.8495559, rel=1e-3)
    half = only(tmp_path, lambda msp: msp.add_ellipse((0, 0), (3, 0), 2 / 3, 0, math.pi))
    assert abs(signed_areas(half)[0]) == pytest.approx(18.8495559 / 2, rel=1e-3)


def test_splines_of_degree_three_are_exact(tmp_path):
    """A clamped cubic with four control points is that one Bézier."""
    control = [(0, 0), (10, 20), (30, -20), (40, 0)]
    path = only(tmp_path, lambda msp: msp.add_open_spline([(*p, 0) for p in control], degree=3))
    assert len(path.points) == 1
    ours = path.points[0] - path.points[0, 0]
    assert ours == pytest.approx(np.array(control) * [1, -1], abs=1e-9)
    rational = only(tmp_path, lambda msp: msp.add_rational_spline([(*p, 0) for p in control], [1, 2, 2, 1]))
    assert bounds(rational)[2] - bounds(rational)[0] == pytest.approx(40, abs=1e-6)


def test_blocks_layers_colours_and_text(tmp_path):
    def draw(msp):
        document = msp.doc
        document.layers.add("CUT", color=1)
        document.layers.add("OFF", color=3).off()
        block = document.blocks.new("TAG")
        block.add_lwpolyline([(0, 0), (10, 0), (10, 5), (0, 5)], close=True, dxfattribs={"layer": "CUT"})
        msp.add_blockref("TAG", (100, 100), dxfattribs={"xscale": 2, "yscale": 2, "rotation": 90})
        msp.add_line((0, 0), (1, 1), dxfattribs={"layer": "OFF"})
        msp.add_text("Berth 12", height=7, dxfattribs={"layer": "CUT"}).set_placement((20, 30))
        msp.add_mtext("Hollin\nQuay")
        msp.add_hatch(color=5).paths.add_polyline_path([(50, 50), (60, 50), (60, 60)], is_closed=True)

    found = read_dxf(dxf(tmp_path, draw))
    assert {group.label for group in found.items} >= {"CUT", "OFF"}
    tag = next(o for o in found.outlines() if o.look.stroke == "#ff0000")
    box = bounds(tag.path)
    assert (box[2] - box[0], box[3] - box[1]) == pytest.approx((10, 20))
    assert [o.look.visible for o in found.outlines()].count(False) == 1
    assert [text.text for text in found.letterings()] == ["Berth 12", "Hollin Quay"]
    assert [run.at[1] for run in found.letterings()[1].runs] == pytest.approx([2.5, 2.5 + 2.5 * 5 / 3])


@pytest.mark.parametrize(("align", "foot"), [("LEFT", 30), ("MIDDLE_CENTER", 26.5), ("TOP_RIGHT", 23)])
def test_text_heights_are_those_of_capitals(tmp_path, align, foot):
    def draw(msp):
        msp.add_line((0, 0), (40, 60))
        msp.doc.styles.add("sign", font="Arvo.ttf")
        text = msp.add_text("H", height=7, dxfattribs={"style": "sign"})
        text.set_placement((20, 30), align=TextEntityAlignment[align])

    found = read_dxf(dxf(tmp_path, draw))
    (text,) = found.letterings()
    ((_, _, path),) = set_lettering(text, SHELF).letters(text.placement)
    x0, y0, x1, y1 = (value - MARGIN_MM for value in bounds(path))
    assert (y0, y1) == pytest.approx((60 - foot - 7, 60 - foot))
    assert (x0 < 20) is (align != "LEFT")
    assert (x1 > 20) is (align != "TOP_RIGHT")


def test_the_box_agrees_with_the_librarys_own(tmp_path):
    def draw(msp):
        msp.add_circle((10, 20), 5)
        msp.add_lwpolyline([(0, 0, 0.3), (30, 5, -0.8), (40, 40, 0)], format="xyb", close=True)
        msp.add_ellipse((50, 0), (10, 10), 0.3)

    path = dxf(tmp_path, draw)
    extents = ezdxf.bbox.extents(ezdxf.readfile(path).modelspace(), fast=False)
    found = read_dxf(path)
    assert found.page_mm == pytest.approx((extents.size.x + 2 * MARGIN_MM, extents.size.y + 2 * MARGIN_MM), abs=0.05)
    assert len(found.outlines()) == 3


def test_a_second_reader_agrees_on_counts_lengths_and_box(tmp_path):
    """GDAL's DXF driver, which shares no code with ezdxf; it strokes curves at 4°, so lengths differ by that much."""

    def draw(msp):
        msp.add_circle((10, 20), 5)
        msp.add_lwpolyline([(0, 0, 0.3), (30, 5, -0.8), (40, 40, 0)], format="xyb", close=True)
        msp.add_ellipse((50, 0), (10, 10), 0.3)
        msp.add_arc((0, 60), 12, 20, 200)
        msp.add_line((5, 5), (9, 80))
        block = msp.doc.blocks.new("TAG")
        block.add_lwpolyline([(0, 0), (10, 0), (10, 5)], close=True)
        msp.add_blockref("TAG", (70, 70), dxfattribs={"rotation": 30, "xscale": 2, "yscale": 2})

    path = dxf(tmp_path, draw)
    theirs = shapely.from_wkb(pyogrio.raw.read(path)[2])
    found = read_dxf(path)
    assert len(found.outlines()) == len(theirs) == 6
    ours = [float(lengths(o.path).sum()) for o in found.outlines()]
    assert ours == pytest.approx([line.length for line in theirs], rel=5e-4)
    x0, y0, x1, y1 = shapely.total_bounds(theirs)
    assert found.page_mm == pytest.approx((x1 - x0 + 2 * MARGIN_MM, y1 - y0 + 2 * MARGIN_MM), abs=0.01)


def test_polylines_keep_a_constant_width(tmp_path):
    """DXF reference, LWPOLYLINE group code 43 and POLYLINE 40 and 41: widths in drawing units, that blocks scale."""

    def draw(msp):
        msp.add_lwpolyline([(0, 0), (9, 0)], dxfattribs={"const_width": 3})
        msp.add_lwpolyline([(0, 5, 2, 2), (9, 5, 0, 7)], format="xyse")  # the last width is of no segment
        msp.add_polyline2d([(0, 9), (9, 9)], dxfattribs={"default_start_width": 4, "default_end_width": 4})
        block = msp.doc.blocks.new("B")
        block.add_lwpolyline([(0, 0), (9, 0)], dxfattribs={"const_width": 3})
        msp.add_blockref("B", (0, 20), dxfattribs={"xscale": 2, "yscale": 2})

    widths = [each.look.stroke_width_mm for each in read_dxf(dxf(tmp_path, draw, units=5)).outlines()]
    assert widths == pytest.approx([30, 20, 40, 60])


def test_text_is_as_wide_and_as_slanted_and_runs_as_it_says(tmp_path):
    """DXF reference, TEXT group codes 41, 51, 71, 72 and 230: where a place 1 mm along the line and 1 mm above it lies."""

    def draw(msp):
        msp.doc.styles.add("Narrow", font="Barlow-Regular.ttf").dxf.width = 0.5
        common = {"height": 10, "insert": (100, 50)}
        msp.add_text("Tern", dxfattribs=common | {"width": 0.8, "oblique": 12})
        msp.add_text("Tern", dxfattribs=common | {"text_generation_flag": 2})
        msp.add_text("Tern", dxfattribs=common | {"text_generation_flag": 4, "rotation": 90})
        msp.add_text("Tern", dxfattribs=common | {"extrusion": (0, 0, -1), "insert": (-100, 50)})
        msp.add_text("Tern", dxfattribs=common).set_placement((100, 50), (130, 90), align=TextEntityAlignment.FIT)
        msp.add_mtext(
            "Tern", dxfattribs={"char_height": 10, "insert": (100, 50), "style": "Narrow", "attachment_point": 7}
        )
        msp.add_point((0, 0))

    found = read_dxf(dxf(tmp_path, draw))
    plain, back, down, behind, fit, narrow = found.letterings()
    zero = found.outlines()[0].path.points[0][0]

    def at(text, x, y):
        px, py = text.placement.transformPoint((x, y))
        return px - zero[0] - 100, zero[1] - py - 50

    assert (plain.runs[0].width, plain.runs[0].slant_deg) == pytest.approx((0.8, 12))
    assert (narrow.runs[0].width, narrow.runs[0].slant_deg) == pytest.approx((0.5, 0))
    for text, place in ((plain, (1, 1)), (back, (-1, 1)), (down, (1, 1)), (behind, (-1, 1)), (fit, (-0.2, 1.4))):
        assert at(text, 1, -1) == pytest.approx(place, abs=1e-6)
    assert (fit.length_mm, fit.stretch_glyphs) == (pytest.approx(50), True)


@pytest.mark.parametrize(
    ("words", "attributes", "said"),
    [
        ("{\\H2x;Te}rn", {}, "faces, sizes or widths"),
        ("Te\\Prn \\\\A", {}, ""),
        ("a line that is far too long", {"width": 20}, "longer than"),
        ("short", {"width": 200}, ""),
    ],
)
def test_what_is_dropped_of_formatted_text_is_told(tmp_path, words, attributes, said):
    notes = read_dxf(
        dxf(tmp_path, lambda msp: msp.add_mtext(words, dxfattribs={"char_height": 5} | attributes))
    ).source.notes
    assert [said in note for note in notes] == [True] * bool(said)


def test_what_importing_drops_of_a_look_is_told(tmp_path):
    def draw(msp):
        msp.doc.linetypes.add("FOLD", [2, 1, -1])
        msp.doc.layers.add("folds", linetype="FOLD")
        msp.add_line((0, 0), (9, 0), dxfattribs={"linetype": "FOLD"})
        msp.add_line((0, 1), (9, 1), dxfattribs={"layer": "folds"})
        msp.add_line((0, 2), (9, 2), dxfattribs={"linetype": "CONTINUOUS", "layer": "folds"})
        msp.add_lwpolyline([(0, 5, 1, 3), (9, 5, 3, 0), (20, 9, 0, 0)], format="xyse")
        for pattern in (True, False):
            hatch = msp.add_hatch()
            hatch.paths.add_polyline_path([(0, 10), (9, 10), (9, 20)], is_closed=True)
            if pattern:
                hatch.set_pattern_fill("ANSI31")
        msp.doc.layout("Layout1").add_circle((0, 0), 5)

    found = read_dxf(dxf(tmp_path, draw))
    said = [(len(r.items), r.words) for r in found.source.remarks if r.code == "content.effect"]
    for count, words in (
        (2, "2 lines are dashed or dotted"),
        (1, "1 polyline changes"),
        (1, "1 hatch has"),
        (0, "Layout1"),
    ):
        assert any(number == count and words in text for number, text in said)
    assert len(said) == 4


def test_opacity_is_kept_and_line_weights_are_told_where_the_drawing_shows_them(tmp_path):
    def draw(msp, shown):
        msp.doc.header["$LWDISPLAY"] = shown
        msp.doc.layers.add("heavy", lineweight=50)
        msp.add_line((0, 0), (9, 0), {"lineweight": 100, "transparency": 0x02000033})
        msp.add_line((0, 5), (9, 5), {"layer": "heavy"})
        msp.add_line((0, 9), (9, 9))

    read = [read_dxf(dxf(tmp_path, lambda msp, shown=shown: draw(msp, shown))) for shown in (0, 1)]
    assert [outline.look.opacity for outline in read[0].outlines()] == pytest.approx([0.2, 1, 1])
    told = "2 lines are shown with line weights: Unkelt takes them as lines without width"
    assert [told in sheet.source.notes for sheet in read] == [False, True]


def test_what_is_not_supported_is_counted_and_named(tmp_path):
    def draw(msp):
        msp.add_line((0, 0), (1, 0))
        for _ in range(2):
            msp.add_ray((0, 0), (1, 1))

    assert "2 RAY entities are not supported and left out" in read_dxf(dxf(tmp_path, draw)).source.notes


@pytest.mark.parametrize(
    "data",
    [b"", b"not dxf", b"0\nSECTION\n2\nENTITIES\n0\nLINE\n", b"\x00\x01\x02\xff", b"<svg/>"],
)
def test_files_that_are_no_dxf(tmp_path, data):
    path = tmp_path / "a.dxf"
    path.write_bytes(data)
    try:
        found = read_dxf(path)
    except InputError as problem:
        said = str(problem)
    else:
        said = " ".join(found.source.notes)
    assert said
    assert "\n" not in said


def test_blocks_that_insert_themselves_are_bounded(tmp_path, monkeypatch):
    monkeypatch.setattr("unkelt.formats.dxf.read.MOST_COPIES", 2000)  # the bound itself takes a while to reach

    def draw(msp):
        for n in range(24):
            block = msp.doc.blocks.new(f"B{n}")
            if n:
                block.add_blockref(f"B{n - 1}", (0, 0))
                block.add_blockref(f"B{n - 1}", (1, 0))
            else:
                block.add_line((0, 0), (1, 1))
        msp.add_blockref("B23", (0, 0))

    with pytest.raises(InputError, match="entities by inserting"):
        read_dxf(dxf(tmp_path, draw))


def test_rows_without_end_of_empty_blocks_end(tmp_path, monkeypatch):
    """Nothing that is drawn can be counted there."""
    monkeypatch.setattr(blocks, "MOST_COPIES", 50)

    def draw(msp):
        msp.add_line((0, 0), (9, 9))
        msp.doc.blocks.new("empty")
        msp.doc.blocks.new("outer").add_blockref("empty", (0, 0)).grid((30_000, 30_000), (1, 1))
        msp.add_blockref("outer", (0, 0)).grid((8, 8), (1, 1))

    read = read_dxf(dxf(tmp_path, draw))
    assert len(read.outlines()) == 1
    assert "a block is damaged, and what comes after it was left out (ValueError)" in read.source.notes


def test_a_group_of_closed_lines_is_a_compound_path(tmp_path):
    """DXF has no compound paths; a GROUP is how it says that lines belong together. Others stay as they are."""
    document = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = document.modelspace()

    def box(x, y, side, **look):
        places = [(x, y), (x + side, y), (x + side, y + side), (x, y + side)]
        return space.add_lwpolyline(places, close=True, dxfattribs=look)

    document.groups.new().extend([box(0, 0, 20), box(5, 5, 5), box(30, 0, 10)])
    document.groups.new().extend([box(0, 50, 20), box(10, 60, 20)])  # they cross
    document.groups.new().extend([box(60, 50, 10), box(80, 50, 10, color=3)])
    document.groups.new().extend([box(60, 80, 10), space.add_line((90, 80), (99, 80))])
    document.saveas(tmp_path / "a.dxf")
    found = read_dxf(tmp_path / "a.dxf").outlines()
    assert [len(each.path) for each in found] == [3, 1, 1, 1, 1, 1, 1]


def test_a_compound_path_comes_back_as_one(tmp_path):
    sign = replace(outline("sign", concat([ring(20, 12, 30, 30), square(20, 60, 20)])), label="Tern\n  0\nEOF é")
    on = sheet(sign, outline("tag", square(10, 90, 20)))
    (tmp_path / "a.dxf").write_bytes(write_dxf(on, Ticket()))
    found = read_dxf(tmp_path / "a.dxf")
    assert sorted(len(each.path) for each in found.outlines()) == [1, 3]
    assert "compound.loose" not in [each.code for each in survey(found, workshop())]
    again = parse_svg(write_svg(found), "a.svg")
    assert [each.is_layer for each in again.items] == [True]  # saved as SVG, a layer is one still
    assert not ezdxf.readfile(tmp_path / "a.dxf").audit().has_errors
