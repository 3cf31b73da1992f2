"""What hands do at the bench, as steps: scaled, copied, coloured, typed and drawn, on art of any kind."""

import math
from itertools import pairwise

import numpy as np
import pytest
import shapely
from fontTools.misc.transform import Transform
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import SHELF, circle, lettering, moved, outline, sheet, square, workshop
from unkelt.errors import NothingToDo, StaleTarget, StepRefused
from unkelt.geometry.edit.freehand import LEAST_MM, SHARE, smoothed
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import polygon
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.recipe import Call, apply, parse_recipe
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.model import Group, Outline, Picture

KEYED = Workshop(parse_ticket('[key]\ncut = ["#ff0000"]\nscore = ["#0000ff"]\nengrave = ["#000000"]'), SHELF)
OPEN = Outline("open", polygon((10, 90), (60, 120), (80, 95), closed=False), Appearance(fill=None, stroke="#0000ff"))
ART = sheet(
    Group("word", (outline("a", square(20, 10, 10)), outline("b", moved(circle(8), 60, 20)))),
    OPEN,
    Outline("wide", square(30, 100, 10), Appearance(fill="#ffcc00", stroke="#000000", stroke_width_mm=2)),
    Picture("photo", (40, 30), Transform(1, 0, 0, 1, 120, 60), "photo.png"),
    page=(200, 150),
)


def done(name, *items, on=ART, shop=None, **options):
    return apply(Call(name, items, options=options), on, shop or workshop())


def size(on, item):
    x0, y0, x1, y1 = bounds(on.find(item).path)
    return x1 - x0, y1 - y0


@given(st.sampled_from(["a", "b", "open", "wide", "word"]), st.floats(2, 400), st.floats(2, 400))
@settings(max_examples=25)
def test_one_thing_alone_is_scaled_to_the_size_asked_for(item, width, height):
    after = done("scale", item, width=f"{width} mm", height=f"{height} mm", fixed="top-left").sheet
    before, now = ([each for each in on.walk() if isinstance(each, (Outline, Picture))] for on in (ART, after))
    worked = {"a", "b"} if item == "word" else {item}
    assert all(was == new for was, new in zip(before, now, strict=True) if was.id not in worked)
    if item != "word":
        assert size(after, item) == pytest.approx((width, height), abs=1e-6)
        assert bounds(after.find(item).path)[:2] == pytest.approx(bounds(ART.find(item).path)[:2], abs=1e-6)
    assert after.find("wide").look.stroke_width_mm == 2


def test_proportions_stay_unless_a_side_is_stretched():
    assert size(done("scale", "wide", width="60 mm").sheet, "wide") == pytest.approx((60, 60))
    assert size(done("scale", "wide", width="60 mm", uneven=True).sheet, "wide") == pytest.approx((60, 30))
    twice = done("scale", "wide", by=2.0, strokes=True).sheet
    assert size(twice, "wide") == pytest.approx((60, 60))
    assert twice.find("wide").look.stroke_width_mm == pytest.approx(4)
    with pytest.raises(NothingToDo):
        done("scale", "wide", width="30 mm")
    level = sheet(Outline("level", polygon((0, 5), (40, 5), closed=False), Appearance(fill=None, stroke="#0000ff")))
    with pytest.raises(StepRefused, match="no extent"):
        done("scale", "level", on=level, height="10 mm")
    with pytest.raises(StaleTarget):
        done("scale", "gone", width="10 mm")


def test_live_text_is_scaled_unevenly_and_stays_text():
    on = sheet(lettering("Tern", size=40), page=(300, 200))
    outcome = done("scale", "Tern", on=on, width="100 mm", height="20 mm")
    (text,) = outcome.sheet.letterings()
    ink = set_lettering(text, SHELF).ink(text.placement)
    assert (ink[2] - ink[0], ink[3] - ink[1]) == pytest.approx((100, 20), abs=1e-6)
    assert text.text == "Tern"


def test_a_copy_is_the_same_again_and_has_a_name_of_its_own():
    on = sheet(lettering("Tern", size=40), Outline("x", square(10), Appearance(), "Bow"), page=(300, 200))
    after = done("duplicate", "Tern", "Bow", on=on, right="30 mm", down="0 mm").sheet
    assert [item.label for item in after.outlines()] == ["Bow", "Bow 2"]
    first, again = after.letterings()
    assert again.placement == Transform(1, 0, 0, 1, 30, 0).transform(first.placement)
    assert after.items[:2] == on.items
    assert len(done("duplicate", "word").sheet.groups()) == 2


def test_any_colour_for_anything_and_for_a_single_letter():
    after = done("set-colour", "word", "open", colour="#0f0").sheet
    assert [o.look.fill for o in after.outlines()[:2]] == ["#00ff00"] * 2
    assert (after.find("open").look.stroke, after.find("open").look.fill) == ("#00ff00", None)
    line = done("set-colour", "a", colour="#0000ff", paint="line", shop=KEYED).sheet.find("a").look
    assert KEYED.ticket.operation(line) is Operation.SCORE
    on = sheet(lettering("Tern", size=40), page=(300, 200))
    (text,) = done("set-colour", "Tern", on=on, colour="#ff0000", letters="2-3").sheet.letterings()
    assert [(run.text, run.look.fill) for run in text.runs] == [("T", "#000000"), ("er", "#ff0000"), ("n", "#000000")]
    was, now = (set_lettering(each, SHELF).ink(each.placement) for each in (on.letterings()[0], text))
    assert now == pytest.approx(was, abs=1e-9)
    for wrong, reason in (({"colour": "reddish"}, "no colour"), ({"colour": "#f00", "letters": "9"}, "letters 1 to 4")):
        with pytest.raises(StepRefused, match=reason):
            done("set-colour", "Tern", on=on, **wrong)


@pytest.mark.parametrize(
    ("asked", "wide", "high"),
    [
        ({"height": "3 in", "of": "ink"}, None, 76.2),
        ({"height": "30 mm"}, None, None),
        ({"width": "120 mm"}, 120, None),
    ],
)
def test_words_are_added_at_the_size_of_their_ink(asked, wide, high):
    outcome = done("add-lettering", on=sheet(page=(300, 200)), text="HOLLIN", family="Barlow", weight=700, **asked)
    (text,) = outcome.sheet.letterings()
    ink = set_lettering(text, SHELF).ink(text.placement)
    assert SHELF.match(text.runs[0].face).weight == 700
    assert ink[2] - ink[0] == pytest.approx(wide or ink[2] - ink[0])
    assert ink[3] - ink[1] == pytest.approx(high or ink[3] - ink[1])
    assert ((ink[0] + ink[2]) / 2, (ink[1] + ink[3]) / 2) == pytest.approx((150, 100), abs=1e-6)


def test_weight_alone_keeps_the_family():
    on = sheet(lettering("Tern", family="Barlow", size=40), page=(300, 200))
    (text,) = done("set-face", "Tern", on=on, weight=700).sheet.letterings()
    assert SHELF.match(text.runs[0].face).name == "Barlow Bold"


@pytest.mark.parametrize(
    ("asked", "box"),
    [
        ({"shape": "circle", "width": "60 mm", "x": "50 mm", "y": "40 mm"}, (20, 10, 80, 70)),
        ({"shape": "ellipse", "width": "60 mm", "height": "20 mm"}, (70, 65, 130, 85)),
        ({"shape": "rectangle", "width": "60 mm", "height": "20 mm", "corner": "90 mm"}, (70, 65, 130, 85)),
        ({"shape": "line", "points": "10,20 90,20 90,60"}, (10, 20, 90, 60)),
    ],
)
def test_shapes_are_where_and_as_large_as_asked(asked, box):
    outcome = done("add-shape", **asked)
    made = outcome.sheet.items[-1]
    assert bounds(made.path) == pytest.approx(box, abs=2e-3)
    assert made.look.fill is None
    assert bool(made.path.closed.all()) is (asked["shape"] != "line")
    assert outcome.sheet.items[:-1] == ART.items


def test_shapes_take_the_keys_colour_for_their_use():
    looks = [
        done("add-shape", shop=KEYED, purpose=use).sheet.items[-1].look.stroke for use in ("cut", "score", "guide")
    ]
    assert looks[:2] == ["#ff0000", "#0000ff"]
    assert looks[2] not in KEYED.ticket.key
    with pytest.raises(StepRefused, match="no colour for score"):
        done("add-shape", purpose="score")


@given(st.lists(st.tuples(st.floats(0, 200), st.floats(0, 100)), min_size=2, max_size=60, unique=True))
@settings(max_examples=40, deadline=None)
def test_a_freehand_line_stays_near_the_hand(places):
    path = smoothed(places)
    assert not path.closed.any()
    length = sum(math.dist(a, b) for a, b in pairwise(places))
    drawn = lines(path, 1e-3)
    assert shapely.distance(drawn, shapely.points(np.array(places))).max() <= max(LEAST_MM, SHARE * length) + 2e-3
    assert path.points[0, 0] == pytest.approx(places[0])
    assert path.points[-1, 3] == pytest.approx(places[-1])


def test_what_people_see_is_what_steps_and_refusals_call_things():
    on = sheet(
        Outline("o1", square(60), Appearance(), "Plate"),
        Outline("o2", square(10, 10, 10), Appearance(), "Hole"),
        Outline("o3", polygon((0, 90), (30, 95), (20, 120), closed=False), Appearance(fill="#000000"), letters="w"),
        Outline("o4", square(5, 80, 80), Appearance(), "Twin"),
        Outline("o5", square(5, 90, 80), Appearance(), "Twin"),
        page=(200, 150),
    )
    assert done("knock-out", "Hole", on=on, out_of="“Plate”").items
    with pytest.raises(StepRefused, match="“w” has an open subpath"):
        done("thicken", "w", on=on, amount="1 mm")
    with pytest.raises(StepRefused, match=r"2 items are called “Twin”.*o4, o5"):
        done("move", "Twin", on=on, right="1 mm")
    assert done("move", "o4", on=on, right="1 mm").items == ("o4",)


def test_welding_a_filled_open_outline_by_name_shows_the_way_out():
    filled = Outline("open", polygon((0, 0), (30, 0), (30, 30), (0, 30), closed=False), Appearance())
    with pytest.raises(StepRefused, match="open subpath that is filled") as refused:
        done("weld", "open", "other", on=sheet(filled, outline("other", square(20, 10, 10))))
    assert refused.value.way_out == "close-subpath"


def test_an_older_recipe_still_adds_its_text():
    old = '[[step]]\nname = "set-text"\nwith = { text = "Hi", new = true, family = "Arvo", capitals = "17 mm" }\n'
    (call,) = parse_recipe(old).calls
    assert (call.name, dict(call.options)) == ("add-lettering", {"text": "Hi", "family": "Arvo", "height": "17 mm"})
