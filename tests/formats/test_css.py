"""What CSS says of a drawing: colours with an opacity, transforms, lengths in em, variables, geometry."""

import math

import numpy as np
import pytest

from tests.builders import workshop
from unkelt.formats.svg.read import parse_svg
from unkelt.geometry.measure import bounds, signed_areas
from unkelt.survey.checks import survey
from unkelt.verdict.judge import Level


def read(inside, root='width="100mm" height="100mm" viewBox="0 0 100 100"'):
    return parse_svg(f'<svg xmlns="http://www.w3.org/2000/svg" {root}>{inside}</svg>'.encode())


@pytest.mark.parametrize(
    ("paint", "colour", "opacity"),
    [
        ("#ff000080", "#ff0000", 128 / 255),
        ("#f008", "#ff0000", 136 / 255),
        ("rgba(0, 128, 0, .25)", "#008000", 0.25),
        ("rgb(0 128 0 / 25%)", "#008000", 0.25),
        ("hsl(0 100% 50% / 50%)", "#ff0000", 0.5),
        ("currentColor", "#0000ff", 0.2),
    ],
)
def test_a_colour_is_as_opaque_as_it_says(paint, colour, opacity):
    """CSS Color 4, sections 4.1 and 5.2; `fill-opacity` multiplies it (SVG 2, 13.4.2)."""
    outline = read(
        f'<path color="#0000ff33" fill="{paint}" fill-opacity=".5" stroke="{paint}" d="M0 0h9v9z"/>'
    ).outlines()[0]
    assert (outline.look.fill, outline.look.stroke) == (colour, colour)
    assert outline.look.fill_opacity == pytest.approx(opacity / 2)
    assert outline.look.stroke_opacity == pytest.approx(opacity)


def test_a_gradient_gives_its_first_colour_that_can_be_seen():
    stops = '<stop stop-color="transparent"/><stop offset="1" stop-color="#ff000080"/>'
    look = (
        read(f'<linearGradient id="g">{stops}</linearGradient><path fill="url(#g)" d="M0 0h9v9z"/>').outlines()[0].look
    )
    assert (look.fill, look.fill_opacity) == ("#ff0000", 1.0)


def test_without_a_context_its_paint_is_none():
    """SVG 2, 13.2."""
    assert read('<path fill="context-fill" stroke="red" d="M0 0h9v9z"/>').outlines()[0].look.fill is None


@pytest.mark.parametrize(
    ("css", "place"),
    [
        ("transform: translate(20px, 1em) scale(2)", (40, 26)),
        ("transform: translateX(5mm) translateY(-2px)", (10 + 5 * 96 / 25.4, 8)),
        ("transform: rotate(.25turn)", (-10, 10)),
        ("transform: rotate(100grad)", (-10, 10)),
        ("transform: skew(45deg)", (20, 10)),
        ("transform: matrix(1, 0, 0, 1, 3, 4)", (13, 14)),
        ("transform: rotate(90deg); transform-origin: 10px 0", (0, 0)),
        ("transform: none", (10, 10)),
        ("color: red", (11, 11)),
    ],
)
def test_css_moves_what_it_says_and_the_attribute_gives_way(css, place):
    """CSS Transforms 1, sections 8 and 9: units as CSS has them; a style has precedence over the attribute."""
    path = f'<path font-size="6" transform="translate(1 1)" style="{css}" d="M10 10h9v9z"/>'
    found = read(f"{path}<style>.far{{transform:translate(1px)}}</style>").outlines()[0].path.points[0][0]
    assert found == pytest.approx(place, abs=1e-9)


def test_a_point_to_turn_about_is_an_attribute_too():
    turned = read('<path transform="rotate(90)" transform-origin="60 10" d="M60 10h20v10z"/>').outlines()[0]
    assert bounds(turned.path) == pytest.approx((50, 10, 60, 30), abs=1e-9)


def test_em_is_the_size_of_letters_where_it_stands():
    inside = '<g font-size="4"><circle cx="2em" cy="1em" r="1em" stroke="#000" stroke-width=".5em" stroke-dasharray="1em"/></g>'
    outline = read(inside).outlines()[0]
    assert bounds(outline.path) == pytest.approx((4, 0, 12, 8), abs=1e-3)
    assert outline.look.stroke_width_mm == pytest.approx(2)
    assert outline.look.dashes_mm == pytest.approx((4,))


def test_css_sets_geometry_as_attributes_do():
    """SVG 2, 4.2 and 9.3.1."""
    style = "<style>circle{r:12px;cx:30px} rect{width:20px;height:10px} .p{d:path('M1 2h20v20z')}</style>"
    inside = f'{style}<circle cy="30" r="2"/><rect x="50" y="10"/><path class="p" d="M0 0h1v1z"/>'
    boxes = [bounds(outline.path) for outline in read(inside).outlines()]
    assert boxes == [pytest.approx(box, abs=1e-3) for box in ((18, 18, 42, 42), (50, 10, 70, 20), (1, 2, 21, 22))]


def test_variables_are_filled_in_and_end_where_they_go_round():
    style = "<style>:root{--h:120;--c:hsl(var(--h) 100% 25%);--round:var(--round)} .a{fill:var(--c);stroke:var(--none, blue)}</style>"
    inside = f'{style}<g style="--w:3"><path class="a" style="stroke-width:var(--w)" d="M0 0h9v9z"/></g><path fill="red" style="fill:var(--round)" d="M0 0h9v9z"/>'
    first, second = (outline.look for outline in read(inside).outlines())
    assert (first.fill, first.stroke, first.stroke_width_mm) == ("#008000", "#0000ff", pytest.approx(3))
    assert second.fill == "#000000"
    many = "".join(f"--v{k}:{f'var(--v{k + 1})' * 9};" for k in range(30))
    assert read(f'<path style="{many}fill:var(--v0)" d="M0 0h9v9z"/>').outlines()[0].look.fill == "#000000"


@pytest.mark.parametrize(
    ("inside", "newer"),
    [
        ('<path style="transform:rotate(9deg)" d="M0 0h9v9z"/>', True),
        ('<g style="transform:rotate(9deg)"><path d="M0 0h9v9z"/></g>', True),
        ('<g style="--c:red"><path style="fill:var(--c)" d="M0 0h9v9z"/></g>', True),
        ('<path fill="rgb(0 0 0 / 50%)" d="M0 0h9v9z"/>', True),
        ('<path fill="rgba(0,0,0,.5)" transform="rotate(9)" style="stroke:#f00" d="M0 0h9v9z"/>', False),
    ],
)
def test_what_other_programs_may_read_otherwise_is_said(inside, newer):
    codes = {finding.code for finding in survey(read(inside), workshop())}
    assert ("content.css" in codes) == newer


@pytest.mark.parametrize(
    "inside",
    [
        '<path style="transform:translate(50%)" d="M0 0h9v9z"/>',
        '<path style="transform:rotate3d(1,1,1,45deg)" d="M0 0h9v9z"/>',
        '<path transform="rotate(90)" transform-origin="center" d="M0 0h9v9z"/>',
        '<path transform="turn(90)" d="M0 0h9v9z"/>',
        '<path d="M0 0h9v9z L 5 x"/>',
        "<flowRoot/>",
        '<rect width="5vw" height="3"/>',
        '<text font-size="9">a<b xmlns="http://www.w3.org/2000/svg"/></text>',
    ],
)
def test_what_cannot_be_read_holds(inside):
    """No "clean" for a file of which a part was left out."""
    found = [
        finding
        for finding in survey(read(inside + '<path d="M20 20h9v9z"/>'), workshop())
        if finding.level is Level.HOLD
    ]
    assert "content.left-out" in {finding.code for finding in found}


@pytest.mark.parametrize(
    ("inside", "cut"),
    [
        ('<path d="M-5-5L5 5" stroke="#000" stroke-linecap="round"/>', True),
        ('<path d="M-3-3L3 3" stroke="#000" stroke-linecap="round"/>', False),
        ('<path d="M-5-4.5L5-4.5" stroke="#000"/>', False),
        ('<path d="M-5-4.4L5-4.4M-5-4.7L5-4.7" stroke="#000"/>', True),
        ('<path d="M-6-4L5 5z"/>', True),
    ],
)
def test_strokes_are_cut_off_at_an_inner_edge_too(inside, cut):
    """SVG 1.1, 14.3.3."""
    for how, shown in (("", cut), (' style="overflow:visible"', False)):
        notes = read(
            f'<svg{how} x="50" y="50" width="20" height="20" viewBox="-5 -5 10 10">{inside}</svg>'
        ).source.notes
        assert any("cut off at its edge" in note for note in notes) == shown


def test_turns_are_right_in_every_unit():
    for unit, whole in (("deg", 360), ("grad", 400), ("rad", 2 * math.pi), ("turn", 1)):
        outline = read(f'<path style="transform:rotate({whole / 8}{unit})" d="M10 0L20 0"/>').outlines()[0]
        assert np.allclose(outline.path.points[0][0], (10 * math.cos(math.pi / 4), 10 * math.sin(math.pi / 4)))


def words(inside):
    return read(inside).letterings()[0]


def test_sizes_of_letters_are_shares_of_what_they_stand_in():
    """CSS Fonts 4, 2.5: of the parent's computed size, whatever unit it was said in."""
    for unit in ("10", "10px", "7.5pt"):
        text = words(f'<g font-size="{unit}"><text font-size="120%">a<tspan font-size="2em">b</tspan></text></g>')
        assert [run.size_mm for run in text.runs] == pytest.approx([12, 24])


def test_parts_of_raised_parts_are_raised_with_them():
    """CSS Inline 3, 4.3: off the parent's baseline."""
    inside = (
        '<text font-size="10">A<tspan baseline-shift="super">B<tspan baseline-shift="-1">C</tspan>D</tspan>E</text>'
    )
    assert [run.baseline_mm for run in words(inside).runs] == pytest.approx([0, 4, 3, 4, 0])


@pytest.mark.parametrize(
    ("asked", "said", "shown"),
    [
        ("uppercase", "o'neil straße", "O'NEIL STRASSE"),
        ("lowercase", "TERN", "tern"),
        ("capitalize", "sea o'neil", "Sea O'neil"),
        ("none", "tern", "tern"),
    ],
)
def test_letters_are_changed_as_css_asks(asked, said, shown):
    """CSS Text 3, 2.1: ß becomes SS, and an apostrophe parts no word."""
    assert words(f'<text style="text-transform:{asked}">{said}</text>').text == shown


def test_variants_of_a_face_are_switched_or_hold():
    """CSS Fonts 4, 6.4 and 6.7; a face may have small capitals of its own, or none."""
    text = words('<text style="font-variant-ligatures:no-common-ligatures;font-variant-numeric:oldstyle-nums">1</text>')
    assert text.runs[0].features == (("liga", 0), ("clig", 0), ("onum", 1))
    assert not text.beyond
    for asked in ("font-variant-caps:small-caps", "font-size-adjust:.5", "text-transform:full-width"):
        assert words(f'<text style="{asked}">a</text>').beyond == (asked.split(":")[0],)


@pytest.mark.parametrize("transform", ["", 'transform="scale(2)"', 'transform="rotate(30)"'])
def test_percentages_are_of_the_viewport_whatever_was_scaled_since(transform):
    """SVG 2, 8.9: of its size in the units that it begins with."""
    shape = '<rect width="10%" height="20%"/><circle cx="50%" cy="50%" r="10%" stroke="#000" stroke-width="5%"/>'
    square, dot = read(f"<g {transform}>{shape}</g>").outlines()
    k = 2 if "scale" in transform else 1
    assert abs(signed_areas(square.path).sum()) == pytest.approx(10 * 20 * k * k)
    assert abs(signed_areas(dot.path).sum()) == pytest.approx(math.pi * (10 * k) ** 2, rel=1e-3)
    assert dot.look.stroke_width_mm == pytest.approx(5 * k)
    inner = f'<g transform="scale(2)"><svg width="50%" height="50%" viewBox="0 0 10 10">{shape}</svg></g>'
    assert abs(signed_areas(read(inner).outlines()[0].path).sum()) == pytest.approx(1 * 2 * 100)
    there = read(
        '<defs><path id="a" d="M0 0h1v1z"/></defs><g transform="scale(2)"><use href="#a" x="10%" y="20%"/></g>'
    )
    assert there.outlines()[0].path.points[0][0] == pytest.approx((20, 40))


def test_what_the_root_says_is_of_all():
    root = 'width="100mm" height="100mm" viewBox="0 0 100 100" opacity=".5" clip-path="url(#c)" transform="rotate(90 50 50)"'
    found = read('<path d="M10 10h30v20z"/><path d="M20 10h30v20z"/>', root)
    assert bounds(found.outlines()[0].path) == pytest.approx((70, 10, 90, 40))
    assert {outline.look.opacity for outline in found.outlines()} == {0.5}
    for words in ("transforms the whole drawing", "has a clip", "translucent as a whole"):
        assert any(words in note for note in found.source.notes)


def test_a_stroke_that_is_not_to_be_scaled_keeps_its_width():
    """SVG 2, 8.13: in units of the screen, 96 to the inch."""
    look = read(
        '<g transform="scale(4 2)"><path d="M2 5h15v10h-15z" stroke="#00f" stroke-width="6" vector-effect="non-scaling-stroke"/></g>'
    )
    assert look.outlines()[0].look.stroke_width_mm == pytest.approx(6 * 25.4 / 96)
    assert look.outlines()[0].look.pen is None
    assert any("keeps its width" in note for note in look.source.notes)


def test_em_of_what_is_inherited_is_that_of_whoever_said_it():
    """CSS Values 4, 6.1: what is inherited is the computed length."""
    inside = '<g stroke="#000" stroke-width="1em" stroke-dasharray="1em .5ex" font-size="10"><path font-size="4" d="M0 0h99"/></g>'
    look = read(inside).outlines()[0].look
    assert look.stroke_width_mm == pytest.approx(10)
    assert look.dashes_mm == pytest.approx((10, 2.5))


def test_an_ellipse_of_one_radius_is_a_circle():
    """SVG 2, 10.4: `auto`."""
    for said, radius in (('rx="5"', 5), ('ry="7"', 7), ("", 0), ('rx="5" ry="0"', 0), ('rx="auto" ry="3"', 3)):
        found = read(f'<ellipse cx="20" cy="20" {said}/>').outlines()
        assert (bounds(found[0].path) if found else None) == (
            pytest.approx((20 - radius, 20 - radius, 20 + radius, 20 + radius), abs=1e-6) if radius else None
        )


def test_a_move_that_nothing_is_drawn_from_becomes_no_dot():
    """SVG 1.1, 11.4: caps are drawn on lines of no length, and on nothing else."""
    for cap, count in (("round", 2), ("butt", 3)):
        look = f'fill="none" stroke="#000" stroke-linecap="{cap}" stroke-width="4"'
        found = read(f'<path {look} d="M10 10h20m9 9m9 9l0 0"/>')
        assert len(found.outlines()[0].path) == count
        assert any("draws nothing" in note or "draw nothing" in note for note in found.source.notes) == (cap == "round")


@pytest.mark.parametrize(
    ("said", "width"),
    # CSS Syntax 3, section 9: a declaration that is no valid one is dropped, and what it would have overruled holds.
    [
        ('stroke-width="3 mm"', 1),
        ('stroke-width="2mm;"', 1),
        ('stroke-width="-2"', 1),
        ('stroke-width="2" style="stroke-width:calc(9px)"', 2),
        ('style="stroke-width:2; stroke-width:3 mm"', 2),
        ('stroke-width="2" stroke-dasharray="3, 2 px"', 2),
        ('stroke-width="2" style="--w:5;stroke-width:var(--w)"', 5),
        ('stroke-width="2" style="--w:5 5;stroke-width:var(--w)"', 1),
        ('stroke-width="2" visibility="shown"', 2),
        ('stroke-width="2" stroke-dasharray="null" stroke-linejoin="null"', 2),
    ],
)
def test_a_value_that_cannot_be_is_passed_over_and_said(said, width):
    (line,) = (found := read(f'<path d="M10 10H90" stroke="red" {said}/>')).outlines()
    assert line.look.stroke_width_mm == pytest.approx(width)
    assert line.look.visible
    assert not line.look.dashes_mm
    assert any("passed over" in note for note in found.source.notes) == (width != 5)


def test_a_colour_of_another_space_is_said():
    found = read('<path d="M10 10H90" stroke="lab(50% 40 30)" stroke-linecap="ROUND"/>')
    assert found.outlines()[0].look.line_cap == "round"
    assert any("no plain colour" in note for note in found.source.notes)
