"""Scraps, fill rules, pages, and whether each line says what it is for."""

from dataclasses import replace

import numpy as np
import pytest
from fontTools.misc.transform import Transform

from tests.builders import circle, moved, outline, sheet, square, workshop
from unkelt.errors import NothingToDo, StepRefused
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.geometry.measure import signed_areas
from unkelt.geometry.path import concat
from unkelt.geometry.region import region
from unkelt.mending import mend
from unkelt.recipe import Call, apply
from unkelt.sheet.model import Sheet
from unkelt.survey.checks import find_code, survey

KEYED = '[key]\ncut = ["#0b5d4c"]\nengrave = ["#20262b"]\n[machine]\nbed = ["100 mm", "60 mm"]\n'


def found(on: Sheet, ticket: str = "") -> list[str]:
    return [f.code for f in survey(on, workshop(ticket))]


def on_page(path, **look):
    shape = outline("a", moved(path, 50, 50))
    return sheet(replace(shape, look=replace(shape.look, **look)), page=(100, 100))


@pytest.mark.parametrize("scrap", ["M5 5", "M5 5h.01v.01h-.01z", "M5 5L20 20Z", "M5 5l.02 .02"])
def test_scraps_are_found_and_dropped_and_nothing_else(scrap):
    letter = circle(10)
    on = on_page(concat([letter, parse_path_data(scrap).path]))
    assert "path.stray" in found(on)
    after = apply(Call("drop-scraps"), on, workshop())
    assert after.evidence.subpaths_dropped == 1
    assert (after.sheet.outlines()[0].path.points == moved(letter, 50, 50).points).all()
    assert "path.stray" not in found(after.sheet)


def test_small_letters_and_figures_of_eight_are_no_scraps():
    for d in ("M0 0h.2v.2h-.2zM0 .5h.2v1.5h-.2z", "M0 0L10 10V0L0 10Z", "M0 0h.3"):  # the first is an i, 2 mm high
        assert "path.stray" not in found(on_page(parse_path_data(d).path))


def test_what_is_smaller_than_the_tools_own_line_is_for_a_person_to_drop():
    speck, limit = parse_path_data("M30 30h.2v.2h-.2z").path, parse_path_data("M5 5h.05v.05h-.05z").path
    on = on_page(concat([circle(10), speck, limit]))
    (first,) = [finding for finding in survey(on, workshop()) if finding.code == "path.stray"]
    assert (first.value, first.choice) == (1, False)  # as large as the limit is a scrap
    on = mend(on, workshop())[-1].sheet
    assert len(on.outlines()[0].path) == 2
    (left,) = [finding for finding in survey(on, workshop()) if finding.code == "path.stray"]
    assert (left.value, left.choice) == (1, True)
    with pytest.raises(NothingToDo):
        apply(Call("drop-scraps"), on, workshop())
    assert len(apply(Call("drop-scraps", ("a",)), on, workshop()).sheet.outlines()[0].path) == 1


@pytest.mark.parametrize("even_odd", [False, True])
def test_rings_that_fill_by_one_rule_only_are_turned(even_odd):
    """An O whose counter runs the same way round: filled by nonzero, open by even-odd."""
    letter = concat([circle(10), circle(5)])
    on = on_page(letter, even_odd=even_odd)
    assert "compound.winding" in found(on)
    if not even_odd:  # it is drawn solid: to turn it would open a hole
        with pytest.raises(StepRefused, match="weld it first"):
            apply(Call("orient-rings"), on, workshop())
        (solid,) = mend(on, workshop())[-1].sheet.outlines()
        assert signed_areas(solid.path).tolist() == pytest.approx([np.pi * 100], rel=1e-3)
        return
    after = apply(Call("orient-rings"), on, workshop()).sheet
    path = after.outlines()[0].path
    assert "compound.winding" not in found(after)
    assert signed_areas(path).sum() == pytest.approx(np.pi * 75, rel=1e-3)
    assert region(path, False, 0.01).area == pytest.approx(region(path, True, 0.01).area)


def test_off_the_page_and_back_on_it():
    on = sheet(outline("a", square(30, -5, 10)), page=(60, 60))
    (finding,) = find_code("place.off-page", on, workshop())
    assert finding.value == pytest.approx(5)
    after = apply(Call("fit-page", options={"margin": "3 mm"}), on, workshop()).sheet
    assert after.page_mm == pytest.approx((36, 36))
    assert after.drawn_box() == pytest.approx((3, 3, 33, 33))
    assert not any(code.startswith("place.") for code in found(after))
    assert "place.page-loose" in found(sheet(outline("a", square(5, 1, 1)), page=(300, 200)))


def test_the_bed_is_tried_both_ways_round():
    wide, tall = (
        outline("a", square(1).transformed(Transform(90, 0, 0, 50, 0, 0))),
        outline("a", square(1).transformed(Transform(50, 0, 0, 90, 0, 0))),
    )
    for fits in (wide, tall):
        assert "place.bed" not in found(sheet(fits, page=(100, 100)), KEYED)
    assert "place.bed" in found(sheet(outline("a", square(70)), page=(100, 100)), KEYED)


def test_colours_are_told_by_the_key():
    assert "line.colour-unknown" in found(on_page(square(), fill="#ff0000"), KEYED)
    near = on_page(square(), fill="#0b5e4c")
    assert "line.colour-near" in found(near, KEYED)
    mended = mend(near, workshop(KEYED))[-1].sheet
    assert mended.outlines()[0].look.fill == "#0b5d4c"
    assert not [code for code in found(on_page(square(), fill="#ff0000")) if code.startswith("line.")]


def test_wide_cut_lines_become_hairlines_and_keep_their_path():
    on = on_page(square(), fill=None, stroke="#0b5d4c", stroke_width_mm=1.0)
    (finding,) = find_code("line.width", on, workshop(KEYED))
    assert (finding.value, finding.level.value) == (1.0, "hold")
    after = mend(on, workshop(KEYED))[-1].sheet.outlines()[0]
    assert after.look.stroke_width_mm == pytest.approx(25.4 / 96)
    assert (after.path.points == on.outlines()[0].path.points).all()


def test_two_paints_are_ambiguous():
    on = on_page(square(), fill="#20262b", stroke="#0b5d4c", stroke_width_mm=0.1)
    assert "line.mixed" in found(on, KEYED)
    assert mend(on, workshop()) == []  # which of them was meant is a person's to say
    assert "line.mixed" not in found(on_page(square(), fill="#20262b", stroke=None), KEYED)
