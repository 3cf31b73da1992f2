"""Where one looks, and what a person chooses for a job and for all jobs: view, units, ticket form, shop, settings,
colours.
"""

import tomllib
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import circle, sheet, square
from tests.session.places import views
from unkelt.errors import InputError, LengthError
from unkelt.geometry.path import LINE
from unkelt.job.machine import Machine, machine_of, profiles
from unkelt.job.ticket import Ticket, parse_ticket
from unkelt.session.colours import colours_of, ticket_with
from unkelt.session.reading import INCH, MM
from unkelt.session.screens import line_length, measured, pixels_per_mm, screen_name
from unkelt.session.settings import Settings, keep_settings, read_settings
from unkelt.session.shop import Shop
from unkelt.session.ticketing import FIELDS, filled_in, written
from unkelt.session.viewport import CLOSEST, FARTHEST, Viewport
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.model import Outline

NUMBERS = st.floats(-3000, 3000)


@given(views, st.floats(0.01, 100), NUMBERS, NUMBERS)
def test_a_place_stays_under_the_pointer_while_one_looks_closer(view, factor, x, y):
    before = view.to_mm(x, y)
    after = view.zoomed(factor, x, y)
    assert after.to_mm(x, y) == pytest.approx(before, rel=1e-9, abs=1e-6)
    assert FARTHEST <= after.scale <= CLOSEST
    assert after.to_px(*after.to_mm(x, y)) == pytest.approx((x, y), abs=1e-4)


@given(views, NUMBERS, NUMBERS, st.floats(0.1, 500), st.floats(0.1, 500))
def test_a_box_that_is_fitted_lies_whole_and_in_the_middle(view, x, y, width, height):
    box = (x, y, x + width, y + height)
    fitted = view.fitted(box, 10)
    a, b = fitted.to_px(*box[:2]), fitted.to_px(*box[2:])
    assert (a[0] + b[0]) / 2 == pytest.approx(view.width_px / 2, abs=1e-6)
    assert (a[1] + b[1]) / 2 == pytest.approx(view.height_px / 2, abs=1e-6)
    if FARTHEST < fitted.scale < CLOSEST:
        assert min(a) >= -1e-6
        assert b[0] <= view.width_px + 1e-6
        assert b[1] <= view.height_px + 1e-6
    assert view.at_scale(3.0).scale == pytest.approx(3.0)


@given(views, st.lists(st.tuples(NUMBERS, NUMBERS, st.floats(0, 90), st.floats(0, 90)), max_size=12))
def test_what_is_in_view_is_drawn_and_what_is_far_is_not(view, boxes):
    array = np.array([(x, y, x + w, y + h) for x, y, w, h in boxes]).reshape(-1, 4)
    seen = view.seen(array)
    for index, box in enumerate(array):
        (x0, y0), (x1, y1) = view.to_px(*box[:2]), view.to_px(*box[2:])
        inside = x1 >= 0 and y1 >= 0 and x0 <= view.width_px and y0 <= view.height_px
        far = x1 < -13 or y1 < -13 or x0 > view.width_px + 13 or y0 > view.height_px + 13
        assert not (inside and index not in seen)
        assert not (far and index in seen)


def test_nodes_and_stems_in_view_are_those_that_lie_there_one_by_one():
    view = Viewport(300, 200, 4.0, 20.0, 30.0)
    paths = [circle(30, 60, 60), square(20, 25, 35), circle(500, 0, 0)]
    nodes, stems = view.nodes_in(paths)
    wanted, arms = [], []

    def within(px):
        return -8 < px[0] < view.width_px + 8 and -8 < px[1] < view.height_px + 8

    for path in paths:
        for points, degree in zip(path.points, path.degrees, strict=True):
            ends = [view.to_px(*point) for point in points]
            wanted += [ends[3]] if within(ends[3]) else []
            if degree != LINE and (within(ends[0]) or within(ends[3])):
                arms += [(*ends[0], *ends[1]), (*ends[3], *ends[2])]
    assert wanted
    assert arms
    assert np.array(sorted(map(tuple, nodes))) == pytest.approx(np.array(sorted(wanted)))
    assert np.array(sorted(map(tuple, stems))) == pytest.approx(np.array(sorted(arms)))


def test_lengths_are_said_in_either_unit():
    assert (MM.say(864.75), INCH.say(864.75)) == ("864.75 mm", "34.045 in")
    assert (MM.say(1.23456, 1), INCH.say(25.4, -1, bare=True)) == ("1.235 mm", "1.00")


# the ticket form

WRITTEN = """# the shop's own remark
[job]
name = "Kittiwake"
[size]
width = "900 mm"  # over all
[key]
cut = ["#0b5d4c"]
"""


@pytest.mark.parametrize("field", [f for f in FIELDS if not f.choices], ids=lambda field: field.name)
@pytest.mark.parametrize("before", ["", WRITTEN], ids=["no ticket", "a ticket"])
def test_a_field_is_written_read_and_taken_out_again(field, before):
    ticket = parse_ticket(before) if before else Ticket()
    full = filled_in(ticket, field, field.example)
    assert written(full)[field.table, field.name] == field.example
    assert full.given
    again = filled_in(full, field, "")
    assert written(again)[field.table, field.name] == ""
    untouched = {key: words for key, words in written(ticket).items() if key != (field.table, field.name)}
    assert {key: written(again)[key] for key in untouched} == untouched
    if before:
        assert "# the shop's own remark" in again.source
        assert again.key == ticket.key


@pytest.mark.parametrize("field", [f for f in FIELDS if f.choices], ids=lambda field: field.name)
def test_every_choice_of_a_field_can_be_taken_and_the_first_is_what_it_means_without(field):
    plain = parse_ticket(WRITTEN)
    for value, _ in field.choices:
        made = filled_in(plain, field, value)
        assert parse_ticket(made.source) == made
        assert written(made)[field.table, field.name] in (value, "")
    first = filled_in(filled_in(plain, field, field.choices[-1][0]), field, field.choices[0][0])
    assert replace(first, source="") == replace(plain, source="")


@pytest.mark.parametrize(
    ("name", "text", "words"),
    [
        ("width", "900", "has no unit"),
        ("width", "-3 mm", "greater than zero"),
        ("bed", "600 mm", "two lengths"),
        ("chord", "thin", "chord tolerance: "),
        ("smallest_gap", '" ]', "smallest gap: "),
    ],
)
def test_what_can_not_be_is_refused_with_the_name_of_the_field(name, text, words):
    field = next(field for field in FIELDS if field.name == name)
    plain = parse_ticket(WRITTEN)
    with pytest.raises(InputError, match=field.words) as caught:
        filled_in(plain, field, text)
    assert words in str(caught.value)
    assert plain.source == WRITTEN


def test_text_from_a_field_is_never_read_as_toml():
    hostile = 'a"\n[machine]\nprofile = "plasma'
    made = filled_in(Ticket(), next(field for field in FIELDS if field.name == "name"), hostile)
    assert made.name == hostile
    assert made.machine.profile == "film-knife"
    assert set(tomllib.loads(made.source)) == {"job"}


def test_every_machine_is_whole_and_a_ticket_may_say_all_of_it():
    assert set(profiles()) == {"film-knife", "laser", "plasma"}
    for name, machine in profiles().items():
        assert machine == machine_of({"profile": name}, "ticket.toml")  # which refuses what it doesn't know
        assert machine.speed_mm_s > 0
        assert machine.acceleration_mm_s2 > 0
        assert machine.smallest_gap_mm < machine.smallest_stroke_mm
        assert not (machine.kerf_mm and machine.blade_offset_mm), "a beam has no blade"
    assert set(Machine.WRITTEN) < set(Machine.__dataclass_fields__)


# what is kept for all jobs


def test_the_shops_tickets_are_kept_by_name(tmp_path):
    shop = Shop(tmp_path / "config" / "tickets")
    assert shop.names() == []
    ticket = parse_ticket(WRITTEN)
    shop.keep("Film, 90 cm", ticket)
    shop.keep("berth tags", parse_ticket("[machine]\nprofile = 'laser'\n"))
    assert shop.names() == ["Film, 90 cm", "berth tags"]
    assert shop.ticket("Film, 90 cm") == ticket
    shop.keep("Film, 90 cm", parse_ticket("[size]\nwidth = '1 m'\n"))
    assert shop.ticket("Film, 90 cm").width_mm == 1000
    for name in ("", " ", ".hidden", "../out", "a/b", "nul\0l"):
        with pytest.raises(InputError, match="is no name for a ticket"):
            shop.keep(name, ticket)
    (tmp_path / "config" / "tickets" / "damaged.toml").write_text("[size")
    with pytest.raises(InputError, match="not valid TOML"):
        shop.ticket("damaged")
    (tmp_path / "file").touch()
    with pytest.raises(InputError, match="can't be made"):
        Shop(tmp_path / "file" / "tickets").keep("a", ticket)


@pytest.mark.parametrize("text", ["", "theme = 3", "unit = 'ell'", "[theme]", "unit = 'in", "\x00"])
def test_settings_that_can_not_be_read_are_as_at_first(tmp_path, text):
    path = tmp_path / "settings.toml"
    assert read_settings(path) == Settings()
    path.write_text(text)
    assert read_settings(path) == Settings()


def test_settings_are_kept(tmp_path):
    path = tmp_path / "unkelt" / "settings.toml"
    kept = Settings("dark", "in", screens={"Maker 27 inch": 4.29, "HDMI-1": 3.5})
    keep_settings(path, kept)
    assert read_settings(path) == kept
    path.write_text('[screens]\n"a" = "wide"\n"b" = 4000.0\n"c" = 4')
    assert read_settings(path).screens == {"c": 4.0}


def test_colours_are_counted_and_what_they_are_for_becomes_the_key():
    red, green = Appearance(fill="#aa0000"), Appearance(fill=None, stroke="#0b5d4c")
    on = sheet(Outline("a", square(9), red), Outline("b", square(9), red), Outline("c", square(9), green))
    ticket = parse_ticket('# kept\n[key]\ncut = ["#0b5d4c"]\nscore = ["#123456"]\n')
    found = {colour.value: (colour.items, colour.meaning) for colour in colours_of(on, ticket)}
    assert found["#aa0000"] == (2, None)
    assert found["#0b5d4c"] == (1, Operation.CUT)
    assert found["#123456"] == (0, Operation.SCORE)
    said = {"#aa0000": (Operation.ENGRAVE, "birch"), "#0b5d4c": (Operation.CUT, " birch "), "#123456": (None, "")}
    made = ticket_with(ticket, said)
    assert made.materials == {"#aa0000": "birch", "#0b5d4c": "birch"}
    assert {colour.value: colour.material for colour in colours_of(on, made)} == made.materials
    assert "materials" not in ticket_with(made, {"#aa0000": (None, "")}).source
    assert made.key == {"#aa0000": Operation.ENGRAVE, "#0b5d4c": Operation.CUT}
    assert parse_ticket(made.source).key == made.key
    assert made.source.startswith("# kept")


def test_a_screen_is_as_it_was_measured_else_as_it_says():
    """An inch is 25.4 mm (exact, international yard and pound agreement of 1959)."""
    assert pixels_per_mm({}, "Maker 27 inch", 96.0) == pytest.approx(96 / 25.4)
    assert pixels_per_mm({"Maker 27 inch": 4.29}, "Maker 27 inch", 96.0) == 4.29
    assert measured(400, "4 in") == pytest.approx(400 / 101.6)
    assert measured(400, line_length(400, 4.29)) == pytest.approx(4.29, rel=1e-3)
    assert screen_name("Maker", "27 inch", "", "HDMI-1") == "Maker 27 inch"
    assert screen_name("", "", "", "HDMI-1") == "HDMI-1"
    for nonsense in ("0 mm", "2 mm", "3 m", "100", "wide"):
        with pytest.raises(LengthError):
            measured(400, nonsense)
