"""Defects planted in clean lettering, alone and together: each is found at its place and cured, and nothing else is.

The clean words are outlines of bundled faces, mended; the picture after mending is compared by GEOS with the clean one.
"""

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import SHELF, lettering, moved, outline, rolled, sheet, square, workshop
from unkelt.demo import make_demo
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds, halve
from unkelt.geometry.path import CUBIC, LINE, Path, concat
from unkelt.geometry.region import region
from unkelt.recipe import Call, apply, mend
from unkelt.sheet.model import Group, Outline, Sheet
from unkelt.sheet.ticket import Ticket, read_ticket
from unkelt.survey.check import Workshop
from unkelt.survey.checks import CHECKS, survey

WORDS = [("Bobolink", "Pacifico"), ("Sandpiper", "Dancing Script"), ("BERTH 8", "Arvo")]


def clean(word: str, family: str) -> Sheet:
    """One compound path with no more nodes than it needs."""
    mended = mend(sheet(lettering(word, family, 90), page=(900, 300)), workshop())[-1].sheet
    mended = apply(Call("fit-page"), mended, workshop()).sheet
    assert survey(mended, workshop()) == ()
    return mended


def body(on: Sheet) -> Outline:
    return on.outlines()[0]


def with_body(on: Sheet, path: Path) -> Sheet:
    return on.replaced({body(on).id: (replace(body(on), path=path),)})


def plant_open(on: Sheet) -> tuple[Sheet, tuple[float, float]]:
    """The first contour left open by 0.1 mm."""
    path = body(on).path
    first = path.subpath(0)
    points = first.points.copy()
    way = points[-1, 3] - points[-1, 0 if first.degrees[-1] == LINE else 2]
    points[-1, 3] = points[-1, 3] - 0.1 * way / np.linalg.norm(way)
    if first.degrees[-1] == LINE:
        points[-1, 2] = points[-1, 3]
    opened = Path(points, first.degrees, first.starts, np.array([False]))
    rest = path.select(list(range(1, len(path))))
    return with_body(on, concat([opened, rest])), tuple(points[-1, 3])


def plant_duplicate(on: Sheet) -> tuple[Sheet, tuple[float, float]]:
    """The last contour once more: backwards, from another node, a hair apart."""
    path = body(on).path
    again = moved(rolled(path.subpath(len(path) - 1).reversed(), 1), 0.003, -0.002)
    x0, y0, x1, y1 = bounds(again)
    return with_body(on, concat([path, again])), ((x0 + x1) / 2, (y0 + y1) / 2)


def plant_nodes(on: Sheet) -> tuple[Sheet, tuple[float, float]]:
    """Every segment in four: short enough to be needless, long enough not to be crowded."""
    path = body(on).path
    points = path.cubics()
    for _ in range(2):
        points = np.stack(halve(points), axis=1).reshape(-1, 4, 2)
    dense = Path(points, np.full(len(points), CUBIC, np.uint8), path.starts * 4, path.closed)
    x0, y0, x1, y1 = bounds(path)
    return with_body(on, dense), ((x0 + x1) / 2, (y0 + y1) / 2)


def plant_loose(on: Sheet) -> tuple[Sheet, tuple[float, float]]:
    """The compound path taken apart to its pieces, each with its counters."""
    path = body(on).path
    pieces: list[list[int]] = []
    shapes = [
        shapely.Polygon(p.points[:, 0]) if len(p.points) > 2 else shapely.Point(p.points[0, 0]) for p in path.subpaths()
    ]
    for index in sorted(range(len(path)), key=lambda i: -shapes[i].area):
        owner = next((piece for piece in pieces if shapes[piece[0]].contains(shapes[index])), None)
        (owner.append(index) if owner else pieces.append([index]))
    parts = tuple(outline(f"part-{n}", path.select(piece)) for n, piece in enumerate(pieces))
    x0, y0, x1, y1 = bounds(path)
    return replace(on, items=(Group("word", parts),)), ((x0 + x1) / 2, (y0 + y1) / 2)


PLANTS = {
    "path.open": plant_open,
    "path.duplicate": plant_duplicate,
    "nodes.excess": plant_nodes,
    "compound.loose": plant_loose,
}


def picture(on: Sheet) -> shapely.Geometry:
    return shapely.unary_union([region(o.path, o.look.even_odd, 0.002) for o in on.outlines()])


@pytest.mark.parametrize(("word", "family"), WORDS)
@pytest.mark.parametrize("code", PLANTS)
def test_one_defect_is_found_at_its_place_and_cured_and_nothing_else(word, family, code):
    good = clean(word, family)
    bad, (x, y) = PLANTS[code](good)
    found = survey(bad, workshop())
    # A short segment cut in four may be crowded, too, which is no other defect.
    assert [f.code for f in found if (code, f.code) != ("nodes.excess", "nodes.crowded")] == [code]
    marks = found[0].marks or (found[0].box,)
    nearest = min(max(m[0] - x, x - m[2], m[1] - y, y - m[3], 0.0) for m in (*marks, found[0].box))
    assert nearest <= 0.1
    mended = mend(bad, workshop())
    assert [stage.skipped for stage in mended] == [None] * len(mended)
    after = mended[-1].sheet
    assert survey(after, workshop()) == ()
    # Nothing that a boundary shift of 0.05 mm doesn't explain.
    difference = picture(after).symmetric_difference(picture(good))
    assert difference.buffer(-0.05).is_empty


@pytest.mark.parametrize("codes", list(itertools.permutations(["path.open", "path.duplicate", "nodes.excess"], 2)))
def test_two_defects_together(codes):
    bad = good = clean("Bobolink", "Pacifico")
    for code in codes:
        bad, _ = PLANTS[code](bad)
    assert {finding.code for finding in survey(bad, workshop())} == set(codes)
    after = mend(bad, workshop())[-1].sheet
    assert survey(after, workshop()) == ()
    assert picture(after).symmetric_difference(picture(good)).buffer(-0.05).is_empty


def test_the_survey_does_not_depend_on_the_order_of_items():
    letters = apply(Call("outline-text"), sheet(lettering("Kitti", "Pacifico")), workshop()).sheet.outlines()
    orders = [tuple(letters), tuple(reversed(letters)), (*letters[2:], *letters[:2])]
    found = [sorted(f.code for f in survey(sheet(Group("g", order)), workshop())) for order in orders]
    assert found[0] == found[1] == found[2]


squares = st.lists(st.tuples(st.integers(0, 60), st.integers(0, 60), st.integers(3, 25)), min_size=1, max_size=6)


@given(squares)
def test_mending_twice_is_mending_once_and_what_was_written_reads_the_same(places):
    items = tuple(outline(f"p{n}", square(size, x, y)) for n, (x, y, size) in enumerate(places))
    stages = mend(sheet(*items), workshop())
    after = stages[-1].sheet if stages else sheet(*items)
    assert [stage for stage in mend(after, workshop()) if stage.outcome] == []
    again = parse_svg(write_svg(after), "x")
    assert [f.code for f in survey(again, workshop())] == [f.code for f in survey(after, workshop())]
    # Welding never changes what is ink.
    assert picture(after).symmetric_difference(picture(sheet(*items))).area <= 1e-3


@given(st.floats(0.2, 5), st.floats(-80, 80), st.floats(-80, 80))
def test_resizing_keeps_proportions_and_place(width_share, dx, dy):
    wide = f"{40 * width_share:.4f} mm"
    on = sheet(outline("a", moved(square(40), 100 + dx, 90 + dy)), outline("b", moved(square(10), 110 + dx, 95 + dy)))
    after = apply(Call("resize", options={"width": wide}), on, workshop()).sheet
    a, b = (bounds(o.path) for o in after.outlines())
    k = (a[2] - a[0]) / 40
    assert k == pytest.approx(width_share, rel=1e-4)
    assert (a[3] - a[1]) / 40 == pytest.approx(k)
    assert (b[0] - a[0]) / k == pytest.approx(10, abs=1e-6)
    assert (b[1] - a[1]) / k == pytest.approx(5, abs=1e-6)


def test_the_demonstration_files_hold_every_code_between_them(tmp_path):
    """All but `text.licence`: no face with such a licence may be passed on."""
    make_demo(tmp_path)
    found = set()
    for path in tmp_path.glob("*.svg"):
        ticket = path.with_suffix(".toml")
        shop = Workshop(read_ticket(ticket) if ticket.exists() else Ticket(), SHELF)
        codes = {finding.code for finding in survey(read_sheet(path), shop)}
        assert codes or path.stem == "berth-12"
        found |= codes
    assert {code for check in CHECKS for code in check.codes} - found == {"text.licence"}
