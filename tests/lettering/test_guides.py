"""Text on circles and paths, as a step: where it lies, which way it reads, and back again."""

import math

import numpy as np
import pytest
from fontTools.misc.transform import Identity

from tests.builders import lettering, outline, sheet, workshop
from unkelt.errors import StepRefused
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import concat, polygon
from unkelt.lettering.setting import set_lettering
from unkelt.mending import mend
from unkelt.recipe import Call, Recipe, apply, dump_recipe, parse_recipe, run
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline
from unkelt.survey.checks import find_code


def set_on(text="HOLLIN QUAY", family="Barlow", **options):
    on = sheet(lettering(text, family, 20), page=(400, 400))
    outcome = apply(Call("set-on-guide", ("name",), options=options), on, workshop())
    return outcome, set_lettering(outcome.sheet.find("name"), workshop().shelf)


@pytest.mark.parametrize(("tops", "sense"), [("outward", 1), ("inward", -1)])
@pytest.mark.parametrize("around", [0.0, 90.0, 180.0])
def test_letters_stand_on_the_circle_and_turn_with_it(tops, sense, around):
    options = {"radius": "80 mm", "x": "200 mm", "y": "200 mm", "around": around, "tops": tops}
    _, setting = set_on(**options)
    turns = []
    for glyph in setting.glyphs:
        # The middle of each advance lies on the circle (SVG 1.1, section 10.13.3).
        x = glyph.x + glyph.advance / 2 * math.cos(glyph.turn)
        y = glyph.y + glyph.advance / 2 * math.sin(glyph.turn)
        assert math.hypot(x - 200, y - 200) == pytest.approx(80, abs=2e-3)
        up = math.sin(glyph.turn), -math.cos(glyph.turn)
        assert ((x - 200) * up[0] + (y - 200) * up[1]) / 80 == pytest.approx(sense, abs=1e-3)
        turns.append(math.atan2(x - 200, 200 - y))
    unwrapped = np.unwrap(turns)
    assert (np.sign(np.diff(unwrapped)) == sense).all()
    x0, y0, x1, y1 = bounds(concat([g.path() for g in setting.glyphs]))
    centre = math.atan2((x0 + x1) / 2 - 200, 200 - (y0 + y1) / 2)
    assert math.cos(centre - math.radians(around)) == pytest.approx(1, abs=0.01)


def test_two_words_on_one_circle_lie_in_one_band():
    options = {"radius": "80 mm", "x": "200 mm", "y": "200 mm"}
    _, top = set_on("HOLLIN", **options)
    _, bottom = set_on("HOLLIN", **options, around=180.0, tops="inward", side="outside")
    reach = []
    for setting in (top, bottom):
        points = concat([glyph.path() for glyph in setting.glyphs if glyph.letters in "HILN"]).points.reshape(-1, 2)
        away = np.hypot(*(points - 200).T)
        reach.append((away.min(), away.max()))
    assert reach[0] == pytest.approx(reach[1], abs=0.9)  # flat feet on a bend, on the other side


def test_start_and_end_lie_where_they_are_asked_to():
    for position, index, edge in (("start", 0, 0.0), ("end", -1, 1.0)):
        _, setting = set_on(radius="80 mm", x="200 mm", y="200 mm", position=position, around=90.0)
        glyph = setting.glyphs[index]
        x = glyph.x + glyph.advance * edge * math.cos(glyph.turn)
        y = glyph.y + glyph.advance * edge * math.sin(glyph.turn)
        assert (x, y) == pytest.approx((280, 200), abs=2.0)  # the room beside a letter lies beyond


def test_on_a_path_of_the_sheet_and_straight_again():
    line = Outline("slope", polygon((20, 300), (320, 100), closed=False), Appearance(fill=None, stroke="#000000"))
    on = sheet(lettering("Sea Thrift", "Arvo", 20), line, page=(400, 400))
    outcome = apply(Call("set-on-guide", ("name",), options={"shape": "path", "path": "slope"}), on, workshop())
    glyphs = set_lettering(outcome.sheet.find("name"), workshop().shelf).glyphs
    assert {round(glyph.turn, 6) for glyph in glyphs} == {round(math.atan2(-200, 300), 6)}
    assert [f.items for f in find_code("path.guide", outcome.sheet, workshop())] == [("slope",)]
    straight = apply(Call("set-on-guide", ("name",), options={"shape": "straight"}), outcome.sheet, workshop())
    assert {glyph.turn for glyph in set_lettering(straight.sheet.find("name"), workshop().shelf).glyphs} == {0.0}
    assert mend(outcome.sheet, workshop())[-1].sheet.find("slope") is None


def test_refusals_and_collisions_are_said():
    with pytest.raises(StepRefused, match="no room"):
        set_on(radius="8 mm")
    with pytest.raises(StepRefused, match="no outline"):
        set_on(shape="path", path="gone")
    with pytest.raises(StepRefused, match="no outline"):
        apply(
            Call("set-on-guide", options={"shape": "path", "path": "name"}),
            sheet(lettering(), outline("o", polygon((0, 0), (1, 1)))),
            workshop(),
        )
    assert set_on(radius="150 mm")[0].evidence.letters_that_collide == 0
    assert set_on("OQOQOQOQO", "Alfa Slab One", radius="26 mm", tops="inward")[0].evidence.letters_that_collide > 0


def test_a_name_on_an_arc_is_typed_set_outlined_welded_corrected_and_replayed():
    """The whole way as a recipe; the misspelt name is corrected in its first step and all is taken again."""

    def way(name: str) -> Recipe:
        line = {"text": name, "family": "Pacifico", "height": "30 mm"}
        return Recipe(
            (
                Call("add-lettering", options=line),
                Call("set-on-guide", ("lettering",), options={"radius": "150 mm"}),
                Call("outline-text", rule="text.live"),
                Call("weld", rule="overlap.items"),
                Call("bind", rule="compound.loose"),
            )
        )

    blank = sheet(page=(500, 400))
    wrong, right = (
        run(parse_recipe(dump_recipe(way(name))), blank, workshop()) for name in ("Sea Trift", "Sea Thrift")
    )
    assert [stage.skipped for stage in right] == [None] * 5
    (before,), (after,) = wrong[-1].sheet.outlines(), right[-1].sheet.outlines()
    assert (before.origin.text, after.origin.text) == ("Sea Trift", "Sea Thrift")
    assert len(after.path.points) > len(before.path.points)
    # As it was typed, on its arc, from the outlines alone.
    assert set_lettering(after.origin, workshop().shelf).complete
    assert after.origin.guide is not None


def test_a_new_line_of_lettering_is_as_high_as_asked_and_refused_in_a_sentence():
    on = sheet(page=(200, 100))
    added = apply(Call("add-lettering", options={"text": "HI", "family": "Arvo", "height": "17 mm"}), on, workshop())
    ink = set_lettering(added.sheet.letterings()[0], workshop().shelf).ink(Identity)
    assert ink[3] - ink[1] == pytest.approx(17)
    assert (ink[0] + ink[2]) / 2 == pytest.approx(100, abs=1e-6)
    for options, reason in (
        ({"family": "Quayside"}, "Quayside is not here"),
        ({}, "no face"),
        ({"family": "Arvo", "colour": "red"}, "no colour"),
        ({"family": "Arvo", "text": "漢"}, "has no “漢”"),
        ({"family": "Arvo", "height": "0 mm"}, "greater than zero"),
    ):
        with pytest.raises(StepRefused, match=reason):
            apply(Call("add-lettering", options={"text": "Hi"} | options), on, workshop())
