"""Faces and setting, against FreeType, HarfBuzz's own numbers and an independent renderer."""

import math
import string
from dataclasses import replace

import freetype
import numpy as np
import pytest
from fontTools.misc.transform import Identity
from fontTools.ttLib import TTFont

from tests.builders import SHELF, circle, lettering, outline, sheet
from tests.rendering import drawn
from unkelt.errors import StepRefused
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds, join_boxes, lengths, signed_areas
from unkelt.geometry.path import PathBuilder, concat
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Face, Shelf, open_face
from unkelt.lettering.index import faces_in, index
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shaping import glyph_path
from unkelt.lettering.shelves import bundled_faces
from unkelt.recipe import Call, apply
from unkelt.sheet.model import Each, FaceQuery, Frame, Guide

WORDS = string.ascii_letters + string.digits + "&!?.,"


def freetype_path(face: freetype.Face, letter: str):
    """A glyph's outline as FreeType decomposes it, in font units."""
    face.load_char(letter, freetype.FT_LOAD_NO_SCALE)
    builder = PathBuilder()
    begun = []

    def move(to, _):
        if begun:
            builder.close()
        begun.append(1)
        builder.move_to(to.x, to.y)

    face.glyph.outline.decompose(
        None,
        move_to=move,
        line_to=lambda to, _: builder.line_to(to.x, to.y),
        conic_to=lambda c, to, _: builder.quad_to(c.x, c.y, to.x, to.y),
        cubic_to=lambda a, b, to, _: builder.cubic_to(a.x, a.y, b.x, b.y, to.x, to.y),
    )
    if begun:
        builder.close()
    return builder.path()


@pytest.mark.parametrize("face", bundled_faces(), ids=lambda face: face.postscript)
def test_glyph_outlines_against_freetype(face: Face):
    """Over every third letter of the face. FreeType rounds implied points of quadratics to whole units, by at most half
    a unit: bounds may differ by that, and areas by a part of that along the whole length.
    """
    other = freetype.Face(str(face.path))
    letters = [chr(code) for code, _ in other.get_chars()]
    assert len(letters) > 200
    for letter in letters[::3]:
        theirs = freetype_path(other, letter)
        ours = glyph_path(face, other.get_char_index(letter))
        if not signed_areas(theirs).any():  # spaces, and contours of a single point
            assert not len(ours)
            continue
        assert bounds(ours) == pytest.approx(bounds(theirs), abs=1.0)
        assert signed_areas(ours).sum() == pytest.approx(signed_areas(theirs).sum(), abs=0.25 * lengths(ours).sum())


@pytest.mark.parametrize("family", ["Pacifico", "Dancing Script", "Sacramento", "Barlow", "Alfa Slab One", "Arvo"])
@pytest.mark.parametrize(
    ("text", "more"),
    [
        ("Sea Thrift", ""),
        ("AVAffi", 'text-anchor="middle"'),
        ("To. Wy", 'word-spacing="9"'),
        ("Tern", 'dx="0 9 -5" dy="4 0 -8"'),
        ("Tern", 'dx="60" text-anchor="middle"'),  # what is shifted before its first letter is no part of its width
        ("Tern", 'dx="-40" dy="5" text-anchor="end"'),
        ("Tern", 'rotate="10 -20 35"'),  # the last holds on
        ("Tern 12", 'writing-mode="tb"'),
        ("Tern", 'dominant-baseline="middle"'),
        ("Tern", 'dominant-baseline="mathematical"'),
        ("Tern", 'dominant-baseline="text-after-edge"'),
        ('Te<tspan x="480" y="92.7" text-anchor="end">rn</tspan>', ""),
        ('Te<tspan alignment-baseline="central">rn</tspan>', ""),
        ('Te <tspan rotate="10 -20">r n</tspan> x', ""),  # the last holds on within the part
        ('a<tspan rotate="20">b</tspan>cd', 'rotate="-10 0 0 30"'),
        ('T<tspan dx="30" dy="9">e</tspan>rn', 'dx="5 40 38 30"'),  # the innermost that says it counts
        ('T<tspan x="280 350 400 430 480">er</tspan> n', ""),  # what a part has no letters for is passed over
        ('<tspan dx="50"> </tspan>Te <tspan xml:space="preserve"> r  n</tspan>', ""),
        ("Tern", 'baseline-shift="20"'),  # it is of parts only
        ("Berth", 'textLength="330"'),
        ("Berth", 'textLength="330" lengthAdjust="spacingAndGlyphs" text-anchor="middle"'),
    ],
)
def test_text_against_an_independent_renderer(family, text, more):
    """The same text, drawn as text by resvg and as our outlines by resvg. Gates: IoU ≥ 0.999, no pixel over 24 of 255.

    The size is an odd one on purpose: at 80 units, faces of 2048 units to the em fall exactly on the renderer's
    sampling grid, and the last bit decides which side of it an edge lies on.
    """
    live = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="2400" height="800" viewBox="0 0 600 200"><text x="200" y="130" '
        f'font-family="{family}" font-size="81.3" {more}>{text}</text></svg>'
    )
    outlined = apply(Call("outline-text"), parse_svg(live.encode()), Workshop(Ticket(), SHELF)).sheet
    # As one path, as text is drawn: where letters overlap, separate ones would be blended twice.
    whole = outline("all", concat([item.path for item in outlined.outlines()]))
    a, b = drawn(live), drawn(write_svg(replace(outlined, items=(whole,))).decode())
    assert a.shape == b.shape
    assert a.sum() > 50_000
    assert np.minimum(a, b).sum() / np.maximum(a, b).sum() >= 0.999
    assert np.abs(a - b).max() <= 24


def test_parts_shifted_off_the_baseline():
    text = '<text x="10" y="50" font-family="Barlow" font-size="30">a<tspan baseline-shift="7">b</tspan><tspan dy="9">c</tspan></text>'
    live = f'<svg xmlns="http://www.w3.org/2000/svg" width="400" height="320" viewBox="0 0 100 80">{text}</svg>'
    outlined = apply(Call("outline-text"), parse_svg(live.encode()), Workshop(Ticket(), SHELF)).sheet
    a, b = drawn(live), drawn(write_svg(outlined).decode())
    assert np.minimum(a, b).sum() / np.maximum(a, b).sum() >= 0.998


@pytest.mark.parametrize("family", ["Pacifico", "Arvo"])
def test_bars_lie_where_the_face_says(family):
    """OpenType, `post` and `OS/2`: the upper edge and the thickness. They reach from the first letter to the last."""
    text = (
        f'<text x="10" y="50" font-family="{family}" font-size="20" style="text-decoration:underline">ab '
        '<tspan text-decoration="line-through" fill="#ff0000">cd</tspan></text>'
    )
    live = parse_svg(f'<svg xmlns="http://www.w3.org/2000/svg" width="96" height="96">{text}</svg>'.encode())
    (lettered,) = live.letterings()
    setting = set_lettering(lettered, SHELF)
    face = setting.glyphs[0].face
    font = TTFont(str(face.path), fontNumber=face.index)
    scale = lettered.runs[0].size_mm / font["head"].unitsPerEm
    below = -font["post"].underlinePosition * scale, font["post"].underlineThickness * scale
    through = -font["OS/2"].yStrikeoutPosition * scale, font["OS/2"].yStrikeoutSize * scale
    start, last = setting.glyphs[0], setting.glyphs[-1]
    middle, end = next(glyph.x for glyph in setting.glyphs if glyph.letters == "c"), last.x + last.advance
    base = start.y
    expected = [(start.x, middle, *below, None), (middle, end, *below, "#ff0000"), (middle, end, *through, "#ff0000")]
    assert len(setting.bars) == 3
    for (run, path), (x0, x1, top, thick, fill) in zip(setting.bars, expected, strict=True):
        assert bounds(path) == pytest.approx((x0, base + top, x1, base + top + thick), abs=1e-6)
        assert fill in (None, run.look.fill)
    outlined = apply(Call("outline-text"), live, Workshop(Ticket(), SHELF)).sheet
    assert len(outlined.outlines()) == len([g for g in setting.glyphs if g.has_ink]) + 3
    again = parse_svg(write_svg(live)).letterings()[0]
    assert len(set_lettering(again, SHELF).bars) == 3


@pytest.mark.parametrize(
    ("decoration", "more"),
    [("underline wavy", ""), ("underline #ff0000", ""), ("underline", 'writing-mode="tb"')],
)
def test_bars_that_cannot_be_drawn_are_said(decoration, more):
    text = f'<text y="50" font-family="Pacifico" font-size="20" text-decoration="{decoration}" {more}>ab</text>'
    live = parse_svg(f'<svg xmlns="http://www.w3.org/2000/svg" width="96" height="96">{text}</svg>'.encode())
    with pytest.raises(StepRefused, match="text-decoration"):
        apply(Call("outline-text"), live, Workshop(Ticket(), SHELF))


def test_characters_with_places_of_their_own():
    """An x list parts the text: each stretch is shaped by itself, and anchored by itself."""
    text = lettering("Tern", "Barlow")
    each = Each(x=(20, 70, 120), dy=(0, 5), rotate=(0, 90))
    glyphs = set_lettering(replace(text, runs=(replace(text.runs[0], each=each),)), SHELF).glyphs
    assert [round(g.x, 6) for g in glyphs[:3]] == [20, 70, 120]
    assert glyphs[3].x == pytest.approx(120 + glyphs[2].advance)
    assert [round(math.degrees(g.turn)) for g in glyphs] == [0, 90, 90, 90]
    assert glyphs[1].y == glyphs[0].y + 5


@pytest.mark.parametrize("more", ['startOffset="900"', 'startOffset="50%" text-anchor="middle"'])
def test_text_on_an_arc_against_an_independent_renderer(more):
    """In units twenty times as large as usual: the renderer errs by up to half a unit along a path."""
    anchor = more.split(" ", 1)[1] if " " in more else ""
    live = (
        '<svg xmlns="http://www.w3.org/2000/svg" width="1200" height="600" viewBox="0 0 12000 6000"><path id="p" fill="none" '
        f'd="M1000 5000C2000 200 9000 0 11000 5000"/><text font-family="Pacifico" font-size="1300" {anchor}>'
        f'<textPath href="#p" {more.split(" ")[0]}>Sea Thrift</textPath></text></svg>'
    )
    outlined = apply(Call("outline-text"), parse_svg(live.encode()), Workshop(Ticket(), SHELF)).sheet
    whole = outline("all", concat([item.path for item in outlined.outlines() if item.look.fill]))
    a, b = drawn(live), drawn(write_svg(replace(outlined, items=(whole,))).decode())
    assert np.minimum(a, b).sum() / np.maximum(a, b).sum() >= 0.99


def test_on_a_circle_the_middle_of_each_letter_lies_on_it():
    """SVG 1.1, section 10.13.3: the middle of the advance on the path, the glyph turned to the tangent there."""
    text = lettering("Hollin Quay", "Barlow", 12)
    guide = Guide(circle(60, 100, 100, arcs=8))
    placed = set_lettering(replace(text, guide=guide, runs=(replace(text.runs[0], at=(0, 0)),)), SHELF)
    assert placed.off_guide == 0
    for glyph in placed.glyphs:
        middle = (
            glyph.x + glyph.advance / 2 * math.cos(glyph.turn),
            glyph.y + glyph.advance / 2 * math.sin(glyph.turn),
        )
        assert math.dist(middle, (100, 100)) == pytest.approx(60, abs=0.001)
        radius = math.atan2(middle[1] - 100, middle[0] - 100)
        assert math.cos(glyph.turn - radius) == pytest.approx(0, abs=1e-3)
    short = set_lettering(replace(text, guide=Guide(circle(5)), runs=(replace(text.runs[0], at=(0, 0)),)), SHELF)
    assert short.off_guide > 0
    assert not short.complete


def test_wrapped_text_breaks_where_the_next_word_has_no_room():
    """SVG 2, inline-size: no line is wider than that, and a word more would be; lines lie the face's own height
    apart.
    """
    text = replace(lettering("Boats lettered at Hollin Quay", "Barlow", 10), frame=Frame(40.0))
    glyphs = set_lettering(text, SHELF).glyphs
    lines: dict[float, list] = {}
    for glyph in glyphs:
        lines.setdefault(round(glyph.y, 6), []).append(glyph)
    said = ["".join(glyph.letters for glyph in line).strip() for line in lines.values()]
    assert " ".join(said) == "Boats lettered at Hollin Quay"
    assert len(said) > 2
    widths = [max(g.x + g.advance for g in line if g.letters.strip()) - line[0].x for line in lines.values()]
    assert max(widths) <= 40
    extents = open_face(glyphs[0].face).get_font_extents("ltr")
    pitch = (extents.ascender - extents.descender + extents.line_gap) / open_face(glyphs[0].face).face.upem * 10
    assert np.diff(list(lines)) == pytest.approx(pitch)
    outlined = apply(Call("outline-text"), sheet(text), Workshop(Ticket(), SHELF)).sheet
    (whole,) = outlined.items
    assert [group.label for group in whole.items] == ["Boats", "lettered", "at", "Hollin", "Quay"]


def test_features_are_switched():
    text = lettering("fi", "Dancing Script")
    plain, off = (
        set_lettering(replace(text, runs=(replace(text.runs[0], features=f),)), SHELF) for f in ((), (("liga", 0),))
    )
    assert (len(plain.glyphs), len(off.glyphs)) == (1, 2)


def test_letter_spacing_switches_optional_ligatures_off():
    """CSS Text: when letter-spacing is not zero, optional ligatures are not applied."""
    text = lettering("fi", "Dancing Script")
    spaced = replace(text, runs=(replace(text.runs[0], letter_spacing_mm=2.0),))
    plain = set_lettering(text, SHELF).glyphs
    apart = set_lettering(spaced, SHELF).glyphs
    assert len(plain) == 1
    assert len(apart) == 2
    assert apart[1].x - apart[0].x == pytest.approx(apart[0].advance)


def test_frame_has_room_for_letters_that_are_not_there():
    setting = set_lettering(lettering("one", "Barlow", 100), SHELF)
    ink = setting.ink(Identity)
    assert setting.frame[3] - setting.frame[1] > 1.5 * (ink[3] - ink[1])
    boxes = [bounds(glyph.path()) for glyph in setting.glyphs]
    assert ink == join_boxes(boxes)


@pytest.mark.parametrize(
    ("query", "found"),
    [
        (FaceQuery(("barlow",)), "Barlow-Regular"),
        (FaceQuery(("Barlow", "serif"), weight=700), "Barlow-Bold"),
        (FaceQuery(("Barlow",), weight=550), "Barlow-SemiBold"),  # CSS: above 500, heavier ones first
        (FaceQuery(("Barlow",), weight=450), "Barlow-Medium"),  # CSS: 400 to 500, up to 500 first
        (FaceQuery(("Barlow",), weight=300), "Barlow-Regular"),
        (FaceQuery(("Barlow-SemiBold",)), "Barlow-SemiBold"),
        (FaceQuery(("Barlow",), italic=True), None),  # would have to be slanted: faked
        (FaceQuery(("Pacifico",), weight=700), None),  # would have to be thickened: faked
        (FaceQuery(("Quayside", "Barlow")), None),  # a stand-in is never taken silently
        (FaceQuery(("cursive",)), None),
        (FaceQuery(()), None),
    ],
)
def test_matching_by_the_css_rules_without_silent_replacement(query, found):
    face = SHELF.match(query)
    assert (face.postscript if face else None) == found


@pytest.mark.parametrize(
    ("stretch", "widths", "found"),
    [
        ("normal", (75, 125), 75),  # normal and narrower: narrower ones first
        ("condensed", (50, 87.5, 100), 50),
        ("expanded", (100, 150), 150),  # wider: wider ones first
        ("125%", (100, 112.5), 112.5),
        ("semi-condensed", (87.5, 75), 87.5),
    ],
)
def test_width_is_matched_before_weight_by_the_css_rules(stretch, widths, found):
    """CSS Fonts 4, section "Matching font styles", steps for font-stretch; the percents of its keywords from there
    too.
    """
    faces = [replace(SHELF.faces[0], family="Berth", width=width, italic=False, weight=400) for width in widths]
    match = Shelf(faces).match(FaceQuery(("Berth",), stretch=stretch))
    assert match is not None
    assert match.width == found


def test_damaged_faces_are_skipped(tmp_path):
    for name, data in (("a.ttf", b"no font"), ("b.ttf", b"\x00\x01\x00\x00" + b"\xff" * 200)):
        (tmp_path / name).write_bytes(data)
        with pytest.raises(ValueError, match="damaged"):
            faces_in(tmp_path / name)
    found = index([tmp_path / "a.ttf", tmp_path / "gone.ttf"], tmp_path / "cache")
    assert found.faces == ()
    assert [sentence.split(": ")[1] for sentence in found.damaged] == [
        "is damaged, or no font",
        "No such file or directory",
    ]


def test_missing_characters_are_named():
    assert set_lettering(lettering("a漢", "Barlow"), SHELF).missing_letters == "漢"
    assert not set_lettering(lettering("a漢", "Barlow"), SHELF).complete
    assert set_lettering(lettering("a", "Quayside"), Shelf(())).missing_faces


def test_setting_does_not_change_the_sheet():
    text = lettering()
    before = sheet(text)
    set_lettering(text, SHELF)
    assert before.items == (text,)
