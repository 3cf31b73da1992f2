"""The proof's own reader of DXF sees what a drawing shows, or says what it can't: beside what was read of it."""

from dataclasses import replace

import pytest
from ezdxf.math import Vec2
from ezdxf.render import mleader

from tests.builders import workshop
from tests.formats.test_dxf import dxf
from unkelt.app.work import opened
from unkelt.errors import InputError
from unkelt.formats.dxf.read import read_dxf
from unkelt.proof.import_dxf import import_dxf
from unkelt.verdict.painted import pictures_of


def seen(tmp_path, draw):
    """The pictures of a drawing as it was received, beside what goes out."""

    def with_a_line(msp):
        msp.add_line((-10, -10), (60, -10))
        draw(msp)

    return pictures_of(opened(dxf(tmp_path, with_a_line), workshop()))


def hatched(msp, style=0, **edge):
    hatch = msp.add_hatch(color=3, dxfattribs={"hatch_style": style})
    hatch.paths.add_polyline_path([(0, 0), (40, 0, 0.5), (40, 30), (0, 30)], flags=1)
    if edge:
        hatch.paths.add_edge_path(flags=16).add_ellipse((20, 15), (12, 2), 0.5, **edge)


def two_ways_round(msp):
    """Edges that meet with either end, the first the wrong way round."""
    path = msp.add_hatch(color=1).paths.add_edge_path()
    path.add_line((20, 0), (0, 0))
    path.add_arc((20, 10), 10, 270, 90)
    path.add_spline(control_points=[(0, 20), (5, 30), (15, 10), (20, 20)], degree=3, knot_values=[0] * 4 + [1] * 4)
    path.add_line((0, 20), (0, 0))


def translucent(msp):
    """By itself, by its layer and by the reference of its block (DXF reference, group 440)."""
    msp.doc.layers.add("half").transparency = 0.5
    msp.add_solid([(0, 0), (40, 0), (0, 40), (40, 40)], {"layer": "half", "color": 1})
    msp.add_solid([(20, 20), (60, 20), (20, 60), (60, 60)], {"transparency": 0x02000040, "color": 5})
    msp.doc.blocks.new("ring").add_circle((0, 0), 9, {"transparency": 0x01000000, "color": 0})
    msp.add_blockref("ring", (70, 70), {"transparency": 0x02000080, "color": 3})


def associated(msp):
    """A hatch that names what it was made from, by its handle."""
    line = msp.add_lwpolyline([(0, 0), (40, 0), (40, 40), (0, 40)], close=True)
    hatch = msp.add_hatch(color=2)
    hatch.associate(hatch.paths.add_polyline_path(line.get_points("xyb"), is_closed=True), [line])


SPREAD = [(0, 0, 0), (10, 30, 0), (20, -10, 0), (30, 30, 0), (40, 0, 0), (60, 10, 0)]


def pointing(msp):
    label = msp.add_multileader_mtext("Standard")
    label.set_content("Tern")
    label.add_leader_line(mleader.ConnectionSide.left, [Vec2(-20, -15), Vec2(-5, -5)])
    label.build(insert=Vec2(10, 10))


@pytest.mark.parametrize(
    "draw",
    [
        lambda msp: msp.add_solid([(0, 0), (20, 0), (0, 10), (20, 12)]),
        lambda msp: msp.add_trace([(0, 0), (20, 0), (0, 10)]),
        lambda msp: msp.add_3dface([(0, 0), (20, 0), (20, 10), (0, 12)]),
        lambda msp: msp.add_point((90, 50)),
        lambda msp: msp.add_helix(radius=10, pitch=2, turns=3),
        lambda msp: msp.add_polyline3d([(0, 0, 0), (30, 0, 5), (30, 30, 5)]),
        lambda msp: msp.add_lwpolyline([(0, 0, 3, 3), (30, 0, 3, 3, 0.7), (30, 30, 0, 0)]),
        lambda msp: msp.add_circle((20, 20), 10, {"extrusion": (0.3, 0.2, 0.9), "color": 33}),
        lambda msp: msp.add_ellipse((20, 20), (0, 15, 4), 0.4, 0, 4, {"extrusion": (0, 4, -15)}),
        lambda msp: msp.add_linear_dim(base=(0, 30), p1=(0, 20), p2=(30, 20)).render(),
        lambda msp: msp.add_radius_dim(center=(20, 20), radius=10, angle=30).render(),
        lambda msp: msp.doc.layout("Layout1").add_line((0, 0), (500, 500)),
        hatched,
        lambda msp: hatched(msp, start_angle=0, end_angle=360),
        lambda msp: hatched(msp, start_angle=30, end_angle=200, ccw=False),
        lambda msp: hatched(msp, style=2, start_angle=0, end_angle=360),
        two_ways_round,
        translucent,
        associated,
        lambda msp: msp.add_open_spline(SPREAD),
        lambda msp: msp.add_open_spline(SPREAD, degree=2),
        lambda msp: msp.add_spline().set_uniform(SPREAD),
        lambda msp: msp.add_spline().set_closed(SPREAD),
        lambda msp: msp.add_line((4.51e5, 7.02e6), (4.51e5 + 40, 7.02e6 + 30)) and msp.delete_entity(msp[0]),
    ],
)
def test_what_a_drawing_shows_is_seen_by_both_readers(tmp_path, draw):
    found = seen(tmp_path, draw)
    assert not found.skipped
    assert not found.lost


@pytest.mark.parametrize(
    ("draw", "kind"),
    [
        (lambda msp: msp.add_leader([(0, 60), (10, 70), (20, 70)]), "LEADER"),
        (lambda msp: msp.add_mline([(0, 0), (30, 0), (30, 30)]), "MLINE"),
        (pointing, "MULTILEADER"),
        (lambda msp: msp.add_spline([(0, 0), (20, 30), (40, 0)]), "SPLINE"),
    ],
)
def test_what_the_second_reader_cannot_draw_is_said_and_compared_with_nothing(tmp_path, draw, kind):
    assert seen(tmp_path, draw).skipped == f"the independent reader doesn't know {kind}"


@pytest.mark.parametrize("gone", ["area", "width"])
def test_the_pictures_notice_an_area_or_a_width_that_is_missing(tmp_path, gone):
    def draw(msp):
        hatched(msp)
        msp.add_lwpolyline([(0, 50), (50, 50)], dxfattribs={"const_width": 4})

    case = opened(dxf(tmp_path, draw), workshop())
    assert not pictures_of(case).lost
    (layer,) = case.sheet.items
    area, line = layer.items
    narrow = replace(line, look=replace(line.look, stroke_width_mm=0.2))
    left = (line,) if gone == "area" else (area, narrow)
    damaged = replace(case.sheet, items=(replace(layer, items=left),))
    assert pictures_of(replace(case, original=damaged)).lost


def test_what_lies_on_what_stays_so_across_layers(tmp_path):
    """Areas of three layers by turns; a layer whose turn comes again lies there again, but only where it must."""

    def draw(msp):
        for number, layer in enumerate(["a", "b", "a", "c", "b", "c"]):
            msp.add_solid(
                [(3 * number, 0), (3 * number + 5, 0), (3 * number, 9), (3 * number + 5, 9)],
                {"layer": layer, "color": 1 + "abc".index(layer)},
            )
        msp.add_circle((90, 90), 3, {"layer": "a", "color": 1})

    case = opened(dxf(tmp_path, draw), workshop())
    assert [group.label for group in case.sheet.items] == ["a", "b", "a", "c", "b", "c"]
    assert len(case.sheet.items[2].items) == 2  # the circle, which lies on nothing
    found = pictures_of(case)
    assert not found.skipped
    assert not found.lost


def test_lines_that_only_pass_near_each_other_leave_layers_whole(tmp_path):
    def draw(msp):
        for number in range(6):
            msp.add_line((0, number), (50, 50 + number), {"layer": "ab"[number % 2], "color": 1 + number % 2})

    assert [group.label for group in read_dxf(dxf(tmp_path, draw)).items] == ["a", "b"]


def test_the_order_of_painting_is_the_tables_where_there_is_one(tmp_path):
    """SORTENTSTABLE of the DXF reference."""

    def draw(msp):
        low, high = (msp.add_solid([(x, 0), (x + 9, 0), (x, 9), (x + 9, 9)], {"color": 1 + x}) for x in (0, 4))
        msp.set_redraw_order({low.dxf.handle: "FFF", high.dxf.handle: "10"})

    case = opened(dxf(tmp_path, draw), workshop())
    assert [outline.look.fill for outline in case.sheet.outlines()] == ["#0000ff", "#ff0000"]
    assert not pictures_of(case).lost


def test_what_a_curve_was_fitted_to_is_no_part_of_it(tmp_path):
    """DXF reference, VERTEX, group 70: 16 is a control point of the frame. A net of faces is no line."""

    def draw(msp):
        line = msp.add_polyline2d([(0, 0), (10, 10), (20, 0)])
        line.dxf.flags |= 4
        line.append_formatted_vertices([(30, 40), (90, 90)], "xy", {"flags": 16})
        msp.add_polymesh((3, 3))

    case = opened(dxf(tmp_path, draw), workshop())
    assert case.sheet.drawn_box() == pytest.approx((5, 5, 25, 15))
    assert "1 POLYLINE entity is not supported and left out" in case.sheet.source.notes
    assert not pictures_of(case).lost


def test_a_byte_that_ends_a_line_elsewhere_ends_none(tmp_path):
    """0x85 is an ellipsis in Windows-1252, and a line end in Latin-1."""
    path = dxf(tmp_path, lambda msp: (msp.add_text("Tern"), msp.add_circle((0, 0), 5, {"layer": "cut"})))
    path.write_bytes(path.read_bytes().replace(b"Tern", b"Te\x85rn"))
    found = import_dxf(path)
    assert (found.text_left, len(found.bodies)) == (1, 1)


def test_rows_without_end_of_an_empty_block_are_refused(tmp_path):
    def draw(msp):
        msp.doc.blocks.new("empty")
        msp.add_blockref("empty", (0, 0)).grid((30_000, 30_000), (1, 1))

    with pytest.raises(InputError, match="without end"):
        import_dxf(dxf(tmp_path, draw))
