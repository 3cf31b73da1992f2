"""Defects planted in clean lettering, alone and together: each is found at its place and cured, and nothing else is.

The clean words are outlines of bundled faces, mended; the picture after mending is compared by GEOS with the clean one.
"""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests import planting
from tests.builders import SHELF, lettering, moved, outline, sheet, square, workshop
from tests.planting import LEFT_TO_A_PERSON, ON_WORDS_ONLY, PLANTS, clean, clean_sheet, nearest, others
from tests.rendering import drawn
from unkelt.demo import make_demo
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds
from unkelt.geometry.region import region
from unkelt.job.ticket import Ticket, read_ticket
from unkelt.job.workshop import Workshop
from unkelt.mending import mend
from unkelt.recipe import Call, apply
from unkelt.sheet.model import Group, Sheet
from unkelt.steps.cures import cures_of
from unkelt.survey.checks import CHECKS, survey

CHANGES_NOTHING = {
    "path.open",
    "path.duplicate",
    "nodes.excess",
    "nodes.crowded",
    "compound.loose",
    "compound.counter-apart",
    "path.stray",
    "path.guide",
}
"""Defects without which the picture is as it was."""

WORDS = [("Bobolink", "Pacifico"), ("Sandpiper", "Dancing Script"), ("BERTH 8", "Arvo")]
DRAWINGS = [("palette-fill", ""), ("gear-fill", ""), ("piggy-bank-fill", "")]


def picture(on: Sheet) -> shapely.Geometry:
    return shapely.unary_union([region(o.path, o.look.even_odd, 0.002) for o in on.outlines()])


@pytest.mark.parametrize("name", sorted(path.stem for path in planting.DRAWINGS.glob("*.svg")))
def test_every_drawing_is_clean_once_it_was_mended(name):
    """`flower1` keeps a segment that no machine resolves where reduction takes all of the tolerance."""
    assert clean_sheet(name, "").outlines()


@pytest.mark.parametrize(("word", "family"), WORDS + DRAWINGS)
@pytest.mark.parametrize("code", PLANTS)
def test_one_defect_is_found_at_its_place_and_cured_and_nothing_else(word, family, code):
    if code in ON_WORDS_ONLY and not family:
        pytest.skip("only lettering has it")
    good = clean_sheet(word, family)
    bad, (x, y) = PLANTS[code](good)
    found = survey(bad, workshop())
    assert code in [f.code for f in found]
    assert others(code, [f.code for f in found]) == []
    assert min(nearest(f, x, y) for f in found if f.code == code) <= 0.1
    mended = mend(bad, workshop())
    chosen = next((f for f in found if f.code == code and f.choice), None)
    if code in LEFT_TO_A_PERSON or chosen:
        assert [stage.call.name for stage in mended] == []
    if code in LEFT_TO_A_PERSON:
        return
    assert [stage.skipped for stage in mended] == [None] * len(mended)
    after = apply(Call(cures_of(chosen)[0], chosen.items), bad, workshop()).sheet if chosen else mended[-1].sheet
    assert survey(after, workshop()) == ()
    if code not in CHANGES_NOTHING:
        return
    # Nothing that a boundary shift of 0.05 mm doesn't explain.
    difference = picture(after).symmetric_difference(picture(good))
    assert difference.buffer(-0.05).is_empty
    # The same by an independent renderer: of a pixel of 0.26 mm, 0.05 mm cover no more than 0.27, and it counts
    # sixteenths.
    one, other = (drawn(write_svg(each).decode()) for each in (good, after))
    assert np.abs(one - other).max() <= (0.27 + 1 / 16) * 255


@pytest.mark.parametrize("codes", list(itertools.permutations(["path.open", "path.stray", "nodes.excess"], 2)))
def test_two_defects_together(codes):
    bad = good = clean("Bobolink", "Pacifico")
    for code in codes:
        bad, _ = PLANTS[code](bad)
    assert {finding.code for finding in survey(bad, workshop())} == set(codes)
    after = mend(bad, workshop())[-1].sheet
    assert survey(after, workshop()) == ()
    assert picture(after).symmetric_difference(picture(good)).buffer(-0.05).is_empty


def test_the_survey_does_not_depend_on_the_order_of_items():
    letters = apply(Call("outline-text"), sheet(lettering("Kitti", "Pacifico")), workshop()).sheet.outlines()
    orders = [tuple(letters), tuple(reversed(letters)), (*letters[2:], *letters[:2])]
    found = [sorted(f.code for f in survey(sheet(Group("g", order)), workshop())) for order in orders]
    assert found[0] == found[1] == found[2]


squares = st.lists(st.tuples(st.integers(0, 60), st.integers(0, 60), st.integers(3, 25)), min_size=1, max_size=6)


@given(squares)
def test_mending_twice_is_mending_once_and_what_was_written_reads_the_same(places):
    items = tuple(outline(f"p{n}", square(size, x, y)) for n, (x, y, size) in enumerate(places))
    stages = mend(sheet(*items), workshop())
    after = stages[-1].sheet if stages else sheet(*items)
    assert [stage for stage in mend(after, workshop()) if stage.outcome] == []
    again = parse_svg(write_svg(after), "x")
    assert [f.code for f in survey(again, workshop())] == [f.code for f in survey(after, workshop())]
    # Welding never changes what is ink.
    assert picture(after).symmetric_difference(picture(sheet(*items))).area <= 1e-3


@given(st.floats(0.2, 5), st.floats(-80, 80), st.floats(-80, 80))
def test_resizing_keeps_proportions_and_place(width_share, dx, dy):
    wide = f"{40 * width_share:.4f} mm"
    on = sheet(outline("a", moved(square(40), 100 + dx, 90 + dy)), outline("b", moved(square(10), 110 + dx, 95 + dy)))
    after = apply(Call("resize", options={"width": wide}), on, workshop()).sheet
    a, b = (bounds(o.path) for o in after.outlines())
    k = (a[2] - a[0]) / 40
    assert k == pytest.approx(width_share, rel=1e-4)
    assert (a[3] - a[1]) / 40 == pytest.approx(k)
    assert (b[0] - a[0]) / k == pytest.approx(10, abs=1e-6)
    assert (b[1] - a[1]) / k == pytest.approx(5, abs=1e-6)


def test_the_demonstration_files_hold_every_code_between_them(tmp_path):
    """All but five: no face with a licence that forbids it may be passed on, no file brings a face in two versions, all
    of them can be read, have one page, and do without newer CSS.
    """
    make_demo(tmp_path)
    found = set()
    for path in tmp_path.glob("*.svg"):
        ticket = path.with_suffix(".toml")
        shop = Workshop(read_ticket(ticket) if ticket.exists() else Ticket(), SHELF)
        codes = {finding.code for finding in survey(read_sheet(path), shop)}
        assert codes or path.stem == "berth-12"
        found |= codes
    assert {code for check in CHECKS for code in check.codes} - found == {
        "text.licence",
        "text.face-versions",
        "content.left-out",
        "content.css",
        "content.pages",
    }
