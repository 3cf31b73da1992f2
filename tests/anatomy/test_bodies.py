"""What belongs together: words taken apart to their rings, dots and islands, holes that are only painted."""

from dataclasses import replace

import pytest

from tests.builders import circle, lettering, moved, outline, ring, sheet, square, workshop
from unkelt.geometry.path import concat, polygon
from unkelt.mending import mend
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Outline
from unkelt.survey.checks import survey
from unkelt.survey.finding import Question


def codes(on):
    return [finding.code for finding in survey(on, workshop()) if finding.question is not Question.RIGHT_SIZE]


@pytest.mark.parametrize("grouped", [True, False])
@pytest.mark.parametrize("backwards", [False, True])
@pytest.mark.parametrize(("word", "family"), [("Bobolink", "Pacifico"), ("goose@8%", "Alfa Slab One")])
def test_a_word_taken_apart_to_its_rings_comes_back_with_all_counters(word, family, backwards, grouped):
    whole = mend(sheet(lettering(word, family, 90), page=(900, 300)), workshop())[-1].sheet
    body = whole.outlines()[0]
    rings = [Outline(f"ring-{i}", path, body.look) for i, path in enumerate(body.path.subpaths())]
    rings = rings[::-1] if backwards else rings
    apart = replace(whole, items=(Group("word", tuple(rings)),) if grouped else tuple(rings))
    assert set(codes(apart)) <= {"compound.counter-apart", "compound.loose"}
    assert "compound.counter-apart" in codes(apart)
    mended = mend(apart, workshop())[-1].sheet
    assert codes(mended) == []
    assert len(mended.outlines()) == 1
    assert len(mended.outlines()[0].path) == len(body.path)


def test_an_island_in_a_loose_counter_stays_solid():
    parts = [outline("o", circle(20)), outline("hole", circle(12).reversed()), outline("dot", circle(4))]
    assert codes(sheet(*parts)) == ["compound.counter-apart"]
    outcome = apply(Call("restore-counters", rule="compound.counter-apart"), sheet(*parts), workshop())
    assert [(o.id, len(o.path)) for o in outcome.sheet.outlines()] == [("o", 2), ("dot", 1)]
    assert outcome.evidence.counters.after == 1


def test_a_white_shape_laid_on_top_is_a_hole_that_is_only_painted():
    white = Outline("white", circle(5), Appearance(fill="#ffffff"))
    assert "compound.counter-apart" in codes(sheet(outline("disc", circle(20)), white))
    assert "compound.counter-apart" not in codes(sheet(white, outline("disc", circle(20))))


def test_an_outline_hidden_under_another_is_an_overlap_and_no_counter():
    hidden = sheet(outline("under", circle(5)), outline("disc", circle(20)))
    assert "compound.counter-apart" not in codes(hidden)
    assert "overlap.items" in codes(hidden)


def test_open_lines_side_by_side_are_no_word():
    lines = [
        replace(
            outline(f"l{i}", polygon((10 * i, 10), (10 * i + 8, 14), closed=False)),
            look=Appearance(fill=None, stroke="#000000"),
        )
        for i in range(3)
    ]
    assert "compound.loose" not in codes(sheet(Group("layer", tuple(lines))))


def test_a_dot_beside_a_stroke_belongs_to_the_word_and_a_name_in_a_frame_does_not():
    hook = outline("hook", concat([square(30), moved(circle(2), 50, 5)]))
    assert "compound.loose" in codes(sheet(Group("word", (hook, outline("dot", circle(3, 40, 20))))))
    frame = outline("frame", ring(40, 36))
    assert codes(sheet(Group("sign", (frame, outline("name", square(10, -5, -5)))))) == ["piece.unheld"]


def test_words_that_are_bound_already_are_no_letters_of_another():
    """As a name that was turned about a centre comes back from its file: several compound paths in a row, of many
    pieces each.
    """

    def word(name, x, pieces):
        return outline(name, concat([square(8, x + 10 * k, 10 + k) for k in range(pieces)]))

    assert "compound.loose" not in codes(sheet(word("a", 10, 6), word("b", 72, 5), word("c", 124, 6), page=(300, 100)))
    assert "compound.loose" in codes(sheet(word("a", 10, 1), word("b", 20, 2), word("c", 40, 3), page=(300, 100)))
