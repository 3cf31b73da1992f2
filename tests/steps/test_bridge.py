"""Bridges: what would fall out is held, by the shortest strips, and nothing else moves.

That a stencil's counters need bridges, and that one bridge alone lets a piece swing, is common practice, no source.
"""

from dataclasses import replace

import pytest
import shapely

from tests.builders import glyph_paths, outline, sheet, square, workshop
from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.geometry.path import concat, polygon
from unkelt.geometry.region import region
from unkelt.job.ticket import parse_ticket
from unkelt.recipe import Call, apply
from unkelt.survey.checks import find_code
from unkelt.survey.finding import Level

STENCIL = parse_ticket('[job]\nsheet_stays = true\n[machine]\nprofile = "laser"\nsmallest_stroke = "1.2 mm"')
LASER = parse_ticket('[machine]\nprofile = "laser"\nsmallest_stroke = "1.2 mm"')


def letters(words, family, size=50):
    return [outline(f"l{n}", path) for n, path in enumerate(glyph_paths(words, family, size))]


def framed(inner, room=5, wall=20):
    """Letters in a frame that they don't touch."""
    x0, y0, x1, y1 = join_boxes([bounds(each.path) for each in inner])
    rings = [
        polygon((x0 - r, y0 - r), (x1 + r, y0 - r), (x1 + r, y1 + r), (x0 - r, y1 + r)) for r in (room + wall, room)
    ]
    frame = outline("frame", concat(rings))
    return sheet(replace(frame, look=replace(frame.look, even_odd=True)), *inner)


def area(on):
    return shapely.union_all([region(each.path, each.look.even_odd, 0.002) for each in on.outlines()])


def bridged(on, ticket, **options):
    return apply(Call("bridge", (), options=options), on, workshop(ticket))


@pytest.mark.parametrize(
    ("words", "family", "width"),
    [("Boat 86", "Arvo", "1.2 mm"), ("Quay@B", "Pacifico", "2 mm"), ("ABDOPQR", "Alfa Slab One", "2 mm"), ("8%", "Barlow", "0.8 mm")],
)  # fmt: skip
def test_counters_stay_in_the_sheet_and_only_strips_are_taken_from_the_letters(words, family, width):
    before = sheet(*letters(words, family))
    (first, *_) = find_code("piece.unheld", before, workshop(STENCIL))
    assert (first.level, first.case) == (Level.HOLD, "counter")
    done = bridged(before, STENCIL, width=width)
    assert find_code("piece.unheld", done.sheet, workshop(STENCIL)) == ()
    was, now = area(before), area(done.sheet)
    assert sum(len(part.interiors) for part in shapely.get_parts(now)) == 0, "no island is left, by GEOS"
    assert now.difference(was.buffer(0.02)).area == 0
    (change,) = done.changes
    assert was.difference(now).difference(change.where).buffer(-0.01).area == 0
    assert was.area - now.area <= change.amount + 0.01


def test_film_on_its_backing_keeps_its_counters():
    ticket = parse_ticket('[job]\nsheet_stays = true\n[machine]\nprofile = "film-knife"')
    (found,) = find_code("piece.unheld", sheet(*letters("o", "Arvo")), workshop(ticket))
    assert found.level is Level.NOTE


def test_pieces_in_a_frame_are_held_by_strips_of_material():
    before = framed(letters("Bo8t", "Arvo", 40))
    done = bridged(before, LASER)
    assert find_code("piece.unheld", done.sheet, workshop(LASER)) == ()
    assert (done.evidence.held, done.evidence.bridges) == (4, 8)
    assert len(shapely.get_parts(area(done.sheet))) == 1
    assert area(before).difference(area(done.sheet).buffer(0.02)).area == 0


def test_as_many_are_joined_as_the_ticket_wants():
    ticket = parse_ticket('[job]\npieces = 2\n[machine]\nprofile = "laser"')
    before = sheet(*(outline(f"p{n}", square(10, x, 0)) for n, x in enumerate((0, 13, 40, 52))))
    done = bridged(before, ticket, width="2 mm", count=1)
    assert len(shapely.get_parts(area(done.sheet))) == 2
    assert [each.id for each in done.sheet.outlines()] == ["p0", "p2"], "the nearest are joined"
    assert done.evidence.longest_mm == 3


def test_one_is_laid_where_a_person_wants_it_even_at_a_corner():
    before = framed([outline("b", square(20, 0, 0))])
    done = bridged(before, LASER, x="-2.5 mm", y="1 mm", width="1 mm")
    (change,) = done.changes
    assert change.where.bounds == pytest.approx((-5, 0.5, 0, 1.5), abs=0.6)
    proposed = bridged(before, LASER, width="1 mm", count=4)
    corners = shapely.MultiPoint([(0, 0), (20, 0), (20, 20), (0, 20)])
    assert all(part.distance(corners) > 0.2 for part in shapely.get_parts(proposed.changes[0].where))


@pytest.mark.parametrize(
    ("options", "words"),
    [
        ({"width": "30 mm"}, "every place is at a corner, too thin or too near .*; try narrower ones, or choose a place"),
        ({"width": "3 mm", "count": 40}, "there is room for .* bridges; try narrower"),
        ({"width": "0 mm"}, "must be greater than zero"),
    ],
)  # fmt: skip
def test_what_cannot_be_bridged_ends_in_one_sentence_with_a_way_out(options, words):
    with pytest.raises(StepRefused, match=words):
        bridged(framed([outline("b", square(20, 0, 0))]), LASER, **options)


def test_other_material_is_no_bridge_and_what_is_held_needs_none():
    inner = outline("b", square(20, 0, 0), None, "#ff0000")
    ticket = parse_ticket('[materials]\nbirch = ["#000000", "#ff0000"]\n[machine]\nprofile = "laser"')
    frame = framed([outline("b", square(20, 0, 0))]).outlines()[0]
    with pytest.raises((StepRefused, NothingToDo)):
        bridged(sheet(frame, inner), ticket)
    with pytest.raises(NothingToDo, match="nothing here would fall out"):
        bridged(sheet(outline("b", square(20, 0, 0))), LASER)
