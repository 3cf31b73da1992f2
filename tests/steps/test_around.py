"""Steps that build around lettering: Steiner's formula, closed forms, and what common practice asks for."""

import math

import numpy as np
import pytest
import shapely

from tests.builders import SHELF, circle, glyph_paths, lettering, outline, sheet, square, workshop
from unkelt.errors import StepRefused
from unkelt.geometry.measure import bounds, lengths, signed_areas
from unkelt.geometry.path import concat, polygon
from unkelt.geometry.region import region
from unkelt.lettering.setting import set_lettering
from unkelt.recipe import Call, apply
from unkelt.sheet.model import Group


def step(name, on, *items, **options):
    return apply(Call(name, items, options=options), on, workshop())


def test_a_backing_follows_steiner_and_lies_beneath_what_it_was_made_for():
    on = sheet(outline("tile", square(40, 30, 30)), page=(100, 100))
    outcome = step("backing", on, "tile", distance="5 mm")
    backing, tile = outcome.sheet.outlines()
    assert (backing.id, tile) == ("backing", on.find("tile"))
    # Steiner (1840): area and length of the parallel body of a convex figure.
    assert signed_areas(backing.path)[0] == pytest.approx(1600 + 160 * 5 + math.pi * 25, abs=0.1)
    assert lengths(backing.path)[0] == pytest.approx(160 + 2 * math.pi * 5, abs=0.05)
    assert outcome.evidence.nodes_after == 8
    assert backing.look.fill is None


def test_a_word_gets_one_backing_of_few_nodes_with_small_holes_filled():
    letters = [outline(f"l{i}", path) for i, path in enumerate(glyph_paths("Bobolink", "Pacifico", 60))]
    on = sheet(Group("word", tuple(letters)), page=(400, 250))
    outcome = step("backing", on, "word", distance="1/8 in", count=2)
    assert outcome.evidence.pieces_after == 1
    first, second = (outcome.sheet.find(name) for name in ("backing", "backing-2"))
    assert len(first.path) == len(second.path) == 1
    assert first.path.node_count <= 2 * sum(letter.path.node_count for letter in letters)
    inner, outer = (region(o.path, False, 0.01) for o in (first, second))
    assert outer.contains(inner)
    away = shapely.distance(shapely.points(shapely.get_coordinates(outer)), inner)
    assert (away.min(), away.max()) == pytest.approx((3.175, 3.175), abs=0.05)
    assert len(step("backing", on, "word", distance="0.5 mm", holes="2 mm").sheet.find("backing").path) > 1


@pytest.mark.parametrize(("shape", "size"), [("rectangle", (50, 40)), ("rounded", (50, 40)), ("circle", (20 + 50, 70))])
def test_a_border_leaves_its_margin(shape, size):
    on = sheet(outline("p", polygon((20, 20), (50, 20), (50, 40), (20, 40))), page=(100, 100))
    (border,) = [o for o in step("border", on, shape=shape, margin="10 mm").sheet.outlines() if o.id == "border"]
    x0, y0, x1, y1 = bounds(border.path)
    expected = size if shape != "circle" else (math.hypot(30, 20) + 20,) * 2
    assert (x1 - x0, y1 - y0) == pytest.approx(expected, abs=0.01)


def test_a_circle_is_the_smallest_around_the_ink_with_the_room_asked_for():
    """The smallest circle around a triangle with an obtuse angle has the longest side for its diameter (Thales; every
    point that sees it under more than a right angle lies within); around text it touches two letters or three, and lies off none of them by less than the margin.
    """
    on = sheet(outline("p", polygon((20, 50), (80, 50), (40, 60))), page=(100, 100))
    x0, y0, x1, y1 = bounds(step("border", on, shape="circle", margin="8 mm").sheet.find("border").path)
    assert (x0, y0, x1, y1) == pytest.approx((12, 12, 88, 88), abs=0.002)
    on = sheet(lettering("Kitti", "Pacifico", 30), page=(300, 200))
    ring = region(step("border", on, shape="circle", margin="8 mm").sheet.find("border").path, False, 0.0005)
    paths = [path for _, _, path in set_lettering(on.find("name"), SHELF).letters(on.find("name").placement)]
    away = sorted(shapely.distance(shapely.boundary(ring), region(path, False, 0.0005)) for path in paths)
    assert away[0] == pytest.approx(8, abs=0.005)
    assert away[1] == pytest.approx(8, abs=0.005)
    placed = step("border", on, shape="circle", diameter="300 mm", x="150 mm", y="100 mm").sheet.find("border")
    assert bounds(placed.path) == pytest.approx((0, -50, 300, 250), abs=0.002)
    with pytest.raises(StepRefused, match="would cut the ink"):
        step("border", on, shape="circle", diameter="20 mm")


def test_a_name_is_knocked_out_and_fits_back_in_with_its_clearance():
    on = sheet(outline("plate", square(60, 10, 10)), outline("tool", circle(15, 40, 40)), page=(100, 100))
    outcome = step("knock-out", on, "tool", out_of="plate", clearance="0.2 mm", keep=True)
    plate = outcome.sheet.find("plate")
    assert len(plate.path) == 2
    assert -signed_areas(plate.path)[1] == pytest.approx(math.pi * 15.2**2, rel=1e-3)
    free = region(plate.path, False, 0.01).distance(region(outcome.sheet.find("tool").path, False, 0.01))
    assert free == pytest.approx(0.2, abs=0.02)
    assert step("knock-out", on, "tool", out_of="plate").sheet.find("tool") is None
    for options, reason in (
        ({"out_of": "gone"}, "no outline of this sheet"),
        ({}, "no outline is named"),
        ({"out_of": "plate", "clearance": "60 mm"}, "would be left"),
    ):
        with pytest.raises(StepRefused, match=reason):
            step("knock-out", on, "tool", **options)


def test_a_tag_hangs_level_from_its_ring():
    lopsided = concat([polygon((20, 40), (80, 40), (80, 70), (20, 90))])
    on = sheet(outline("tag", lopsided), page=(100, 100))
    outcome = step("hang-ring", on, "tag")
    tag = outcome.sheet.find("tag")
    centre = region(lopsided, False, 0.01).centroid
    assert outcome.evidence.x_mm == pytest.approx(centre.x, abs=1e-3)
    assert len(tag.path) == 2
    hole = min(tag.path.subpaths(), key=lambda part: abs(signed_areas(part)[0]))
    x0, _, x1, _ = bounds(hole)
    assert x1 - x0 == pytest.approx(0.21 * 25.4, abs=2e-3)
    with pytest.raises(StepRefused, match="nearer"):
        step("hang-ring", on, "tag", y="5 mm")


def test_spokes_stand_at_equal_angles_and_a_grid_fills_the_page():
    on = sheet(Group("g", (outline("leaf", square(4, 48, 20)),)), page=(100, 100))
    turned = step("spokes", on, "g", count=6).sheet
    middles = np.array([o.path.points[:, 0].mean(axis=0) - 50 for o in turned.outlines()])
    angles = np.sort(np.degrees(np.arctan2(middles[:, 0], -middles[:, 1])) % 360)
    assert np.diff(angles) == pytest.approx([60] * 5)
    assert len({item.id for item in turned.walk()}) == 12
    tag = sheet(outline("tag", square(20, 2, 2)), page=(100, 60))
    filled = step("grid", tag, "tag", columns=0, rows=0, gap="2 mm")
    assert filled.evidence.copies == 4 * 2 - 1
    boxes = [bounds(o.path) for o in filled.sheet.outlines()]
    assert max(box[2] for box in boxes) <= 100
    assert max(box[3] for box in boxes) <= 60
    with pytest.raises(StepRefused):
        step("grid", tag, "tag", columns=1, rows=1)
