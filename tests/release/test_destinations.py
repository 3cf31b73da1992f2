"""Written for whoever imports it: each importer, invented or described by a ticket, reads what was meant, or it is told.

CSS Values 3: one inch is 25.4 mm, 72 points, 96 px. DXF reference: $INSUNITS 1 is inches, 4 millimetres.
"""

from dataclasses import replace
from pathlib import Path

import ezdxf
import ezdxf.bbox
import pytest
import shapely
from fontTools.misc.transform import Transform
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import circle, glyph_paths, outline, ring, sheet, square, workshop
from unkelt.anatomy.pieces import falling_counters, pieces_of
from unkelt.errors import InputError
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import concat
from unkelt.geometry.region import region
from unkelt.job.importing import Habits, known_habits
from unkelt.job.ticket import parse_ticket
from unkelt.proof.proof import as_meant, judge
from unkelt.proof.standin import StandIn
from unkelt.release.package import Held, release
from unkelt.release.sheets import parts_of
from unkelt.release.suiting import suited
from unkelt.sheet.model import Group, Reads
from unkelt.verdict.case import Case

FILM = """
[key]
cut = ["#aa0000", "#00aa00"]
engrave = ["#000000"]
[materials]
birch = ["#00aa00", "#000000"]
"""


def two_films():
    """A ring of one film with a disc of another in it, which is engraved; a letter, a stroke and an open line."""
    letter = outline("letter", glyph_paths("R", "Arvo", 30)[0].transformed(Transform(1, 0, 0, 1, 100, -110)), "#aa0000")
    return sheet(
        outline("frame", ring(40, 30, 100, 100), "#aa0000"),
        outline("plate", circle(20, 100, 100), "#00aa00"),
        outline("mark", square(8, 96, 96), "#000000"),
        letter,
    )


def released(on, ticket, tmp_path, **options):
    source = tmp_path / "in.svg"
    source.write_bytes(write_svg(on))
    shop = workshop(FILM + ticket)
    return release(Case(source, on, shop), tmp_path / "out", **options)


def areas(outlines, even_odd=None):
    return shapely.union_all(
        [region(o.path, o.look.even_odd if even_odd is None else even_odd, 0.002) for o in outlines if o.look.fill]
    )


def test_each_material_has_a_page_of_its_own_named_by_its_work_and_one_is_mirrored(tmp_path):
    package = released(
        two_films(),
        '[destination.shop]\neach = ["material"]\nmarks = true\nmirrored = ["#aa0000"]\n',
        tmp_path,
    )
    parts = {Path(each.proof.path).name: each for each in package.record.delivered}
    assert set(parts) == {"in-aa0000-cut.svg", "in-birch-engrave-cut.svg"}
    red, birch = parts["in-aa0000-cut.svg"].part, parts["in-birch-engrave-cut.svg"].part
    assert red.sheet.page_mm == pytest.approx(birch.sheet.page_mm), "the same marks, so the same page"
    marks = [
        sorted(bounds(o.path) for o in part.sheet.outlines() if o.id.startswith("registration"))
        for part in (red, birch)
    ]
    width = red.sheet.page_mm[0]
    mirrored = sorted((width - x1, y0, width - x0, y1) for x0, y0, x1, y1 in marks[0])
    assert [pytest.approx(box) for box in mirrored] == marks[1], "laid on each other, they meet"
    assert {o.reads for o in red.sheet.outlines()} == {Reads.BACKWARDS, Reads.EITHER}
    assert {o.reads for o in birch.sheet.outlines()} == {Reads.FORWARDS, Reads.EITHER}
    html = (package.folder / "inspection.html").read_text()
    assert "<td>shop/in-aa0000-cut.svg<td>“frame”, “letter”<td>backwards" in html


def test_inches_in_dxf_are_inches_to_another_library(tmp_path):
    package = released(two_films(), '[destination.shop]\nformat = "dxf"\nper_inch = 1\ncurves = false\n', tmp_path)
    document = ezdxf.readfile(package.folder / "shop" / "in.dxf")
    assert document.header["$INSUNITS"] == 1
    x0, y0, x1, y1 = two_films().drawn_box()
    size = ezdxf.bbox.extents(document.modelspace()).size
    assert (size.x * 25.4, size.y * 25.4) == pytest.approx((x1 - x0, y1 - y0), abs=0.05)
    assert {entity.dxftype() for entity in document.modelspace()} == {"LWPOLYLINE"}


def test_what_an_importer_cannot_take_ends_in_one_sentence(tmp_path):
    with pytest.raises(Held, match=r"“frame” has a piece of .* nodes, and the importer takes no more than 3: reduce"):
        released(two_films(), "[destination.old]\nmost_nodes = 3\n", tmp_path)
    with pytest.raises(InputError, match="no material is called so"):
        released(two_films(), '[destination.shop]\neach = ["material"]\nmirrored = ["oak"]\n', tmp_path)


def test_a_file_that_is_taken_for_another_size_holds_until_it_is_written_for_that(tmp_path):
    on = two_films()
    (tmp_path / "a.svg").write_bytes(write_svg(on))
    ticket = parse_ticket(FILM)
    reader = StandIn(known_habits()["seventy-two"])
    assert any(
        "were meant" in each
        for each in as_meant(judge("a", reader.read(tmp_path / "a.svg"), ticket), on, ticket).reasons
    )
    package = released(on, '[destination.shop]\nreads = "seventy-two"\n', tmp_path)
    (each,) = package.record.delivered
    path = package.folder / each.proof.path
    for habits in ("seventy-two", "plain"):  # and everybody else still reads it right
        found = StandIn(known_habits()[habits]).read(path)
        assert as_meant(judge("a", found, ticket), on, ticket).reasons == ()


def test_cut_beneath_an_engraving_is_told(tmp_path):
    package = released(two_films(), "[destination.shop]\n", tmp_path)
    (each,) = package.record.delivered
    assert each.told == (
        "what is cut lies beneath something else, so that the file can't have it last; choose the order by colour",
    )


def word():
    return outline("word", concat(glyph_paths("Roa8", "Arvo", 30)))


ART = {
    "a word": lambda: sheet(word()),
    "rings of one sense, by even-odd": lambda: sheet(
        replace(outline("a", concat([square(40), square(20, 10, 10)])), look=replace(word().look, even_odd=True))
    ),
    "a solid in a solid, by nonzero": lambda: sheet(outline("a", concat([square(40), square(20, 10, 10)]))),
    "in groups": lambda: sheet(Group("g", (Group("h", (outline("b", square(9), "#0000ff"),)), word()), is_layer=True)),
    "open and stroked lines": lambda: sheet(
        outline("line", square(30, 5, 5), None, "#ff0000"),
        replace(outline("wide", circle(9, 60, 60), None, "#00ff00"), look=replace(word().look, fill=None, stroke="#00ff00", stroke_width_mm=3)),
    ),
}  # fmt: skip


@given(
    art=st.sampled_from(sorted(ART)),
    habits=st.builds(
        Habits,
        name=st.just("x"),
        fill_rule=st.sampled_from([None, "even-odd", "nonzero"]),
        per_inch=st.sampled_from([None, 72.0, 96.0, 300.0]),
        styles=st.booleans(),
        groups=st.booleans(),
        most_nodes=st.sampled_from([None, 30, 80]),
        curves=st.booleans(),
    ),
)
@settings(max_examples=40)
def test_whatever_the_habits_what_is_read_is_what_was_meant_or_it_is_told(art, habits, tmp_path_factory):
    """Measured by GEOS on the bodies that the stand-in reads, with its own fill rule."""
    on, ticket = ART[art](), parse_ticket("")
    made = suited(on, habits, 0.02)
    path = tmp_path_factory.mktemp("suited") / "a.svg"
    path.write_bytes(write_svg(made.sheet, 5, habits.number_mm))
    found = StandIn(habits).read(path)
    proof = as_meant(judge("a", found, ticket), made.sheet, ticket)
    told = [
        reason for reason in proof.reasons if reason.split(":")[0] in ("size.units", "ink.lost", "compound.winding")
    ]
    bodies = [body for body in found.bodies if body.fill]
    read = shapely.union_all([region(body.path, body.even_odd, 0.002) for body in bodies])
    apart = areas(on.outlines()).symmetric_difference(read)
    assert told or apart.buffer(-0.025).area == 0
    assert told or {body.fill or body.stroke for body in found.bodies} == {
        o.look.fill or o.look.stroke for o in on.outlines()
    }
    if not habits.curves:
        assert all((body.path.degrees == 1).all() for body in found.bodies)
    if habits.most_nodes is not None and not told:
        assert max(body.path.node_count for body in found.bodies) <= habits.most_nodes


def test_what_lies_on_top_of_each_other_arrives_whole_at_a_plotter(tmp_path):
    """Two rings that begin at one place, in two films; and lines in DXF stand in the order of work, not of paint."""
    on = sheet(outline("a", square(40, 10, 10), "#aa0000"), outline("b", square(20, 10, 10), "#00aa00"))
    ticket = '[destination.plotter]\nformat = "plt"\n[destination.cutter]\nformat = "dxf"\n'
    package = released(on, ticket, tmp_path, reason="two films on each other")
    assert [reason for each in package.record.delivered for reason in each.proof.reasons if "ink.lost" in reason] == []
    assert [hold for hold in package.record.pictures if "ink.lost" in hold] == []


def test_a_sheet_that_stays_whole_may_have_nothing_cut_from_it():
    on = sheet(outline("line", square(9), None, "#ff0000"))
    assert pieces_of(on, parse_ticket("[job]\nsheet_stays = true")).count == 0
    assert falling_counters(on, parse_ticket("[job]\nsheet_stays = true")) == []


def test_only_the_material_that_is_named_is_mirrored_whatever_it_is_called(tmp_path):
    """A material may be called as an operation is, or as another one but for a sign that no file name has."""
    on = sheet(outline("a", square(40, 10, 10), "#aa0000"), outline("b", square(20, 80, 10), "#00aa00"))
    key = '[key]\ncut = ["#aa0000", "#00aa00"]\n[materials]\ncut = ["#aa0000"]\n"c ut" = ["#00aa00"]\n'
    ticket = parse_ticket(key + '[destination.shop]\neach = ["material"]\nmirrored = ["cut"]\n')
    parts = parts_of(on, workshop(ticket), ticket.destinations[0])
    assert {part.material: part.is_mirrored for part in parts} == {"cut": True, "c ut": False}
    assert len({part.names for part in parts}) == 2


def test_lines_for_an_importer_without_curves_use_what_the_steps_left_of_the_tolerance():
    moved = replace(word(), moved_mm=0.015)
    made = suited(sheet(moved), Habits("x", curves=False), 0.02).sheet.outlines()[0]
    assert shapely.hausdorff_distance(lines(moved.path, 1e-4), lines(made.path, 1e-4), densify=0.2) <= 0.0051
