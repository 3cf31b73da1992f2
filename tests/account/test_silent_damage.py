"""What safe mending once did to a picture without a word, each as it was found. Now it ends right, or on hold with its
reason.
"""

from dataclasses import replace
from pathlib import Path

import pytest
import shapely
from fontTools.misc.transform import Transform

from tests.account.art import assert_right, damage, held, mended, reasons_of, steps_of, verdicts
from tests.account.random_art import objections
from tests.builders import SHELF, circle, glyph_paths, lettering, moved, outline, ring, sheet, square, workshop
from unkelt.account.changes import Reason
from unkelt.demo import make_demo
from unkelt.errors import StepRefused
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import concat, polygon
from unkelt.geometry.region import region
from unkelt.job.ticket import read_ticket
from unkelt.lettering.identify import identify
from unkelt.lettering.matches import words
from unkelt.recipe import Call, Stage, apply
from unkelt.release.delivering import in_package
from unkelt.release.package import release
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Outline, Reads
from unkelt.steps.cures import cures_of
from unkelt.survey.checks import survey
from unkelt.survey.finding import Level
from unkelt.verdict.case import Case
from unkelt.verdict.judge import findings_of

GREEN, YELLOW, BLACK, RED, BLUE = "#0b5d4c", "#ffcc00", "#000000", "#ff0000", "#0000ff"


def rect(width, height, x=0.0, y=0.0):
    return polygon((x, y), (x + width, y), (x + width, y + height), (x, y + height))


def word(text, family, size, fill=BLACK, dx=0.0, dy=0.0):
    return [outline(f"{text}-{n}", moved(p, dx, dy), fill) for n, p in enumerate(glyph_paths(text, family, size))]


def hairline(name, path, stroke=BLACK):
    return Outline(name, path, Appearance(fill=None, stroke=stroke, stroke_width_mm=0.1))


def colours(case):
    return {outline.look.colour for outline in case.sheet.outlines()}


def test_row_1_three_colours_on_top_of_each_other():
    case = mended(
        sheet(
            outline("back", rect(100, 60, 10, 10), GREEN),
            outline("mid", rect(90, 50, 15, 15), YELLOW),
            outline("word", rect(60, 20, 30, 30)),
        )
    )
    assert_right(case)
    assert colours(case) == {GREEN, YELLOW, BLACK}


def test_row_2_a_name_in_red_lies_on_a_big_black_letter():
    big = outline("big", moved(glyph_paths("K", "Arvo", 160)[0], -30, -20))
    case = mended(sheet(big, *word("Tern", "Pacifico", 30, RED, -20, -120)))
    assert damage(case) == []
    assert len([o for o in case.sheet.outlines() if o.look.fill == BLACK]) == 1
    assert region(case.sheet.outlines()[0].path, False, 0.01).area == pytest.approx(
        region(big.path, False, 0.01).area, rel=1e-4
    )


def test_row_3_a_plate_cut_out_to_a_word_and_the_word_in_it():
    whole = weld([Operand(path) for path in glyph_paths("Tern", "Pacifico", 60)], workshop().tolerance)[0]
    case = mended(
        sheet(outline("plate", concat([rect(200, 120, 10, 60), whole.reversed()]), GREEN), outline("word", whole, RED))
    )
    assert damage(case) == []
    assert colours(case) == {GREEN, RED}


@pytest.mark.parametrize("fill", [BLACK, None])
def test_rows_4_and_5_a_script_with_a_wide_stroke_filled_or_not(fill):
    look = Appearance(fill=fill, stroke=BLACK, stroke_width_mm=1.8)
    letters = [Outline(f"l{n}", path, look) for n, path in enumerate(glyph_paths("Bell", "Pacifico", 80))]
    case = mended(sheet(Group("word", tuple(letters))))
    assert damage(case) == []
    if fill:
        assert len(case.sheet.outlines()) == 1
        assert case.sheet.outlines()[0].look.stroke is None
    else:
        assert "weld" in steps_of(case)
        assert Reason.INNER_LINES in reasons_of(case)


def guided(stroke, width):
    return parse_svg(
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="200mm" height="150mm" '
        f'viewBox="0 0 200 150"><path id="g" d="M20 100Q100 20 180 100" fill="none" stroke="{stroke}" stroke-width="{width}"/>'
        f'<text font-family="Pacifico" font-size="30"><textPath xlink:href="#g">Tern Quay</textPath></text></svg>'.encode()
    )


def test_row_6_a_guide_that_is_seen_is_not_welded_to_the_letters():
    case = mended(guided("#000", 0.35))
    assert damage(case) == []
    guide = [item for item in case.sheet.outlines() if item.id == "g"]
    assert not guide or guide[0].look.stroke_width_mm == pytest.approx(0.35)
    assert not guide or guide[0].look.fill is None


def test_row_7_a_guide_that_the_key_calls_cut_stays():
    case = mended(guided(RED, 0.2), workshop(f'[key]\ncut = ["{RED}"]\nengrave = ["{BLACK}"]'))
    assert "g" in {item.id for item in case.sheet.outlines()}
    assert damage(case) == []


def test_row_8_an_open_line_in_a_compound_path_is_kept():
    whole = concat([square(40, 10, 10), square(30, 30, 30), polygon((5, 5), (90, 80), closed=False)])
    for others in ((), (outline("d", square(20, 45, 45)),)):
        case = mended(sheet(outline("c", whole), *others))
        assert damage(case) == []
        kept = [part for o in case.sheet.outlines() for part in o.path.subpaths() if not part.closed[0]]
        assert [bounds(part) for part in kept] == [pytest.approx((5, 5, 90, 80))]
    with pytest.raises(StepRefused):
        apply(Call("let-in", ("c",)), sheet(outline("c", whole)), workshop())


@pytest.mark.parametrize("family", ["Pacifico", "Dancing Script"])
def test_row_9_unfilled_lines_that_cross_are_found_and_all_verdicts_are_one(family):
    letters = [hairline(f"l{n}", path, RED) for n, path in enumerate(glyph_paths("Tern", family, 60))]
    loose = sheet(*letters)
    assert "overlap.items" in {finding.code for finding in survey(loose, workshop())}
    assert_right(mended(loose))
    framed = sheet(hairline("frame", ring(60, 50, 100, 120), RED), *letters)
    job, checked, proven, released = verdicts(mended(framed))
    assert job == checked == proven == released == {"overlap.items"}


def test_row_10_two_overlapping_words_come_to_one_verdict():
    first = lettering("Tern", "Pacifico", 60)
    second = replace(lettering("Quay", "Pacifico", 60), id="b", placement=Transform(1, 0, 0, 1, 40, 15))
    case = mended(sheet(first, second))
    assert damage(case) == []
    job, checked, proven, released = verdicts(case)
    assert job == checked == proven == released


def test_row_11_letters_in_a_round_frame_that_nothing_holds_are_told():
    case = mended(sheet(outline("frame", ring(60, 50, 100, 120)), *word("Te", "Arvo", 30, dx=50, dy=-30)))
    found = [finding for finding in findings_of(case) if finding.code == "piece.unheld"]
    assert found
    assert cures_of(found[0])


@pytest.mark.parametrize("path", [
    concat([rect(60, 40, 20, 20), circle(10, 50, 40).reversed()]),
    concat([circle(30, 60, 60), rect(20, 20, 50, 50).reversed()]),
    moved(glyph_paths("O", "Arvo", 100)[0], 0, 0),
    moved(glyph_paths("B", "Pacifico", 100)[0], 0, 0),
])  # fmt: skip
def test_row_12_curves_and_straights_in_one_outline_are_released_as_dxf(path, tmp_path):
    case = mended(sheet(outline("a", path)))
    assert verdicts(case) == (set(), set(), set(), set())


def test_row_13_counters_are_matched_one_to_one():
    on = sheet(*(outline(f"l{n}", path) for n, path in enumerate(glyph_paths("eobadg", "Pacifico", 40))))
    found = apply(Call("thicken", options={"amount": "3 mm", "close_counters": True}), on, workshop())
    said = found.evidence.counters
    before = [shapely.get_parts(region(o.path, False, 0.01)) for o in on.outlines()]
    assert said.before == sum(shapely.get_num_interior_rings(parts).sum() for parts in before)
    assert said.kept + said.closed == said.before
    assert said.kept + said.new == said.after
    assert said.closed > 0
    with pytest.raises(StepRefused) as refused:
        apply(Call("thicken", options={"amount": "3 mm"}), on, workshop())
    assert refused.value.marks
    assert "mm" in str(refused.value)


def test_row_14_handedness_is_judged_piece_by_piece():
    shop = workshop("[job]\nmirrored = true")
    on = sheet(
        *(
            outline(name, moved(glyph_paths(letter, "Arvo", 40)[0], x))
            for name, letter, x in (("a", "e", 0), ("b", "R", 60))
        )
    )
    one = apply(Call("mirror", ("a",)), on, shop).sheet
    both = apply(Call("mirror", rule="place.mirror"), one, shop).sheet
    assert [outline.reads for outline in both.outlines()] == [Reads.BACKWARDS, Reads.BACKWARDS]
    assert "place.mirror" not in {finding.code for finding in survey(both, shop)}


def test_row_15_two_versions_of_a_family_are_told(tmp_path):
    installed = replace(next(f for f in SHELF.faces if f.family == "Pacifico"), bundled=False)
    changed = tmp_path / "pacifico.ttf"
    changed.write_bytes(installed.path.read_bytes().replace(b"\x003\x00.\x000\x000\x001", b"\x002\x00.\x000\x000\x000"))
    shop = replace(workshop(), shelf=type(SHELF)((*SHELF.faces, replace(installed, path=changed))))
    found = [finding for finding in survey(sheet(lettering("Tern")), shop) if finding.code == "text.face-versions"]
    assert [finding.level for finding in found] == [Level.NOTE]
    assert str(changed) in found[0].message
    assert shop.shelf.match(lettering().runs[0].face).path == changed


@pytest.mark.parametrize(
    ("text", "read"), [("COXE", "COXE"), ("Peace", "Peace"), ("ПОРТ", "ПОРТ"), ("Порт Сомов", "Порт Сомов")]
)
def test_row_17_a_word_that_is_recovered_keeps_its_script(text, read):
    path = concat(glyph_paths(text, "Pacifico", 60))
    assert words(identify(path, SHELF)[0]) == read


def test_row_18_movements_of_several_steps_stay_within_the_tolerance(tmp_path):
    make_demo(tmp_path)
    shop = workshop(read_ticket(tmp_path / "kittiwake.toml"))
    case = mended(read_sheet(tmp_path / "kittiwake.svg"), shop)
    assert {"weld", "bind", "reduce-nodes"} <= set(steps_of(case))
    assert (
        0.01 < max(outline.moved_mm for outline in case.sheet.outlines()) <= 0.0205
    )  # and what the file's decimals add
    assert damage(case) == []


def test_row_22_what_lies_on_something_is_no_hole_in_it():
    plate = outline("plate", rect(120, 80, 10, 10), BLUE)
    spots = [outline(f"y{n}", circle(8, 40 + 30 * n, 50), YELLOW) for n in range(3)]
    white = outline("bg", rect(280, 180, 10, 10), "#ffffff")
    dots = [outline(f"d{n}", circle(8, 40 + 30 * n, 50)) for n in range(3)]
    for on in (
        sheet(plate, *spots),
        sheet(white, *dots),
        sheet(outline("big", rect(120, 80, 10, 10)), outline("small", rect(20, 20, 40, 40))),
    ):
        case = mended(on)
        assert_right(case)
        assert Reason.COUNTER not in reasons_of(case)


def test_row_23_red_and_blue_stay_red_and_blue():
    crossing = mended(sheet(outline("r", circle(20, 50, 50), RED), outline("b", circle(20, 70, 50), BLUE)))
    assert_right(crossing)
    copies = mended(sheet(outline("r", circle(20, 50, 50), RED), outline("b", circle(20, 50, 50), BLUE)))
    assert damage(copies) == []
    assert colours(crossing) == colours(copies) == {RED, BLUE}


def test_row_24_a_letter_and_its_pale_shadow_are_not_welded():
    letter = glyph_paths("e", "Arvo", 80)[0]
    shadow = Outline("shadow", moved(letter, 3, 3), Appearance(fill=BLACK, fill_opacity=0.25))
    case = mended(sheet(shadow, outline("e", letter)))
    assert damage(case) == []
    assert {round(o.look.fill_opacity, 2) for o in case.sheet.outlines()} == {0.25, 1.0}


def test_row_25_a_line_that_no_text_was_set_on_is_no_guide():
    line = hairline("h", polygon((10, 60), (110, 60), closed=False))
    bar = mended(sheet(outline("bar", rect(60, 20, 30, 40)), line))
    ink = word("TERN QUAY", "Arvo", 30)
    x0, x1, y = (
        min(bounds(o.path)[0] for o in ink),
        max(bounds(o.path)[2] for o in ink),
        max(bounds(o.path)[3] for o in ink),
    )
    framed = mended(sheet(hairline("f", rect(x1 - x0 + 4, 40, x0 - 2, y - 40)), *ink))
    for case, name in ((bar, "h"), (framed, "f")):
        assert name in {o.id for o in case.sheet.outlines()}
        assert damage(case) == []


@pytest.mark.parametrize("gap", [1e-6, 5e-6, 1e-4, 1e-3, 4e-3])
def test_row_26_slits_too_narrow_to_see_are_closed_with_a_weld(gap):
    case = mended(
        sheet(
            outline("a", rect(20, 15, 10, 10)),
            outline("b", rect(20, 15, 30 + gap, 10)),
            outline("c", rect(10, 8, 25, 20)),
        )
    )
    assert damage(case) == []
    (whole,) = case.sheet.outlines()
    assert region(whole.path, False, 0.01).length == pytest.approx(2 * (40 + gap) + 2 * 15 + 2 * 3, abs=0.05)


def test_row_27_what_is_bound_stays_above_and_beneath_what_it_was():
    first, later = word("Te", "Arvo", 60), word("rn", "Arvo", 60, dx=60)
    case = mended(sheet(*first, outline("over", rect(60, 20, 10, 110), RED), *later))
    assert damage(case) == []


def test_row_28_opacity_beside_a_stroke_is_kept():
    on = parse_svg(
        b'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="90mm" viewBox="0 0 90 90"><circle cx="45" cy="45" r="30" fill="#ff0000" fill-opacity=".3" stroke="#0000ff" stroke-width="4"/></svg>'
    )
    case = mended(on)
    assert damage(case) == []
    assert 0.3 in {round(o.look.fill_opacity, 3) for o in case.sheet.outlines()}


def test_row_29_nothing_is_mended_by_lengths_while_the_size_is_not_certain():
    on = parse_svg(
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M1 1H3.6V2.4H1V1.15" fill="none" stroke="#f00" stroke-width=".05"/></svg>'
    )
    case = mended(on)
    assert "join-ends" not in steps_of(case)
    assert "size.units" in held(findings_of(case))
    assert damage(case) == []


def test_row_30_a_wide_stroke_in_another_colour_makes_no_hold_of_its_own():
    case = mended(sheet(Outline("a", rect(60, 40, 20, 20), Appearance(fill=YELLOW, stroke=BLACK, stroke_width_mm=2))))
    assert_right(case)
    assert verdicts(case) == (set(), set(), set(), set())


def test_row_31_lines_of_two_colours_that_close_each_other_stay_two():
    one = hairline("r", polygon((10, 50), (10, 10), (60, 10), closed=False), RED)
    other = hairline("b", polygon((60, 10), (60, 50), (10, 50), closed=False), BLUE)
    case = mended(sheet(one, other))
    assert damage(case) == []
    assert colours(case) == {RED, BLUE}
    job, checked, proven, released = verdicts(case)
    assert job == checked == proven == released


def test_letters_that_are_there_twice_a_hair_apart_are_welded_all_the_same():
    """The slits between a letter and its copy are many; one of the two is enough for the weld."""
    letters = glyph_paths("ake", "Dancing Script", 300)
    again = letters[-1].transformed(Transform(1.00001, 0, 0, 1.00001, 0.0015, 0.001))
    on = sheet(*(outline(f"l{n}", path) for n, path in enumerate([*letters, again])), page=(600, 400))
    found = apply(Call("weld"), on, workshop())
    assert len(found.sheet.outlines()) < 4
    assert damage(mended(on)) == []


@pytest.mark.parametrize(
    ("fill", "stroke", "whole", "below"),
    [(1.0, 0.4, 1, False), (0.3, 1.0, 1, False), (1.0, 1.0, 1, True), (0.5, 0.5, 1, False), (1, 1, 0.5, False), (1, 1, 0.5, True)],
)  # fmt: skip
def test_a_stroke_that_becomes_an_outline_keeps_its_opacity_and_its_place(fill, stroke, whole, below):
    second = RED if below or whole < 1 else BLACK
    look = Appearance(
        fill=BLACK,
        stroke=second,
        stroke_width_mm=8,
        opacity=whole,
        fill_opacity=fill,
        stroke_opacity=stroke,
        stroke_below=below,
    )
    on = sheet(Outline("a", circle(30, 60, 60), look))
    found = apply(Call("expand-stroke"), on, workshop())
    assert [o.id for o in found.sheet.outlines()] == (["a-stroke", "a"] if below else ["a", "a-stroke"])
    stages = (Stage(Call("expand-stroke"), found.sheet, found),)
    assert damage(Case(Path("a.svg"), on, workshop(), stages, received=write_svg(on))) == []
    assert damage(mended(on)) == []


def test_translucent_paints_of_an_item_that_is_translucent_itself_stay_one_item():
    """No two outlines show the same: where they would lie on each other the item is of a third colour."""
    look = Appearance(fill=RED, stroke=BLUE, stroke_width_mm=8, opacity=0.5, stroke_opacity=0.5)
    with pytest.raises(StepRefused, match="translucent each, and both together"):
        apply(Call("expand-stroke"), sheet(Outline("a", circle(30, 60, 60), look)), workshop())


def test_strokes_whose_ends_meet_at_a_curve_are_expanded_all_at_once():
    """In one of two drawings of their edges the ends are some nanometres apart: no cut is that narrow."""
    place = 'transform="rotate(180,765.426,686.514) translate(765.426,686.514) scale(7.168,-7.168)" stroke-width="2.5"'
    arcs = (
        "M39.9619 -28.9856 A6 3.4641 -180 0 1 41.7193 -31.4351",
        "M41.7193 -31.4351 A6 3.4641 -180 0 1 51.9619 -28.9856",
    )
    drawn = "".join(f'<path fill="none" stroke="#000" {place} d="{arc}"/>' for arc in arcs)
    on = parse_svg(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="1024mm" height="1024mm" viewBox="0 0 1024 1024">{drawn}</svg>'.encode()
    )
    assert len(apply(Call("expand-stroke"), on, workshop()).sheet.outlines()) == 2


def test_letters_with_a_translucent_stroke_say_where_their_strokes_added_up():
    look = Appearance(fill=BLACK, stroke=BLACK, stroke_width_mm=4, fill_opacity=0.4, stroke_opacity=0.4)
    on = sheet(Group("word", tuple(Outline(f"l{n}", circle(20, 40 + 38 * n, 60), look) for n in range(2))))
    assert damage(mended(on)) == []


def test_a_weld_that_would_lay_a_hidden_line_bare_is_refused():
    """A red hairline runs over one square and under another of the same colour, which touches the first."""
    line = hairline("line", polygon((20, 30), (90, 30), closed=False), RED)
    on = sheet(outline("low", rect(30, 40, 10, 10)), line, outline("high", rect(50, 40, 40, 10)))
    with pytest.raises(StepRefused, match="between them in the paint order"):
        apply(Call("weld"), on, workshop())


def test_overlapping_colours_are_released_in_every_format_alike(tmp_path):
    """HPGL has no colours; its crossing lines are of two films all the same."""
    case = mended(sheet(outline("r", circle(20, 50, 50), RED), outline("b", circle(20, 70, 50), BLUE)))
    package = release(case, tmp_path, in_package((".svg", ".dxf", ".pdf", ".plt")))
    assert package.record.holds == ()


@pytest.mark.parametrize(
    "shape",
    [
        '<circle cx="60" cy="60" r="30"',
        '<ellipse cx="60" cy="60" rx="45" ry="25" transform="rotate(20 60 60)"',
        '<rect x="20" y="30" width="70" height="40"',
        '<rect x="20" y="30" width="70" height="40" rx="12" ry="9"',
        '<polygon points="10,10 100,20 80,90"',
        '<path d="M10 10H100V50H10Z M20 60H90V100H20Z"',
    ],
)
def test_dashes_lie_where_they_lay(shape):
    """They begin where the shape does (SVG 1.1, 9.2 to 9.4), and the last and the first are one where they meet."""
    page = 'xmlns="http://www.w3.org/2000/svg" width="120mm" height="120mm" viewBox="0 0 120 120"'
    case = mended(
        parse_svg(
            f'<svg {page}>{shape} fill="none" stroke="#c30" stroke-width="4" stroke-dasharray="13 7"/></svg>'.encode()
        )
    )
    assert steps_of(case)[0] == "expand-stroke"
    assert damage(case) == []


@pytest.mark.parametrize("seed", [605840, 612760, 613160])
def test_how_wide_a_stroke_was_decides_no_verdict(seed):
    """Found by random sheets: a stroke that became an outline left its width in the job, and in no file."""
    assert objections(seed, most=3, every=20) == []


@pytest.mark.parametrize(
    "inside",
    [
        '<path d="M20 20l0 0" fill="none" stroke="#0b5d4c" stroke-width="6" stroke-linecap="round"/>',
        '<path d="M20 20z" fill="none" stroke="#0b5d4c" stroke-width="6" stroke-linecap="square"/>',
        '<path d="M20 20h30z" stroke="#ffcc00" stroke-opacity=".3" stroke-width="6"/>',
        '<path d="M30 20h.02v.02h-.02z" fill="#0b5d4c" stroke="#0b5d4c" stroke-width="5"/>',
    ],
)
def test_a_dot_or_a_bar_that_a_stroke_makes_is_no_scrap(inside):
    """Its line has no length or no area, and its stroke is seen all the same."""
    root = 'xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60"'
    on = parse_svg(f'<svg {root}>{inside}<rect x="5" y="40" width="50" height="9"/></svg>'.encode())
    assert "path.stray" not in {finding.code for finding in survey(on, workshop())}
    case = mended(on)
    assert "drop-scraps" not in steps_of(case)
    assert len(case.sheet.outlines()) >= 2
    if not held(findings_of(case)):
        assert not damage(case)
