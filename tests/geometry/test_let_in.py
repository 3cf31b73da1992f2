"""`let-in`: into bars, into windows, into open lines."""

import pytest
import shapely

from tests.builders import glyph_paths, moved, outline, sheet, workshop
from unkelt.errors import StepRefused
from unkelt.geometry.distance import departure
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import bounds, lengths
from unkelt.geometry.path import Path, concat, polygon
from unkelt.geometry.region import region
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Outline, Sheet

LINE = Appearance(fill=None, stroke="#000000", stroke_width_mm=0.1)


def word(y: float, text: str = "HIT") -> list[Outline]:
    """Letters of 50 mm, their tops at y."""
    paths = glyph_paths(text, "Alfa Slab One", 70)
    top, left = min(bounds(p)[1] for p in paths), min(bounds(p)[0] for p in paths)
    return [outline(f"letter-{i}", moved(p, 40 - left, y - top)) for i, p in enumerate(paths)]


def rect(x0: float, y0: float, x1: float, y1: float) -> Path:
    return polygon((x0, y0), (x1, y0), (x1, y1), (x0, y1))


def area(on: Sheet) -> shapely.Geometry:
    return shapely.union_all([region(o.path, o.look.even_odd, 0.005) for o in on.outlines()])


def letting(bars: list[Outline], letters: list[Outline], /, **options: object) -> tuple[Sheet, dict[str, object]]:
    on = sheet(Group("frame", tuple(bars)), Group("word", tuple(letters)))
    outcome = apply(Call("let-in", ("word",), options={"frame": "frame"} | options), on, workshop())
    return outcome.sheet, outcome.evidence


def test_letters_over_the_opening_of_bars_are_welded_to_them():
    """The area is that of the union, by the inclusion–exclusion of areas."""
    bars = outline("bars", concat([rect(10, 0, 230, 80), rect(20, 10, 220, 58).reversed()]))
    letters = word(8)  # 50 mm high: from 8 to 58 and a little beyond
    after, evidence = letting([bars], letters)
    assert evidence.way == "welded to the bars"
    assert len(after.outlines()) == 1
    one, other = area(sheet(bars)), area(sheet(*letters))
    assert area(after).area == pytest.approx(one.area + other.area - one.intersection(other).area, rel=1e-5)


def test_letters_over_windows_are_taken_out_of_them_and_the_frame_keeps_its_details():
    """A plain union would eat the letters: they lie inside the windows, which are drawn as shapes."""
    windows = [outline("left", rect(30, 10, 100, 58)), outline("right", rect(104, 10, 230, 58))]
    letters = word(6)
    after, evidence = letting(windows, letters)
    assert evidence.way == "taken out of the openings"
    assert area(after).area == pytest.approx(area(sheet(*windows)).difference(area(sheet(*letters))).area, rel=1e-5)
    assert evidence.pieces_without_bridge == 0


def test_cut_lines_say_by_their_nesting_what_is_material():
    plate = Outline("plate", concat([rect(10, 0, 230, 80), rect(20, 10, 220, 58)]), LINE)
    _, evidence = letting([plate], word(8))
    assert evidence.way == "welded to the bars"


def test_a_letter_without_a_bridge_is_named():
    windows = [outline("window", rect(30, 0, 230, 90))]
    with pytest.raises(StepRefused, match="have no bridge to the frame and would fall out"):
        letting(windows, word(20))
    after, evidence = letting(windows, word(20), loose=True)
    assert evidence.pieces_without_bridge == 3
    assert len(after.outlines()) == 1


def test_open_lines_end_where_the_letters_begin():
    """Two rails with bridges at their ends. What is drawn afterwards is the edge of the field without the letters,
    short of the bridges, which stay as long as they were.
    """
    rails = [
        Outline("top", polygon((30, 20), (30, 10), (230, 10), (230, 20), closed=False), LINE),
        Outline("bottom", polygon((30, 28), (30, 58), (230, 58), (230, 28), closed=False), LINE),
    ]
    letters = word(6)
    after, evidence = letting(rails, letters)
    assert evidence.way == "taken out of the field between the lines"
    field = shapely.box(30, 10, 230, 58)
    expected = field.difference(area(sheet(*letters)))
    drawn = sum(float(lengths(o.path).sum()) for o in after.outlines())
    assert drawn == pytest.approx(expected.boundary.length - 16, rel=2e-3)  # two bridges of 8 mm
    for item in after.outlines():
        assert departure(lines(item.path, 0.001), expected.boundary) < 0.05
    with pytest.raises(StepRefused, match="enclose nothing"):
        letting(rails, letters, gaps="1 mm")


@pytest.mark.parametrize(("options", "reason"), [({"frame": ""}, "no frame"), ({"frame": "gone"}, "no longer")])
def test_what_is_not_there_is_said(options, reason):
    with pytest.raises(StepRefused, match=reason):
        letting([outline("window", rect(30, 0, 230, 90))], word(20), **options)
