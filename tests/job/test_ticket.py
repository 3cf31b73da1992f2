"""Tickets and lengths: what is accepted, and one clear sentence for what isn't."""

import pytest

from unkelt.errors import InputError, LengthError
from unkelt.job.ticket import Ticket, parse_ticket, read_ticket
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.units import parse_length


@pytest.mark.parametrize(
    ("text", "mm"),
    # CSS Values and Units: 1in = 2.54cm = 25.4mm = 101.6Q = 72pt = 6pc = 96px.
    [
        ("900 mm", 900), ("2.54cm", 25.4), ("1 in", 25.4), ("101.6 Q", 25.4), ("36 pt", 12.7), ("6pc", 25.4), ("96px", 25.4),
        ("3 1/2 in", 88.9), ("1/8 in", 3.175), ("-1/2in", -12.7), ("1e1 mm", 10), ("5 m", 5000), (".5mm", 0.5),
    ],
)  # fmt: skip
def test_lengths(text, mm):
    assert parse_length(text) == pytest.approx(mm)


@pytest.mark.parametrize(
    "text", ["", "900", "mm", "9 furlongs", "1/0 in", "nan mm", "inf mm", "1e999 mm", "5 %", "1,500 mm"]
)
def test_texts_that_are_no_lengths(text):
    with pytest.raises(LengthError) as caught:
        parse_length(text)
    assert f"“{text}”" in str(caught.value)


FULL = """
[job]
name = "Kittiwake transom"
[size]
width = "900 mm"
height = "8 1/2 in"
tolerance = "0.5 mm"
of = "visible"
[machine]
profile = "laser"
bed = ["600 mm", "5 m"]
chord = "0.05 mm"
hairline = "0.1 mm"
smallest_stroke = "1 mm"
smallest_gap = "0.5 mm"
[key]
cut = ["#0B5D4C", "#ff0000"]
score = "#8a6d1a"
"""


def test_every_field():
    ticket = parse_ticket(FULL)
    assert (ticket.name, ticket.width_mm, ticket.size_of) == ("Kittiwake transom", 900, "visible")
    assert ticket.height_mm == pytest.approx(215.9)
    assert ticket.machine.bed_mm == (600, 5000)
    assert (ticket.machine.hairline_mm, ticket.machine.smallest_stroke_mm, ticket.machine.smallest_gap_mm) == (
        0.1,
        1,
        0.5,
    )
    assert ticket.tolerance.chord_mm == 0.05
    assert ticket.operation(Appearance(fill="#0b5d4c")) is Operation.CUT
    assert ticket.operation(Appearance(fill="#0b5d4c", stroke="#8a6d1a")) is Operation.SCORE
    assert ticket.operation(Appearance(fill="#0b5d4d")) is None
    assert ticket.in_one_line() == "900 mm wide by 215.9 mm high ± 0.5 · laser · cut, score"


def test_a_shop_writes_what_it_measured_of_its_machine():
    machine = parse_ticket(
        "[machine]\nprofile = 'laser'\nspeed = '1 in/s'\nacceleration = '2 m/s²'\nnode = '3 ms'\nkerf = '0 mm'"
    ).machine
    assert (machine.speed_mm_s, machine.acceleration_mm_s2, machine.node_s, machine.kerf_mm) == (25.4, 2000, 0.003, 0)
    assert (machine.travel_mm_s, machine.backed, Ticket().machine.backed) == (500, False, True)


def test_without_a_ticket_everything_painted_is_cut():
    assert Ticket().operation(Appearance(fill=None, stroke=None)) is Operation.LEAVE
    assert Ticket().operation(Appearance(fill="#123456")) is Operation.CUT
    assert parse_ticket("").given


@pytest.mark.parametrize(
    ("text", "place", "words"),
    [
        ("[size", None, "not valid TOML"),
        ("width = '9 mm'", "width", "outside a table"),
        ("[sise]\nwidth = '9 mm'", "[sise]", "unknown table"),
        ("[size]\nwdith = '9 mm'", "size.wdith", "unknown field"),
        ("[size]\nwidth = 900", "size.width", "text in quotes"),
        ("[size]\nwidth = '900'", "size.width", "has no unit"),
        ("[size]\nwidth = '-9 mm'", "size.width", "greater than zero"),
        ("[size]\nof = 'frame'", "size.of", "one of ink, cut, visible"),
        ("[machine]\nprofile = 'oven'", "machine.profile", "one of film-knife"),
        ("[machine]\nbed = '600 mm'", "machine.bed", "two lengths"),
        ("[machine]\nspeed = '300 mm'", "machine.speed", "a speed such as"),
        ("[machine]\npierce = '1 min'", "machine.pierce", "a time such as"),
        ("[machine]\nkerf = '-1 mm'", "machine.kerf", "less than zero"),
        ("[key]\ncut = ['green']", "key.cut", "colours such as"),
        ("[key]\ncut = ['#0b5d4c']\nscore = ['#0B5D4C']", "key.cut", "already means"),
        ("[job]\nname = 3", "job.name", "text in quotes"),
    ],
)
def test_each_bad_field_is_named(text, place, words):
    with pytest.raises(InputError, match=r"shop\.toml") as caught:
        parse_ticket(text, "shop.toml")
    assert words in str(caught.value)
    if place and place != "key.cut":
        assert caught.value.place == place


def test_a_ticket_that_cannot_be_read(tmp_path):
    (tmp_path / "t.toml").write_bytes(b"\xff\xfe\x00")
    for name in ("t.toml", "none.toml", "."):
        with pytest.raises(InputError, match="can't be read as a ticket"):
            read_ticket(tmp_path / name)
