"""Text in frames: wrapped, in paragraphs and columns, put together from lines and taken apart, with every letter."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import SHELF, lettering, sheet, workshop
from unkelt.errors import StepRefused
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.lettering.setting import set_lettering
from unkelt.outgoing import outgoing
from unkelt.recipe import Call, apply

WORDS = "Boats lettered at Hollin Quay since the tide was low and the paint was dry"


def framed(on, name="name", **options):
    return apply(Call("set-paragraph", (name,), options=options), on, workshop())


def lines(text):
    """Each line's words and the box of its ink."""
    found = {}
    for glyph in set_lettering(text, SHELF).glyphs:
        if glyph.letters.strip():
            found.setdefault((round(glyph.y, 6), column(glyph)), []).append(glyph)
    rows = [sorted(each, key=lambda g: g.x) for _, each in sorted(found.items(), key=lambda item: item[0][::-1])]
    return [("".join(g.letters for g in row), join_boxes([bounds(g.path()) for g in row])) for row in rows]


def column(glyph):
    return 1 if glyph.x > 500 else 0


@given(st.floats(45, 300), st.sampled_from(["left", "centre", "right"]), st.integers(8, 30))
@settings(max_examples=8)
def test_wrapped_lines_keep_every_letter_fill_the_frame_and_lie_where_they_should(width, align, pitch):
    on = sheet(lettering(WORDS, "Barlow", 10))
    outcome = framed(on, width=f"{width} mm", align=align, lines=f"{pitch} mm")
    text = outcome.sheet.find("name")
    found = lines(text)
    assert "".join(words for words, _ in found) == "".join(WORDS.split())
    assert outcome.evidence.letters_before == outcome.evidence.letters_after == len("".join(WORDS.split()))
    assert outcome.evidence.lines_after == len(found)
    baselines = sorted({round(g.y, 6) for g in set_lettering(text, SHELF).glyphs if g.letters.strip()})
    assert np.diff(baselines) == pytest.approx([pitch] * (len(found) - 1))
    x = 20.0  # where it began: the left of its frame
    for _, (x0, _, x1, _) in found:
        assert x1 - x0 <= width + 0.3
        if align == "centre":
            assert (x0 + x1) / 2 == pytest.approx(x + width / 2, abs=0.001)
        if align == "right":
            assert x1 == pytest.approx(x + width, abs=0.001)
        if align == "left":
            assert x0 == pytest.approx(x, abs=1.0)
    for (_, a), (words, _) in pairwise(found):
        assert a[2] - a[0] + len(words.split()[0]) > 0  # no line is empty


def test_a_line_ends_only_where_the_next_word_has_no_room():
    on = sheet(lettering("aa bb cc", "Barlow", 10))
    text = on.find("name")
    natural = {words: box[2] - box[0] for words, box in lines(text)}["aabbcc"]
    one = framed(on, width=f"{natural + 0.5} mm").sheet.find("name")
    assert [words for words, _ in lines(one)] == ["aabbcc"]
    two = framed(on, width=f"{natural * 0.9} mm").sheet.find("name")
    assert [words for words, _ in lines(two)] == ["aabb", "cc"]
    with pytest.raises(StepRefused, match="a word needs"):
        framed(on, width="5 mm")


def test_columns_paragraphs_and_changes_afterwards():
    on = sheet(lettering("one two three four five six", "Barlow", 10))
    after = framed(on, width="40 mm", columns=2, gap="480 mm", factor=1.5).sheet
    found = lines(after.find("name"))
    assert len(found) == 4
    assert found[2][1][0] - found[0][1][0] == pytest.approx(520, abs=1.5)
    assert found[2][1][3] == pytest.approx(found[0][1][3], abs=3)
    worded = apply(Call("set-text", ("name",), options={"text": "one two | three four"}), after, workshop()).sheet
    paragraphs = framed(worded, width="60 mm", between="8 mm", lines="12 mm").sheet
    ys = sorted({round(g.y, 6) for g in set_lettering(paragraphs.find("name"), SHELF).glyphs if g.letters.strip()})
    assert np.diff(ys) == pytest.approx([20])
    assert [words for words, _ in lines(paragraphs.find("name"))] == ["onetwo", "threefour"]
    parted = apply(Call("split-text", ("name",), options={"by": "paragraphs"}), paragraphs, workshop()).sheet
    assert [text.text.strip() for text in parted.letterings()] == ["one two", "three four"]
    spaced = apply(Call("set-spacing", ("name",), options={"factor": 2.0}), paragraphs, workshop()).sheet
    ys = sorted({round(g.y, 6) for g in set_lettering(spaced.find("name"), SHELF).glyphs if g.letters.strip()})
    assert np.diff(ys) == pytest.approx([28])


def test_lines_become_a_paragraph_hyphens_go_and_more_room_begins_another():
    svg = """<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100">
    <text id="t" font-family="Barlow" font-size="8"><tspan x="10" y="20">boats let-</tspan><tspan x="10" y="30">tered at</tspan>
    <tspan x="10" y="40">the quay</tspan><tspan x="10" y="60">Hollin</tspan></text></svg>"""
    on = parse_svg(svg.encode(), "lines.svg")
    joined = framed(on, "t", width="150 mm", hyphens="drop")
    assert [words for words, _ in lines(joined.sheet.find("t"))] == ["boatsletteredatthequay", "Hollin"]
    assert joined.evidence.letters_before - joined.evidence.letters_after == 1
    kept = framed(on, "t", width="150 mm")
    assert [words for words, _ in lines(kept.sheet.find("t"))] == ["boatslet-teredatthequay", "Hollin"]
    by = [apply(Call("split-text", ("t",), options={"by": by}), on, workshop()).sheet for by in ("paragraphs", "lines")]
    assert [[text.text.strip() for text in each.letterings()][-1] for each in by] == ["Hollin", "Hollin"]
    assert [len(each.letterings()) for each in by] == [2, 4]


def test_a_frame_is_written_line_by_line_and_comes_back_the_same():
    on = framed(sheet(lettering(WORDS, "Barlow", 10)), width="80 mm", align="centre").sheet
    again = parse_svg(write_svg(outgoing(on, workshop())), "again.svg")
    ours, theirs = (lines(each.letterings()[0]) for each in (on, again))
    assert [words for words, _ in ours] == [words for words, _ in theirs]
    for (_, a), (_, b) in zip(ours, theirs, strict=True):
        assert a == pytest.approx(b, abs=1e-3)


def test_letters_that_stay_keep_what_is_their_own_when_words_are_changed():
    on = sheet(lettering("Sea Trift", "Barlow", 10))
    for call in (
        Call("set-colour", ("name",), options={"colour": "#ff0000", "letters": "1"}),
        Call("set-face", ("name",), options={"weight": 700, "letters": "5"}),
        Call("set-text", ("name",), options={"text": "Sea Thrift"}),
    ):
        on = apply(call, on, workshop()).sheet
    glyphs = set_lettering(on.find("name"), SHELF).glyphs
    assert [g.letters for g in glyphs if g.run.look.fill == "#ff0000"] == ["S"]
    assert "".join(g.letters for g in glyphs if g.face.weight == 700) == "Th"
    assert on.find("name").text == "Sea Thrift"
