"""Sizes, alignment, mirroring, and what else is placed around lettering: by numbers that can be checked by hand."""

import math

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import SHELF, lettering, outline, ring, sheet, square, workshop
from unkelt.errors import LengthError, StepRefused
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import concat, polygon
from unkelt.geometry.region import region
from unkelt.job.ticket import parse_ticket, with_key
from unkelt.job.workshop import Workshop
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Lettering, Outline, Reads, Sheet
from unkelt.survey.checks import find_code
from unkelt.units import parse_length

KEY = Workshop(parse_ticket('[job]\nmirrored = true\n[key]\ncut = ["#000000"]\nengrave = ["#20262b"]'), SHELF)


def after(on: Sheet, name: str, *items: str, shop: Workshop | None = None, **options: object) -> Sheet:
    return apply(Call(name, items, options=options), on, shop or workshop()).sheet


def box(on: Sheet, item_id: str):
    item = on.find(item_id)
    assert isinstance(item, Outline)
    return bounds(item.path)


@pytest.mark.parametrize(
    ("text", "mm"),
    [("90 mm + 1/8 in", 93.175), ("2 * 45 mm", 90), ("45mm×2", 90), ("1 m / 4", 250), ("3 1/2 in - 1/2 in", 76.2),
     ("10 mm − 2 mm + 36 pt", 20.7), ("1e-3 mm", 0.001)],
)  # fmt: skip
def test_sizes_are_simple_sums(text, mm):
    assert parse_length(text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["1 mm +", "+", "2 *", "1 m / 0", "90 + 3 mm", "2 * 3", "mm", "1 mm 2 mm"])
def test_what_is_no_sum_says_so(text):
    with pytest.raises(LengthError):
        parse_length(text)


@given(st.integers(1, 999), st.integers(1, 999), st.sampled_from(["+", "-"]))
def test_sums_are_what_they_say(a, b, sign):
    assert parse_length(f"{a} mm {sign} {b} cm") == pytest.approx(a + (10 * b if sign == "+" else -10 * b))


def test_a_backing_runs_inside_too():
    on = sheet(outline("a", square(40, 10, 10)))
    both = after(on, "backing", "a", distance="3 mm", side="both", corners="sharp")
    sizes = sorted(round(b[2] - b[0], 3) for o in both.outlines() if (b := bounds(o.path)) and o.id != "a")
    assert sizes == [34, 46]
    with pytest.raises(StepRefused, match="wide"):
        after(on, "backing", "a", distance="25 mm", side="inside")


def test_a_border_has_an_inner_frame_that_is_engraved():
    on = sheet(outline("a", square(40, 30, 30)))
    framed = after(on, "border", "a", shop=KEY, shape="rectangle", margin="10 mm", frame="1 mm", inset="2 mm")
    assert framed.find("frame").look.fill == "#20262b"
    assert box(framed, "frame") == pytest.approx((22, 22, 78, 78))
    assert region(framed.find("frame").path, False, 0.01).area == pytest.approx(56**2 - 54**2)
    with pytest.raises(StepRefused, match="no room"):
        after(on, "border", "a", margin="2 mm", frame="1 mm", inset="2 mm")


def test_the_counter_part_lies_beside_what_it_was_knocked_out_of():
    on = sheet(outline("big", square(60, 10, 10)), outline("small", square(20, 30, 30)))
    apart = after(on, "knock-out", "small", out_of="big", clearance="1 mm", beside=True)
    assert box(apart, "small") == pytest.approx((80, 30, 100, 50))
    assert len(apart.outlines()) == 2
    assert [item.id for item in apart.items] == ["big", "counter-part"]  # a group, so that it can go out alone


def test_sizes_by_the_longer_side_by_a_part_and_with_strokes():
    on = sheet(
        outline("a", square(40, 10, 10)),
        outline("b", polygon((60, 10), (140, 10), (140, 30), (60, 30)), None, "#000000"),
    )
    longest = after(on, "resize", longest="260 mm")
    assert box(longest, "b")[2] - box(longest, "a")[0] == pytest.approx(260)
    assert longest.find("b").look.stroke_width_mm == pytest.approx(0.1)
    grown = after(on, "resize", longest="260 mm", strokes=True)
    assert grown.find("b").look.stroke_width_mm == pytest.approx(0.2)
    letters = after(on, "resize", "a", height="10 mm")  # so high shall the letter be; the rest comes along
    assert box(letters, "a")[3] - box(letters, "a")[1] == pytest.approx(10)
    assert box(letters, "b")[2] - box(letters, "b")[0] == pytest.approx(20)
    visible = after(on, "resize", width="65.1 mm", of="visible")
    assert box(visible, "b")[2] - box(visible, "a")[0] == pytest.approx(65.05, abs=1e-6)  # half a stroke sticks out


def test_alignment_by_mass_baseline_and_field():
    """A triangle's centre of mass lies a third of the way; the field of a ring is its opening."""
    triangle = outline("t", polygon((0, 0), (30, 0), (0, 30)))
    on = sheet(outline("s", square(60, 100, 100)), triangle)
    by_mass = after(on, "align", "s", "t", across="mass", upright="mass", to="first")
    assert box(by_mass, "t") == pytest.approx((120, 120, 150, 150))
    framed = sheet(outline("f", ring(60, 20)), outline("s", square(10, 200, 200)))
    hole = shapely.Polygon(region(framed.find("f").path, False, 0.01).geoms[0].interiors[0]).centroid
    inside = after(framed, "align", "f", "s", across="middle", upright="middle", to="field")
    x0, y0, x1, y1 = box(inside, "s")
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((hole.x, hole.y), abs=1e-6)
    one, other = lettering("apex", "Arvo", 40), lettering("Type", "Barlow", 60)
    words = sheet(one, Lettering("other", other.runs, placement=other.placement.translate(120, 33)))
    level = after(words, "align", "name", "other", across="stay", upright="baseline", to="first")
    lines = [text.placement.transformPoint((0, text.runs[0].at[1]))[1] for text in level.letterings()]
    assert lines[0] == pytest.approx(lines[1])
    cut = after(level, "outline-text")
    assert apply(
        Call("align", ("name", "other"), options={"across": "left", "upright": "baseline", "to": "first"}),
        cut,
        workshop(),
    )
    with pytest.raises(StepRefused, match="no baseline"):
        after(on, "align", "s", "t", upright="baseline")
    bed = Workshop(parse_ticket('[machine]\nbed = ["400 mm", "300 mm"]'), SHELF)
    laid = after(on, "align", "s", shop=bed, across="left", upright="top", to="bed")
    assert box(laid, "s") == pytest.approx((0, 0, 60, 60))
    with pytest.raises(StepRefused, match="how large the bed"):
        after(on, "align", "s", to="bed")
    with pytest.raises(StepRefused, match="no opening"):
        after(on, "align", "s", "t", to="field")


def test_a_mirrored_sheet_is_marked_and_the_ticket_asks_for_it():
    on = sheet(outline("a", concat([square(40, 30, 30)])))
    assert [f.code for f in find_code("place.mirror", on, KEY)] == ["place.mirror"]
    turned = after(on, "mirror", shop=KEY, mark=True)
    assert find_code("place.mirror", turned, KEY) == ()
    assert find_code("place.mirror", turned, workshop()) == ()
    mark = turned.find("mirrored-mark")
    assert KEY.ticket.operation(mark.look) == "engrave"
    assert bounds(mark.path)[3] < 30  # above the ink
    assert [each.reads for each in after(turned, "mirror", shop=KEY).outlines()] == [Reads.FORWARDS, Reads.EITHER]
    cut_only = Workshop(parse_ticket('[key]\ncut = ["#000000"]'), SHELF)
    with pytest.raises(StepRefused, match="no colour for a mark"):
        after(on, "mirror", shop=cut_only, mark=True)


def test_spokes_alternate_with_their_mirror_image():
    bent = outline("a", polygon((95, 20), (105, 20), (115, 60), (95, 60)))
    on = sheet(bent, page=(200, 200))
    plain = after(on, "spokes", "a", count=4)
    turned = after(on, "spokes", "a", count=4, mirrored=True)
    areas = [[region(o.path, False, 0.01).area for o in each.outlines()] for each in (plain, turned)]
    assert areas[1] == pytest.approx(areas[0])
    distances = [
        sorted(round(math.hypot(x - 100, y - 100), 6) for o in s.outlines() for x, y in o.path.points[:, 0].tolist())
        for s in (plain, turned)
    ]
    assert distances[0] == distances[1]
    assert plain.outlines()[1] != turned.outlines()[1]
    with pytest.raises(StepRefused, match="odd count"):
        after(on, "spokes", "a", count=5, mirrored=True)


def test_a_key_is_written_into_the_ticket_as_it_was_written():
    ticket = parse_ticket('# the shop\'s own\n[job]\nname = "Tag"   # as spoken\n[key]\ncut = ["#000000"]')
    changed = with_key(ticket, ticket.key | {"#ff0000": Operation.SCORE})
    assert "# as spoken" in changed.source
    assert parse_ticket(changed.source).key == {"#000000": "cut", "#ff0000": "score"}
