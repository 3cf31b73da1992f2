"""Wording, face and spacing of live text, as steps of a recipe."""

import pytest

from tests.builders import SHELF, lettering, sheet, workshop
from unkelt.errors import StepRefused
from unkelt.lettering.setting import set_lettering
from unkelt.recipe import Call, Recipe, apply, dump_recipe, parse_recipe, run
from unkelt.sheet.model import Lettering


def after(call: Call) -> Lettering:
    return apply(call, sheet(lettering("Tern", "Arvo", 40)), workshop()).sheet.letterings()[0]


def advance(text: Lettering) -> float:
    return sum(glyph.advance for glyph in set_lettering(text, SHELF).glyphs)


def test_wording_keeps_face_size_and_place():
    text = after(Call("set-text", options={"text": "Gannet"}))
    assert (text.text, text.runs[0].face.families, text.runs[0].size_mm) == ("Gannet", ("Arvo",), 40)
    assert text.runs[0].at == lettering("Tern", "Arvo", 40).runs[0].at


def test_spacing_adds_its_amount_to_every_letter():
    plain = lettering("Tern", "Arvo", 40)
    assert advance(after(Call("set-spacing", options={"letters": "2 mm"}))) == pytest.approx(advance(plain) + 8)


def test_another_face_or_a_reason():
    assert after(Call("set-face", options={"family": "Pacifico"})).runs[0].face.families == ("Pacifico",)
    for options, reason in (
        ({"family": "Quayside Script"}, "is not here"),
        ({}, "yours to choose"),
        ({"family": "Arvo"}, "set already"),
    ):
        with pytest.raises(StepRefused, match=reason):
            after(Call("set-face", options=options))
    with pytest.raises(StepRefused, match="has no"):
        after(Call("set-text", options={"text": "漢"}))


def test_a_corrected_name_runs_through_the_rest_of_the_recipe():
    recipe = Recipe((Call("set-text", options={"text": "Sandpiper"}), Call("outline-text"), Call("weld"), Call("bind")))
    stages = run(parse_recipe(dump_recipe(recipe)), sheet(lettering("Sandpeiper", "Pacifico", 60)), workshop())
    assert all(stage.outcome for stage in stages)
    (word,) = stages[-1].sheet.outlines()
    assert word.letters == "Sandpiper"
