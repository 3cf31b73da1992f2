"""A series says what its list says: what was set is read back from the text and from the outlines' own curves."""

from dataclasses import replace

import pytest

from tests.builders import workshop
from unkelt.batch.readback import asked_for, misread
from unkelt.batch.series import Line, check_columns, filled
from unkelt.errors import InputError
from unkelt.lettering.shelves import bundled_faces
from unkelt.recipe import parse_recipe, run
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Lettering, Run, Sheet

BIRDS = ("Curlew", "Dunlin", "O'Brien, Ltd.", "Zoë-Marie", "misfits differ", "il1I!", "ÅÄÖ ßẞ", "lIlIl Oo0Q")


def on(words, family="Pacifico"):
    text = Lettering("name", (Run(words, FaceQuery((family,)), 40.0, Appearance(), at=(10.0, 100.0)),))
    return Sheet((300.0, 200.0), (text,))


def test_a_recipe_that_uses_no_column_makes_nothing():
    recipe = parse_recipe('[[step]]\nname = "set-text"\nitems = ["name"]\nwith = { text = "Kittiwake" }\n', "r.toml")
    with pytest.raises(InputError, match="uses no column of the list"):
        check_columns(recipe, [Line(1, {"text": "Curlew", "size": "40"})])


def test_words_that_a_later_step_overwrites_are_missed():
    recipe = parse_recipe(
        '[[step]]\nname = "set-text"\nitems = ["name"]\nwith = { text = "{text}" }\n'
        '[[step]]\nname = "set-text"\nitems = ["name"]\nwith = { text = "Tern" }\n'
        '[[step]]\nname = "outline-text"\nitems = ["name"]\n',
        "r.toml",
    )
    shop, sheet = workshop(), on("Name")
    for words, other in (("Curlew", "Tern"), ("Tern", "Lantern")):  # part of a word is another word
        made = filled(recipe, {"text": words})
        overwritten = replace(
            made, calls=(made.calls[0], replace(made.calls[1], options={"text": other}), made.calls[2])
        )
        asked = asked_for(recipe, made)
        assert asked == [words]
        assert f"the list says “{words}”" in misread(asked, sheet, run(overwritten, sheet, shop), shop.shelf)
        kept = replace(made, calls=made.calls[::2])
        assert misread(asked, sheet, run(kept, sheet, shop), shop.shelf) == ""


@pytest.mark.parametrize("family", sorted({face.family for face in bundled_faces()}))
def test_what_is_set_in_any_face_reads_as_it_was_asked_for(family):
    shop = workshop()
    recipe = parse_recipe('[[step]]\nname = "outline-text"\n', "r.toml")
    for words in BIRDS:
        sheet = on(words, family)
        stages = run(recipe, sheet, shop)
        if stages[0].outcome is not None:  # not every face has every letter
            assert misread([words], sheet, stages, shop.shelf) == ""


def test_outlines_of_another_word_are_seen_although_the_step_says_otherwise():
    shop, recipe = workshop(), parse_recipe('[[step]]\nname = "outline-text"\n', "r.toml")
    meant, other = on("Curlew"), on("Curfew")
    stage, lied = run(recipe, meant, shop)[0], run(recipe, other, shop)[0]
    drawn = {
        o.id: replace(o, origin=meant.letterings()[0], letters=n.letters)
        for o, n in zip(lied.sheet.outlines(), stage.sheet.outlines(), strict=True)
    }
    wrong = lied.sheet.replaced({name: (outline,) for name, outline in drawn.items()})
    stage = replace(stage, outcome=replace(stage.outcome, sheet=wrong))
    assert "read “Curfew” where the text is “Curlew”" in misread(["Curlew"], meant, [stage], shop.shelf)
