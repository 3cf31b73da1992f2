"""Text on circles, ellipses and lines of any shape, in faces of all kinds: places by closed forms, ink where it is asked
for, and the same in a file.
"""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar
from scipy.special import ellipeinc

from tests.builders import circle, lettering, outline, sheet, square, workshop
from tests.lettering.faces import shelf_of_many
from tests.rendering import drawn
from unkelt.errors import StepRefused
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.arcs import ellipse
from unkelt.geometry.measure import evaluate
from unkelt.geometry.path import concat, polygon
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import capital_share, set_lettering
from unkelt.outgoing import outgoing, outlined_to_save
from unkelt.recipe import Call, apply, parse_recipe
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.model import FaceQuery, Lettering, Outline, Run
from unkelt.steps.steps import STEPS
from unkelt.survey.checks import find_code

SHELF = shelf_of_many()
SHOP = Workshop(parse_ticket(""), SHELF)
LINE = Appearance(fill=None, stroke="#0000ff", stroke_width_mm=0.1)
HILL = Outline("hill", polygon((300, 200), (200, 140), (100, 200), closed=False), LINE)


def text_in(face, words="Quayf", size=14.0, spacing=0.0):
    query = FaceQuery((face.family,), face.weight, face.italic)
    run = Run(words, query, size, Appearance(), letter_spacing_mm=spacing, at=(200.0, 200.0))
    return Lettering("name", (run,), "middle")


def set_on(text, *others, shop=SHOP, **options):
    """The step alone, many times: what weighs each step is tested elsewhere."""
    outcome = STEPS["set-on-guide"].run(sheet(text, *others, page=(400, 400)), ("name",), shop, options)
    return outcome, outcome.sheet.find("name")


def taken(name, on, **options):
    return STEPS[name].run(on, ("name",), SHOP, options).sheet


def ink(text, shelf=SHELF):
    """Points all along the curves of all letters, letter by letter."""
    letters = [path for _, _, path in set_lettering(text, shelf).letters(text.placement) if len(path)]
    fine = np.linspace(0, 1, 41)
    return [evaluate(p.cubics(), np.tile(fine, (len(p.points), 1))).reshape(-1, 2) for p in letters]


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_ink_lies_where_it_is_asked_for_on_a_circle_in_every_face(face):
    for number, (position, tops) in enumerate([("centre", "outward"), ("start", "outward"), ("end", "inward")]):
        around, spacing = 37.0 * number, 4.0 * (number % 2)
        place = {"radius": "60 mm", "x": "200 mm", "y": "200 mm", "around": around, "tops": tops, "position": position}
        _, text = set_on(text_in(face, spacing=spacing), **place)
        angles = np.concatenate([np.arctan2(p[:, 0] - 200, 200 - p[:, 1]) for p in ink(text)])
        seen = (angles - math.radians(around) + math.pi) % (2 * math.pi) - math.pi
        low, high = (seen.min(), seen.max()) if tops == "outward" else (-seen.max(), -seen.min())
        off = {"start": low, "centre": (low + high) / 2, "end": high}[position] * 60
        assert abs(off) < 0.02, (position, tops)


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_letters_stand_on_an_ellipse_by_its_arc_length_in_every_face(face):
    """Arc length: the incomplete elliptic integral of the second kind (DLMF 19.30.2)."""
    a, b = 90.0, 55.0
    guide = outline("oval", ellipse(200, 200, a, b), None, "#0000ff")
    _, text = set_on(text_in(face), guide, shape="path", path="oval")
    glyphs = set_lettering(text, SHELF).glyphs
    along = []
    for glyph in glyphs:
        x = glyph.x + glyph.advance / 2 * math.cos(glyph.turn) - 200
        y = glyph.y + glyph.advance / 2 * math.sin(glyph.turn) - 200
        assert (x / a) ** 2 + (y / b) ** 2 == pytest.approx(1, abs=1e-4)
        t = math.atan2(y / b, x / a) % (2 * math.pi)
        along.append(b * float(ellipeinc(t, 1 - a * a / b / b)))  # from the right-hand end, clockwise as seen
        assert math.tan(glyph.turn) == pytest.approx(-(x * b * b) / (y * a * a), abs=1e-3)
    steps = [(g.advance + h.advance) / 2 for g, h in pairwise(glyphs)]
    assert np.diff(along) == pytest.approx(steps, abs=2e-3)
    feet = []
    for points in (ink(text)[0], ink(text)[-1]):
        feet.append([_foot_on_ellipse(x - 200, y - 200, a, b) for x, y in points[:: max(1, len(points) // 400)]])
    middle = (min(feet[0]) + max(feet[1])) / 2
    assert abs(middle) < 0.05  # every so manieth point only


def _foot_on_ellipse(x, y, a, b):
    """Arc length from the top to the nearest place, to the right."""
    start = math.atan2(x / a, -y / b)
    found = minimize_scalar(
        lambda t: (a * math.sin(t) - x) ** 2 + (-b * math.cos(t) - y) ** 2,
        bounds=(start - 0.3, start + 0.3),
        method="bounded",
        options={"xatol": 1e-9},
    )
    return a * float(ellipeinc(found.x, 1 - b * b / a / a))


@given(st.integers(0, 3), st.booleans(), st.sampled_from(["outward", "inward"]), st.floats(0, 360))
@settings(max_examples=25)
def test_a_closed_line_holds_text_wherever_it_begins_and_however_it_runs(start, turned, tops, around):
    corners = [(120, 120), (280, 120), (280, 280), (120, 280)]
    path = polygon(*corners[start:], *corners[:start])
    box = outline("box", path.reversed() if turned else path, None, "#0000ff")
    _, text = set_on(lettering("QUAY", "Barlow", 12), box, shape="path", path="box", tops=tops, around=around)
    glyphs = set_lettering(text, SHELF).glyphs
    assert len(glyphs) == 4
    middle = np.mean([p.mean(axis=0) for p in ink(text)], axis=0) - 200
    assert (np.abs(middle).max() > 80) == (tops == "outward")
    way = np.array([math.sin(math.radians(around)), -math.cos(math.radians(around))])
    assert middle @ way / np.linalg.norm(middle) > 0.93


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_the_top_centre_of_a_closed_line_is_where_text_is_set_in_every_face(face):
    shapes = ((square(120, 140, 140), 0), (circle(60, 200, 200), 1), (circle(60, 200, 200).reversed(), 1))
    shape, is_round = shapes[SHELF.faces.index(face) % 3]
    _, text = set_on(text_in(face, "SEA THRIFT", 10), outline("o", shape, None, "#f00"), shape="path", path="o")
    points = np.concatenate(ink(text))
    seen = 200 + 60 * np.arctan2(points[:, 0] - 200, 200 - points[:, 1]) if is_round else points[:, 0]
    assert seen.min() + seen.max() == pytest.approx(400, abs=0.02)
    # On the outside: feet on the line, but for what reaches below it.
    assert np.median(np.hypot(*(points - 200).T) if is_round else 200 - points[:, 1]) > 60


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_text_goes_on_past_the_seam_of_a_closed_line_and_is_refused_where_there_is_no_room(face):
    seam = outline("o", circle(40, 200, 200), None, "#0000ff")  # begins at the right
    options = {"shape": "path", "path": "o", "position": "start", "around": 45.0}
    _, text = set_on(text_in(face, "HOLLIN QUAY", 12), seam, **options)
    setting = set_lettering(text, SHELF)
    assert setting.complete
    angles = [math.degrees(math.atan2(p[:, 0].mean() - 200, 200 - p[:, 1].mean())) % 360 for p in ink(text)]
    assert angles[0] < 90 < angles[-1]
    with pytest.raises(StepRefused, match="no room"):
        set_on(text_in(face, "HOLLIN QUAY BOATS", 80), seam, **options)


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_above_and_below_an_open_line_and_where_a_person_points_in_every_face(face):
    name = text_in(face, "Tern", 10)  # the line is drawn from right to left: text still reads from left to right
    _, above = set_on(name, HILL, shape="path", path="hill", near="150 mm, 160 mm")
    _, below = set_on(name, HILL, shape="path", path="hill", near="150 mm, 160 mm", side="inside", away="2 mm")
    slope = math.atan2(60, 100)
    along, down = np.array([math.cos(slope), -math.sin(slope)]), np.array([math.sin(slope), math.cos(slope)])
    capitals = capital_share(face) * 10
    for text in (above, below):
        seen = (np.concatenate(ink(text)) - [150, 170]) @ along
        pointed = np.array([0, -10]) @ along
        assert (seen.min() + seen.max()) / 2 == pytest.approx(pointed, abs=0.02)
        assert [g.letters for g in set_lettering(text, SHELF).glyphs] == list("Tern")
    off = [(np.concatenate(ink(text)) - [100, 200]) @ down for text in (above, below)]
    # Below hangs by its capitals, 2 mm off the line: what lay above it lies that much and its capitals lower.
    assert off[1].min() - off[0].min() == pytest.approx(capitals + 2, abs=0.01)


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_slanted_letters_keep_their_stems_upright_and_are_refused_where_the_line_is_too_steep(face):
    name = text_in(face, "lh", 20)
    slope = Outline("slope", polygon((100, 200), (300, 130), closed=False), LINE)
    _, text = set_on(name, slope, shape="path", path="slope", letters="slanted")
    angle = math.atan2(-70, 200)
    for straight, leant in zip(ink(name), ink(text), strict=True):
        x, y = (straight - straight[0]).T
        meant = np.stack([x * math.cos(angle), x * math.sin(angle) + y], axis=1)
        assert leant - leant[0] == pytest.approx(meant, abs=1e-6)
    steep = Outline("slope", polygon((200, 300), (210, 100), closed=False), LINE)
    with pytest.raises(StepRefused, match="too steep"):
        set_on(name, steep, shape="path", path="slope", letters="slanted")


@pytest.mark.parametrize("letters", ["upright", "slanted"])
def test_what_svg_text_cannot_say_goes_out_as_outlines_and_is_told(letters):
    outcome, text = set_on(lettering("Tern", "Barlow", 12), HILL, shape="path", path="hill", letters=letters)
    written = parse_svg(write_svg(outgoing(outcome.sheet, SHOP)), "out.svg")
    assert not written.letterings()
    assert len(written.outlines()) == 5
    assert "“Tern” was saved as outlines" in outlined_to_save(outcome.sheet)[0]
    now = np.concatenate([p for o in written.outlines() if o.id != "hill" for p in [o.path.points.reshape(-1, 2)]])
    meant = concat([path for _, _, path in set_lettering(text, SHELF).letters(text.placement)]).points.reshape(-1, 2)
    assert np.sort(now, axis=0) == pytest.approx(np.sort(meant, axis=0), abs=1e-4)


def test_live_text_keeps_its_link_to_the_line_in_a_file_and_others_paint_it_the_same():
    on = sheet(
        lettering("SEA THRIFT", "Arvo", 14), outline("o", circle(50, 200, 200), None, "#0000ff"), page=(400, 400)
    )
    after = apply(Call("set-on-guide", ("name",), options={"shape": "path", "path": "o"}), on, SHOP).sheet
    data = write_svg(after)
    again = parse_svg(data, "again.svg")
    (text,) = again.letterings()
    assert text.guide.source == "o"
    assert [f.items for f in find_code("path.guide", again, SHOP)] == [("o",)]
    for mine, theirs in zip(ink(after.find("name")), ink(text), strict=True):
        assert mine == pytest.approx(theirs, abs=2e-3)
    outlined = apply(Call("outline-text", ("name",)), after, SHOP).sheet
    assert np.abs(drawn(data.decode()) - drawn(write_svg(outlined).decode())).mean() < 0.05


def test_text_that_was_scaled_or_skewed_before_is_set_where_it_is_asked_for():
    for call in (
        Call("scale", ("name",), options={"by": 2.5}),
        Call("shear", ("name",), options={"angle": 20.0}),
        Call("rotate", ("name",), options={"angle": 70.0}),
    ):
        on = apply(call, sheet(lettering("Tern", "Barlow", 8), page=(400, 400)), SHOP).sheet
        around = {"radius": "60 mm", "x": "200 mm", "y": "200 mm", "around": 90.0, "away": "3 mm"}
        text = apply(Call("set-on-guide", ("name",), options=around), on, SHOP).sheet.find("name")
        points = np.concatenate(ink(text)) - 200
        if call.name == "shear":  # skewed letters stand askew on their line, about where they are asked for
            assert points[:, 0].mean() > 55
            continue
        angles = np.degrees(np.arctan2(points[:, 0], -points[:, 1]))
        assert (angles.min() + angles.max()) / 2 == pytest.approx(90, abs=0.02)
        assert np.hypot(*points.T).min() == pytest.approx(63, abs=0.4)


@pytest.mark.parametrize("by", [2.5, 0.4])
def test_lengths_stay_lengths_of_the_sheet_after_live_text_was_scaled_by_hand(by):
    plain = sheet(lettering("Tern", "Barlow", 8 * by), page=(400, 400))
    scaled = apply(Call("scale", ("name",), options={"by": by}), sheet(lettering("Tern", "Barlow", 8)), SHOP).sheet
    for call in (
        Call("set-spacing", ("name",), options={"letters": "4 mm"}),
        Call("set-letters", ("name",), options={"letters": "2", "lift": "5 mm", "shift": "1 mm"}),
        Call("set-paragraph", ("name",), options={"width": "200 mm", "align": "right"}),
        Call("set-on-guide", ("name",), options={"radius": "60 mm", "x": "0 mm", "y": "0 mm", "along": "7 mm"}),
        Call("set-face", ("name",), options={"height": "9 mm"}),
    ):
        one, other = (np.concatenate(ink(apply(call, on, SHOP).sheet.find("name"))) for on in (plain, scaled))
        assert one - one.min(axis=0) == pytest.approx(other - other.min(axis=0), abs=1e-3), call.name


def test_the_line_stays_or_is_cut_or_goes():
    keyed = Workshop(parse_ticket('[key]\ncut = ["#ff0000"]\nengrave = ["#000000"]'), SHELF)
    name, options = lettering("Tern", "Barlow", 12), {"shape": "path", "path": "hill"}
    stays, _ = set_on(name, HILL, **options, shop=keyed)
    assert stays.sheet.find("hill") == HILL
    cut, _ = set_on(name, HILL, **options, line="cut", shop=keyed)
    assert keyed.ticket.operation(cut.sheet.find("hill").look) is Operation.CUT
    assert [f.level for f in find_code("path.guide", cut.sheet, keyed)] == ["note"]
    gone, text = set_on(name, HILL, **options, line="removed", shop=keyed)
    assert gone.sheet.find("hill") is None
    assert text.guide is not None
    with pytest.raises(StepRefused, match="no colour for cutting"):
        set_on(name, HILL, **options, line="cut")


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_centred_text_stays_centred_by_its_ink_whatever_is_changed(face):
    text = text_in(face, "Tern")
    on = sheet(text, page=(400, 400))
    middle = _middle(text)
    for step, options in (
        ("set-spacing", {"letters": "4 mm"}),
        ("set-text", {"text": "Hollin Quay"}),
        ("set-face", {"height": "20 mm"}),
    ):
        after = taken(step, on, **options)
        assert _middle(after.find("name")) == pytest.approx(middle, abs=0.001), step
    around = {"radius": "60 mm", "x": "200 mm", "y": "200 mm"}
    on = taken("set-on-guide", on, **around)
    spaced = taken("set-spacing", on, letters="4 mm").find("name")
    angles = np.concatenate([np.arctan2(p[:, 0] - 200, 200 - p[:, 1]) for p in ink(spaced)])
    assert abs(angles.min() + angles.max()) * 30 < 0.02
    column = taken("set-on-guide", on, shape="column").find("name")
    assert column.vertical


@pytest.mark.parametrize("face", SHELF.faces, ids=lambda face: face.name)
def test_straight_and_down_the_page_the_part_that_is_named_stays_by_its_ink(face):
    on = sheet(text_in(face, "Tern", 14, 2.0), page=(400, 400))
    was = np.concatenate(ink(on.find("name")))[:, 0]
    start, end = was.min(), was.max()
    parts = {"start": start, "centre": (start + end) / 2, "end": end}
    for shape, axis in (("straight", 0), ("column", 1)):
        for position, place in parts.items():
            if (shape, position) == ("straight", "centre"):
                continue  # as it is already
            options = {"shape": shape, "position": position}
            after = taken("set-on-guide", on, **options)
            wanted = place if axis == 0 else 200.0  # down the page from the baseline, where that part was
            for spaced in (
                after,
                taken("set-spacing", after, letters="5 mm"),
            ):
                seen = np.concatenate(ink(spaced.find("name")))[:, axis]
                low, high = seen.min(), seen.max()
                now = {"start": low, "centre": (low + high) / 2, "end": high}[position]
                if position == "start" and spaced is not after and shape == "straight":
                    continue  # text that starts at a place keeps its pen there
                assert now == pytest.approx(wanted, abs=0.02), (shape, position)


def _middle(text):
    points = np.concatenate(ink(text))
    return (points[:, 0].min() + points[:, 0].max()) / 2


def test_an_older_recipe_with_a_band_still_sets_two_words_in_one():
    recipe = parse_recipe(
        '[[step]]\nname = "set-on-guide"\nitems = ["name"]\nwith = { tops = "inward", band = true, around = 180.0 }'
    )
    assert recipe.calls[0].options == {"tops": "inward", "around": 180.0, "side": "outside"}
    assert apply(recipe.calls[0], sheet(lettering("QUAY", "Barlow", 12)), workshop()).sheet.find("name").guide
