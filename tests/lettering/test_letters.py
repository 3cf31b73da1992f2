"""Single letters, parts of a text, columns and sizes."""

from dataclasses import replace

import numpy as np
import pytest
import uharfbuzz as hb

from tests.builders import SHELF, lettering, sheet, workshop
from unkelt.errors import StepRefused
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds
from unkelt.lettering.faces import open_face
from unkelt.lettering.letters import forms
from unkelt.lettering.setting import Glyph, set_lettering
from unkelt.recipe import Call, apply
from unkelt.sheet.model import Lettering, Sheet


def done(text: Lettering, name: str, /, **options: object) -> list[Lettering]:
    return apply(Call(name, options=options), sheet(text), workshop()).sheet.letterings()


def glyphs(*texts: Lettering) -> list[Glyph]:
    return [glyph for text in texts for glyph in set_lettering(text, SHELF).glyphs if glyph.letters.strip()]


def places(*texts: Lettering) -> np.ndarray:
    boxes = [bounds(g.path().transformed(t.placement)) for t in texts for g in glyphs(t)]
    return np.array([box for box in boxes if box])


def test_kerning_moves_what_follows_and_a_shift_moves_one_letter():
    text = lettering("Tern", "Arvo", 40)
    was = places(text)
    (kerned,) = done(text, "set-letters", letters="2", kern="1.5 mm")
    assert places(kerned) - was == pytest.approx(np.array([[0, 0, 0, 0]] + 3 * [[1.5, 0, 1.5, 0]]), abs=1e-9)
    (moved,) = done(kerned, "set-letters", letters="3", shift="2 mm", lift="-1 mm")
    assert places(moved)[[0, 1, 3]] == pytest.approx(places(kerned)[[0, 1, 3]], abs=1e-9)
    assert (places(moved) - places(kerned))[2] == pytest.approx([2, 1, 2, 1], abs=1e-9)


def test_a_letter_turns_about_the_middle_of_its_ink():
    text = lettering("IO", "Barlow", 40)
    (turned,) = done(text, "set-letters", letters="1", turn=90.0)
    was, now = places(text), places(turned)
    assert now[1] == pytest.approx(was[1], abs=1e-9)
    assert (now[0, :2] + now[0, 2:]) / 2 == pytest.approx((was[0, :2] + was[0, 2:]) / 2, abs=1e-9)
    assert now[0, 2] - now[0, 0] == pytest.approx(was[0, 3] - was[0, 1], abs=1e-9)
    (back,) = done(turned, "set-letters", letters="1", turn=-90.0)
    assert places(back) == pytest.approx(was, abs=1e-9)


def test_one_letter_in_another_form_still_joins_its_neighbours():
    """The features of one letter are given to the shaper with their range: its answer for the same range is the
    measure.
    """
    text = lettering("Kittiwake", "Pacifico", 40)
    assert [form.features for form in forms(text, 1, SHELF)] == [(), (("fina", 1),), (("aalt", 1),), (("aalt", 2),)]
    assert [form.features for form in forms(text, 8, SHELF)] == [
        (),
        (("calt", 0),),
    ]  # the last e is a final one already
    (switched,) = done(text, "set-letters", letters="8", features="fina")
    buffer = hb.Buffer()
    buffer.add_str("Kittiwake")
    buffer.guess_segment_properties()
    hb.shape(open_face(glyphs(text)[0].face), buffer, {"fina": [(7, 8, 1)]})
    assert [glyph.glyph for glyph in set_lettering(switched, SHELF).glyphs] == [i.codepoint for i in buffer.glyph_infos]
    assert glyphs(switched)[0].x == glyphs(text)[0].x
    with pytest.raises(StepRefused, match="has no feature “zero”"):
        done(text, "set-letters", features="zero")
    with pytest.raises(StepRefused, match="changes nothing"):
        done(lettering("H", "Pacifico"), "set-letters", features="frac")
    with pytest.raises(StepRefused, match="letters 1 to 9, not 12"):
        done(text, "set-letters", letters="12", kern="1 mm")


@pytest.mark.parametrize("by", ["words", "letters"])
@pytest.mark.parametrize("family", ["Pacifico", "Barlow", "Arvo"])
def test_taken_apart_and_put_together_nothing_moves(family, by):
    (text,) = done(lettering("one", family, 40), "set-text", text="Sea Thrift AV | of Hollin Quay")
    was = sorted(map(tuple, places(text).round(6)))
    parts = done(text, "split-text", by=by)
    assert len(parts) == {"words": 6, "letters": 23}[by]
    assert sorted(map(tuple, places(*parts).round(6))) == was
    whole = apply(Call("join-text"), Sheet((400, 300), tuple(parts)), workshop()).sheet.letterings()
    assert [item.text for item in whole] == ["Sea Thrift AV of Hollin Quay"]
    assert sorted(map(tuple, places(*whole).round(6))) == was
    assert len(whole[0].runs) == 2  # two lines, each again one run as the shaper sets it
    (lead,) = done(whole[0], "set-spacing", lines="33 mm")
    assert lead.runs[1].at[1] - lead.runs[0].at[1] == pytest.approx(33)


def test_letters_on_a_guide_are_taken_apart_where_they_stand():
    (arched,) = done(lettering("Port", "Barlow", 40), "set-on-guide", radius="90 mm")
    parts = done(arched, "split-text", by="letters")
    assert len(parts) == 4
    assert places(*parts) == pytest.approx(places(arched), abs=1e-9)


def test_letters_kept_upright_on_a_circle():
    """Each letter is the straight one moved: the middle of its advance lies on the circle."""
    straight = lettering("BERTH", "Barlow", 30)
    (arched,) = done(straight, "set-on-guide", radius="80 mm", x="100 mm", y="140 mm", letters="upright")
    for was, now in zip(glyphs(straight), glyphs(arched), strict=True):
        assert now.turn == 0
        assert np.hypot(now.x + now.advance / 2 - 100, now.y - 140) == pytest.approx(80, abs=1e-3)
        assert np.ptp(now.path().points - was.path().points, axis=(0, 1)) == pytest.approx([0, 0], abs=1e-9)


def test_columns():
    """Stacked letters have their middles on one line (HarfBuzz's own top-to-bottom shaping); turned ones run down
    it.
    """
    text = lettering("Tern", "Barlow", 40)
    (stacked,) = done(text, "set-on-guide", shape="column", letters="upright")
    at = places(stacked)
    assert (at[:, 0] + at[:, 2]) / 2 == pytest.approx(stacked.runs[0].at[0], abs=1.5)  # sidebearings differ
    assert (np.diff(at[:, 3]) > 20).all()
    (turned,) = done(text, "set-on-guide", shape="column")
    was = places(text)
    assert places(turned)[:, 3] - places(turned)[:, 1] == pytest.approx(was[:, 2] - was[:, 0])
    again = parse_svg(write_svg(sheet(stacked))).letterings()[0]
    assert (again.vertical, again.upright) == (True, True)
    assert places(again) == pytest.approx(at, abs=1e-3)
    (back,) = done(turned, "set-on-guide", shape="straight")
    assert [glyph.turn for glyph in glyphs(back)] == [0, 0, 0, 0]


@pytest.mark.parametrize(("of", "letter"), [("capitals", "H"), ("x-height", "x"), ("ink", "Hxg")])
def test_sizes_by_what_is_seen(of, letter):
    (text,) = done(lettering(letter, "Barlow", 40), "set-face", height="75 mm", of=of)
    box = places(text)
    assert box[:, 3].max() - box[:, 1].min() == pytest.approx(75, abs=1e-6)


@pytest.mark.parametrize("by", ["spacing", "letters"])
def test_fitted_to_a_width_by_its_ink(by):
    result = apply(
        Call("set-spacing", options={"width": "150 mm", "by": by}), sheet(lettering("Tern", "Arvo", 40)), workshop()
    )
    (text,) = result.sheet.letterings()
    at = places(text)
    assert at[-1, 2] - at[0, 0] == pytest.approx(150, abs=1e-6)
    assert (result.evidence.letters_stretched_percent > 10) is (by == "letters")
    assert (glyphs(text)[0].stretch == 1) is (by == "spacing")
    with pytest.raises(StepRefused, match="on each other"):
        done(text, "set-spacing", width="20 mm", by="spacing")


def test_text_that_runs_to_the_left_starts_at_its_right_end():
    """SVG 1.1, section 10.9.1: with direction rtl, the start is the end on the right."""
    text = replace(lettering("Tern", "Arvo", 40), direction="rtl")
    last = glyphs(text)[-1]
    assert last.x + last.advance == pytest.approx(text.runs[0].at[0])
    mixed = parse_svg('<svg xmlns="http://www.w3.org/2000/svg"><text>Tern שלום</text></svg>'.encode()).letterings()[0]
    assert mixed.beyond == ("letters of both writing directions",)
