"""Reading and writing SVG: units, structure, text, and files that are no drawings."""

import numpy as np
import pytest

from tests.builders import lettering, outline, ring, sheet, square
from unkelt.errors import InputError
from unkelt.formats.files import write_whole
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Picture

NS = 'xmlns="http://www.w3.org/2000/svg"'


def svg(inside: str, head: str = 'width="100mm" height="50mm" viewBox="0 0 100 50"') -> bytes:
    return f"<svg {NS} {head}>{inside}</svg>".encode()


def box(inside: str, head: str = 'width="100mm" height="50mm" viewBox="0 0 100 50"'):
    return bounds(parse_svg(svg(inside, head)).outlines()[0].path)


@pytest.mark.parametrize(
    ("width", "mm"),
    # CSS Values and Units: 1in = 2.54cm = 25.4mm = 101.6Q = 72pt = 6pc = 96px.
    [("1in", 25.4), ("2.54cm", 25.4), ("25.4mm", 25.4), ("101.6q", 25.4), ("72pt", 25.4), ("6pc", 25.4), ("96px", 25.4), ("96", 25.4)],
)  # fmt: skip
def test_every_unit_of_length(width, mm):
    page = parse_svg(svg("", f'width="{width}" height="{width}"')).page_mm
    assert page == pytest.approx((mm, mm))


@pytest.mark.parametrize(
    ("head", "page"),
    # CSS 2.1, 10.3.2: a missing side goes by the ratio of the other two; a page that isn't told cuts nothing off.
    [
        ('width="100mm" viewBox="0 0 300 150"', (100, 50)),
        ('height="50mm" width="100%" viewBox="0 0 300 150"', (100, 50)),
        ("", (127, 39.6875)),
        ('width="100%" height="30mm"', (127, 30)),
        ('viewBox="0 0 96 96"', (25.4, 25.4)),
    ],
)
def test_a_page_that_is_told_in_part_or_not_at_all(head, page):
    drawn = '<rect x="96" y="24" width="96" height="48"/>', '<image x="384" width="96" height="9" href="data:"/>'
    assert parse_svg(svg("".join(drawn), head)).page_mm == pytest.approx(page)


@pytest.mark.parametrize(
    ("ratio", "expected"),
    # SVG 2, "Coordinate systems": a 200 × 100 viewport on a viewBox of 0 0 100 100.
    [("", (50, 0, 150, 100)), ("xMaxYMax slice", (0, -100, 200, 100)), ("none", (0, 0, 200, 100)), ("xMinYMin", (0, 0, 100, 100))],
)  # fmt: skip
def test_view_box_and_aspect_ratio(ratio, expected):
    head = f'width="200mm" height="100mm" viewBox="0 0 100 100" preserveAspectRatio="{ratio}"'
    assert box('<rect width="100" height="100"/>', head) == pytest.approx(expected)


def test_transforms_are_baked_in():
    """SVG 1.1, section 7.6: translate(50,90) rotate(-45) translate(130,160) has e, f = 255.061, 111.213 (computed)."""
    nested = '<g transform="translate(50,90)"><g transform="rotate(-45)"><path transform="translate(130,160)" d="M0 0h1"/></g></g>'
    start = parse_svg(svg(nested)).outlines()[0].path.points[0, 0]
    assert start == pytest.approx((255.061, 111.213), abs=1e-3)


@pytest.mark.parametrize(
    ("shape", "expected"),
    [
        ('<circle cx="10" cy="10" r="5"/>', (5, 5, 15, 15)),
        ('<ellipse cx="10" cy="10" rx="5" ry="2"/>', (5, 8, 15, 12)),
        ('<rect x="1" y="2" width="10" height="4" rx="20"/>', (1, 2, 11, 6)),
        ('<line x1="1" y1="2" x2="3" y2="4"/>', (1, 2, 3, 4)),
        ('<polygon points="0,0 10,0 5,8"/>', (0, 0, 10, 8)),
        ('<polyline points="0 0 10 0 5 8"/>', (0, 0, 10, 8)),
    ],
)
def test_basic_shapes(shape, expected):
    assert box(shape) == pytest.approx(expected, abs=1e-9)


def test_style_attribute_wins_and_inherits():
    inside = '<g fill="red" style="stroke:blue"><path style="fill:#0a0" fill="yellow" d="M0 0h1v1z"/><path d="M0 0h1v1z" stroke="none"/></g>'
    first, second = (o.look for o in parse_svg(svg(inside)).outlines())
    assert (first.fill, first.stroke) == ("#00aa00", "#0000ff")
    assert (second.fill, second.stroke) == ("#ff0000", None)


def test_stroke_width_is_in_mm_at_true_size():
    inside = '<g transform="none"><path transform="scale(2)" stroke="black" stroke-width="0.5" d="M0 0h1"/></g>'
    assert parse_svg(svg(inside)).outlines()[0].look.stroke_width_mm == pytest.approx(1.0)


def test_text_with_parts_positions_and_white_space():
    inside = """<text x="10" y="20" font-family="'Dancing Script', cursive" font-size="8" text-anchor="middle">
      Sea <tspan font-weight="bold" dy="2" letter-spacing="0.1em">Thrift</tspan></text>"""
    text = parse_svg(svg(inside)).letterings()[0]
    assert [run.text for run in text.runs] == ["Sea ", "Thrift"]
    assert text.anchor == "middle"
    assert text.runs[0].at == pytest.approx((10, 20))
    assert text.runs[0].face.families == ("Dancing Script", "cursive")
    assert text.runs[1].face.weight == 700
    assert text.runs[1].shift == pytest.approx((0, 2))
    assert text.runs[1].letter_spacing_mm == pytest.approx(0.8)
    assert text.runs[1].size_mm == pytest.approx(8)


def test_what_text_asks_for_and_cannot_be_set_yet_is_kept_as_such():
    text = parse_svg(svg('<text><textPath href="#none">Hollin</textPath></text>')).letterings()[0]
    assert text.beyond == ("a guide that is not in the file",)


def test_ids_are_kept_made_unique_and_stable():
    inside = '<path id="a" d="M0 0h1v1z"/><path id="a" d="M2 2h1v1z"/><path d="M4 4h1v1z"/>'
    first, again = (parse_svg(svg(inside)) for _ in range(2))
    assert [o.id for o in first.outlines()] == [o.id for o in again.outlines()] == ["a", "path-1", "path-2"]
    assert any("more than once" in note for note in first.source.notes)


def test_nothing_is_dropped_silently():
    inside = """<use href="#x"/><image width="9" height="9" href="p.png"/><path fill="url(#g)" d="M0 0h1v1z"/>
      <path display="none" d="M0 0h1"/><path d="M0 0L1 1 bad"/><rect width="5m" height="q"/><script>alert(1)</script>
      <blink/><style>@import "x.css"; p { </style><radialGradient id="h"><stop stop-color="#f00"/></radialGradient>
      <rect width="9" height="9" fill="url(#h)" filter="url(#f)"/><rect width="1" height="1" fill="oklch(1 2 3 4 5)"/>"""
    found = parse_svg(svg(inside))
    notes = " ".join(found.source.notes)
    for words in ("leads nowhere", "outside the file", "stops early", "left out", "never run", "not understood", "not followed",
                  "no more than one colour, here #ff0000", "has a filter", "no plain colour"):  # fmt: skip
        assert words in notes
    assert any(isinstance(item, Picture) for item in found.walk())
    assert sum(not outline.look.visible for outline in found.outlines()) == 1


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "is empty"),
        (b"   \n", "is empty"),
        (b"not xml at all", "not well-formed XML"),
        (svg('<path d="M0 0')[:80], "not well-formed XML"),
        (b"<html><body/></html>", "is not SVG"),
        (b"\x89PNG\r\n\x1a\n\x00\x00", "not well-formed XML"),
        (svg("", 'width="-3mm" height="2mm"'), "no size for a page"),
        (svg("", 'width="1e999mm" height="2mm"'), "too large"),
        (svg("", 'width="NaN" height="2mm"'), "not a number"),
        (svg("", 'viewBox="0 0 nan 5"'), "not a viewBox"),
        (svg("<g>" * 300 + "</g>" * 300), "nested more than"),
    ],
)
def test_files_that_are_no_drawings_get_one_sentence(tmp_path, data, words):
    path = tmp_path / "a.svg"
    path.write_bytes(data)
    with pytest.raises(InputError, match=words) as caught:
        read_sheet(path)
    assert str(path) in str(caught.value)
    assert "\n" not in str(caught.value)


def test_folders_and_missing_files(tmp_path):
    with pytest.raises(InputError, match="is a folder"):
        read_sheet(tmp_path)
    with pytest.raises(InputError, match="no such file"):
        read_sheet(tmp_path / "none.svg")


def test_enormous_numbers_are_left_out_and_said():
    found = parse_svg(
        svg('<path d="M0 0H1e12V5Z"/><path transform="scale(1e300)" d="M0 0h1v1z"/><path d="M0 0h1v1z"/>')
    )
    assert len(found.outlines()) == 1
    assert any("beyond" in note for note in found.source.notes)


def test_written_and_read_again_the_sheet_is_the_same():
    look = Appearance(fill=None, stroke="#0b5d4c", stroke_width_mm=0.1, line_join="round", opacity=0.5)
    inner = outline("ring", ring(20, 9, 50, 40), "#123456")
    first = sheet(Group("g", (inner, lettering("Se a"))), outline("s", square(), stroke="#ff0000"))
    first = first.mapped(lambda i: i if i.id != "s" else outline("s", square(), None, look.stroke))
    again = parse_svg(write_svg(first), "x")
    assert write_svg(again) == write_svg(first)
    assert [item.id for item in again.walk()] == [item.id for item in first.walk()]
    assert again.letterings() == first.letterings()
    assert np.abs(again.outlines()[0].path.points - first.outlines()[0].path.points).max() <= 1e-5


def test_the_original_is_never_written_over(tmp_path):
    path = tmp_path / "a.svg"
    path.write_text("original")
    link = tmp_path / "link.svg"
    link.symlink_to(path)
    for target in (path, link):
        with pytest.raises(InputError, match="never written over"):
            write_whole(target, b"new", never_over=path)
    assert path.read_text() == "original"
    assert sorted(p.name for p in tmp_path.iterdir()) == ["a.svg", "link.svg"]
