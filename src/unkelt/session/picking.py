"""What lies under a place of the sheet, and what is said about it."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import shapely

from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import glyph_boxes
from unkelt.lettering.setting import set_lettering
from unkelt.sheet.model import Item, Lettering, Outline, Picture, Sheet
from unkelt.survey.finding import Finding

LASSO_MM = 0.05
"""How finely lines are followed when they are asked whether a lasso holds them."""


def items_at(sheet: Sheet, workshop: Workshop, x: float, y: float, reach_mm: float) -> list[str]:
    """The items at a place, the topmost first: filled ones where it lies on their fill, lines that are within reach,
    texts and pictures by their box.
    """
    place = shapely.Point(x, y)
    found = [
        item.id
        for item in sheet.walk()
        if (box := _box(item, workshop)) is not None
        and box[0] - reach_mm <= x <= box[2] + reach_mm
        and box[1] - reach_mm <= y <= box[3] + reach_mm
        and _hit(item, place, reach_mm, workshop)
    ]
    return found[::-1]


def is_open(sheet: Sheet, item: str) -> bool:
    """Whether it is a line with ends."""
    outline = sheet.find(item)
    return isinstance(outline, Outline) and not outline.path.closed.any()


def items_within(sheet: Sheet, workshop: Workshop, ring: Sequence[tuple[float, float]]) -> list[str]:
    """The items that lie wholly within a frame or lasso (its corners in mm), in the sheet's order: outlines by their
    lines, texts and pictures by their box.
    """
    if len(ring) < 3:
        return []
    area = shapely.make_valid(shapely.Polygon(ring))
    shapely.prepare(area)
    x0, y0, x1, y1 = area.bounds
    found = []
    for item in sheet.walk():
        box = _box(item, workshop)
        if box is None or box[0] < x0 or box[1] < y0 or box[2] > x1 or box[3] > y1:
            continue
        shape = lines(item.path, LASSO_MM) if isinstance(item, Outline) else shapely.box(*box)
        if area.contains(shape):
            found.append(item.id)
    return found


def letter_at(text: Lettering, workshop: Workshop, x: float, y: float) -> str:
    """The letter of a text at a place, as steps count letters: from 1 with the spaces; empty where there is none."""
    for _, first, box in glyph_boxes(text, workshop.shelf):
        if box is not None and box[0] <= x <= box[2] and box[1] <= y <= box[3]:
            return str(first + 1)
    return ""


def with_letter(letters: str, more: str) -> str:
    """Letters that are named, with one more, or without it where it was among them."""
    named = [part.strip() for part in letters.split(",") if part.strip()]
    return ", ".join([each for each in named if each != more] if more in named else [*named, more])


def _box(item: Item, workshop: Workshop) -> Box | None:
    if isinstance(item, Outline):
        return bounds(item.path)
    if isinstance(item, Lettering):
        return set_lettering(item, workshop.shelf).ink(item.placement) or item.place
    return item.box if isinstance(item, Picture) else None


def _hit(item: Item, place: shapely.Point, reach_mm: float, workshop: Workshop) -> bool:
    if not isinstance(item, Outline):
        return True
    chord = workshop.ticket.tolerance.chord_mm / 2
    if item.look.fill is not None and region(item.path, item.look.even_odd, chord).contains(place):
        return True
    return bool(shapely.dwithin(lines(item.path, chord), place, reach_mm))


def without(sheet: Sheet, hidden: Collection[str]) -> Sheet:
    """The sheet as it is looked at: without what is hidden on the table. The same sheet where nothing is."""
    there = [item.id for item in sheet.walk() if item.id in hidden] if hidden else []
    return sheet.replaced(dict.fromkeys(there, ())) if there else sheet


def said_about(items: Sequence[str], findings: Sequence[Finding], after: int | None) -> int | None:
    """The number of a finding about the first of these items that has one: the next after the one that is shown, so
    that picking again goes through them all.
    """
    for item in items:
        about = [number for number, finding in enumerate(findings) if item in finding.items]
        if about:
            return next((number for number in about if after is not None and number > after), about[0])
    return None
