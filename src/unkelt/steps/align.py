"""`align` and `stack`: how items lie to each other, on the sheet and one above the other."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

import shapely
from fontTools.misc.transform import Identity, Transform

from unkelt.account.changes import Moves, Reason
from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.measure import Box
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say, say_count
from unkelt.sheet.change import leaves, transformed
from unkelt.sheet.model import Group, Item, Lettering, Outline, Sheet
from unkelt.sheet.naming import called
from unkelt.steps.evidence import Evidence, Worked
from unkelt.steps.organise import levels
from unkelt.steps.place import check_items, ink_box
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

Across = Literal["stay", "left", "middle", "right", "mass", "spread"]
Upright = Literal["stay", "top", "middle", "bottom", "mass", "baseline", "spread"]
To = Literal["each-other", "page", "bed", "first", "field"]


@dataclass(frozen=True, kw_only=True)
class Aligned(Evidence):
    """How many things were moved, and the farthest of them (mm)."""

    items: int
    farthest_moved_mm: float

    def caption(self) -> str:
        return say_count("{count} item", "{count} items", self.items)


@step("align", "Align by ink", on=On.ITEMS, purpose=Purpose.LAYOUT, likely=On.ITEMS, of_several=True)
def align(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    across: Annotated[Across, "which part of the ink to align horizontally", Field("Across", first=True)] = "middle",
    upright: Annotated[Upright, "which part of the ink to align vertically", Field("Up and down", first=True)] = "stay",
    to: Annotated[
        To,
        "align to the box of all items, the page, the machine's bed, the first named item, or its largest opening",
        Field("Align to", first=True),
    ] = "each-other",
) -> Outcome:
    """Aligns items by their ink, not by their frames: by edges, middle, centre of mass, or the baseline of
    lettering. `spread` makes equal gaps between them. Shapes stay as they are.
    """
    items = items or tuple(item.id for item in sheet.items)
    check_items("align", sheet, items)
    if len(items) < (1 if to in ("page", "bed") else 2):
        raise StepRefused("align", "at least two items have to be named")
    boxes = {item: box for item in items if (box := ink_box(sheet, (item,), workshop))}
    if not boxes:
        raise StepRefused("align", "there is nothing here")
    whole = ink_box(sheet, items, workshop)
    if to == "page":
        whole = (0.0, 0.0, *sheet.page_mm)
    elif to == "bed":
        if workshop.ticket.machine.bed_mm is None:
            raise StepRefused("align", "the ticket doesn't say how large the bed is")
        whole = (0.0, 0.0, *workshop.ticket.machine.bed_mm)
    elif to == "first":
        whole = boxes.get(items[0]) or whole
    elif to == "field":
        whole = _field(sheet, items[0], workshop)
    assert whole is not None
    shifts = {item: [0.0, 0.0] for item in boxes}
    for axis, how in ((0, across), (1, upright)):
        if how in ("mass", "baseline"):
            found = _to_points(sheet, boxes, how, whole, axis, items[0] if to in ("first", "field") else "", workshop)
        else:
            found = _shifts(boxes, how, (whole[axis], whole[axis + 2]), axis)
        for item, shift in found.items():
            shifts[item][axis] = shift
    if to in ("first", "field"):
        shifts[items[0]] = [0.0, 0.0]
    moved, farthest = sheet, 0.0
    matrices: dict[str, Transform] = {}
    for item, (dx, dy) in shifts.items():
        if dx or dy:
            matrix = Transform(1, 0, 0, 1, dx, dy)
            moved = transformed(moved, matrix, strokes=False, items=(item,))
            matrices |= {inner: matrix.transform(matrices.get(inner, Identity)) for inner in leaves(sheet, (item,))}
            farthest = max(farthest, (dx * dx + dy * dy) ** 0.5)
    if moved is sheet:
        raise NothingToDo("align", "they lie like that already")
    evidence = Aligned(items=len(boxes), farthest_moved_mm=round(farthest, 4))
    return Outcome(moved, items, evidence, moves=Moves(items=matrices))


def _field(sheet: Sheet, item: str, workshop: Workshop) -> Box:
    """The box of the largest opening in an item."""
    shape = shapely.unary_union(_regions(sheet, item, workshop))
    rings = [ring for part in shapely.get_parts(shape) if part.geom_type == "Polygon" for ring in part.interiors]
    if not rings:
        raise StepRefused("align", say("{item} has no opening", item=called(sheet.find(item), item)))
    x0, y0, x1, y1 = max((shapely.Polygon(ring) for ring in rings), key=lambda hole: hole.area).bounds
    return float(x0), float(y0), float(x1), float(y1)


def _regions(sheet: Sheet, item: str, workshop: Workshop) -> list[shapely.Geometry]:
    chord = workshop.ticket.tolerance.chord_mm
    found = [sheet.find(name) for name in leaves(sheet, [item])]
    shapes = [region(o.path, o.look.even_odd, chord) for o in found if isinstance(o, Outline)]
    for text in found:
        if isinstance(text, Lettering):
            letters = set_lettering(text, workshop.shelf).letters(text.placement)
            shapes += [region(path, False, chord) for _, _, path in letters]
    return shapes


def _to_points(
    sheet: Sheet, boxes: dict[str, Box], how: str, whole: Box, axis: int, first: str, workshop: Workshop
) -> dict[str, float]:
    """Shifts that bring centres of mass, or baselines, to one line: the first's, or that of the middle of the whole."""
    places = {item: _point(sheet, item, how, axis, workshop) for item in boxes}
    if how == "baseline":
        wanted = places.get(first, max(places.values()))
    else:
        wanted = places[first] if first in places else (whole[axis] + whole[axis + 2]) / 2
    return {item: wanted - place for item, place in places.items()}


def _point(sheet: Sheet, item: str, how: str, axis: int, workshop: Workshop) -> float:
    if how == "mass":
        middle = shapely.unary_union(_regions(sheet, item, workshop)).centroid
        if middle.is_empty:
            raise StepRefused(
                "align",
                say("{item} encloses nothing that could have a centre of mass", item=called(sheet.find(item), item)),
            )
        return float(middle.x if axis == 0 else middle.y)
    for name in sorted(leaves(sheet, [item])):
        found = sheet.find(name)
        if isinstance(found, Lettering):
            glyphs = set_lettering(found, workshop.shelf).glyphs
            if glyphs:
                return float(found.placement.transformPoint((glyphs[0].x, glyphs[0].y))[1])
        if isinstance(found, Outline) and found.origin is not None:
            return _baseline(sheet, item, found.origin, workshop)
    raise StepRefused(
        "align", say("{item} is no lettering, so that it has no baseline", item=called(sheet.find(item), item))
    )


def _baseline(sheet: Sheet, item: str, origin: Lettering, workshop: Workshop) -> float:
    """Of outlined lettering: as far below its ink's top as when it was set, at the size it now has."""
    ink = set_lettering(origin, workshop.shelf).ink(origin.placement)
    now = ink_box(sheet, (item,), workshop)
    glyphs = set_lettering(origin, workshop.shelf).glyphs
    if ink is None or now is None or not glyphs or ink[3] - ink[1] <= 0:
        raise StepRefused(
            "align",
            say("the face of {item} is not here to say where its baseline is", item=called(sheet.find(item), item)),
        )
    line = float(origin.placement.transformPoint((glyphs[0].x, glyphs[0].y))[1])
    return now[1] + (line - ink[1]) * (now[3] - now[1]) / (ink[3] - ink[1])


def _shifts(boxes: dict[str, Box], how: str, room: tuple[float, float], axis: int) -> dict[str, float]:
    low, high = room
    if how == "spread" and len(boxes) > 2:
        order = sorted(boxes, key=lambda item: boxes[item][axis])
        taken = sum(boxes[item][axis + 2] - boxes[item][axis] for item in order)
        gap, at, shifts = (high - low - taken) / (len(order) - 1), low, {}
        for item in order:
            shifts[item] = at - boxes[item][axis]
            at += boxes[item][axis + 2] - boxes[item][axis] + gap
        return shifts
    if how in ("left", "top"):
        return {item: low - box[axis] for item, box in boxes.items()}
    if how in ("right", "bottom"):
        return {item: high - box[axis + 2] for item, box in boxes.items()}
    if how == "middle":
        return {item: (low + high) / 2 - (box[axis] + box[axis + 2]) / 2 for item, box in boxes.items()}
    return {}


@step("stack", "Change the order", on=On.ITEMS, purpose=Purpose.LAYERS, redraws=Reason.STACKED)
def stack(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,  # every step has one
    *,
    place: Annotated[
        Literal["front", "forward", "backward", "back"],
        "above all others, one up, one down, or beneath all others",
        Field("To the", first=True),
    ] = "front",
    over: Annotated[str, "the item to lie directly above, instead", Pictured("items"), Field("Directly above")] = "",
) -> Outcome:
    """Puts items above or below others of their group. Nothing moves."""
    check_items("stack", sheet, items)
    if not items:
        raise StepRefused("stack", "no item is named")
    wanted = set(items)
    if over and (over in wanted or not any({over, *wanted} <= {item.id for item in level} for level in levels(sheet))):
        raise StepRefused("stack", say("{item} lies in another group", item=called(sheet.find(over), over)))

    def ordered(level: tuple[Item, ...]) -> tuple[Item, ...]:
        level = tuple(replace(item, items=ordered(item.items)) if isinstance(item, Group) else item for item in level)
        return _restacked(level, wanted, place, over) if any(item.id in wanted for item in level) else level

    after = replace(sheet, items=ordered(sheet.items))
    if after == sheet:
        raise NothingToDo("stack", "it lies there already")
    return Outcome(after, items, Worked(items=len(wanted)))


def _restacked(level: tuple[Item, ...], wanted: set[str], place: str, over: str) -> tuple[Item, ...]:
    """The items of a level, the lowest first, with the wanted ones where they are to lie."""
    chosen = [item for item in level if item.id in wanted]
    others = [item for item in level if item.id not in wanted]
    if over:
        at = next(index for index, item in enumerate(others) if item.id == over) + 1
        return (*others[:at], *chosen, *others[at:])
    if place in ("front", "back"):
        return (*others, *chosen) if place == "front" else (*chosen, *others)
    row = list(level)
    way = 1 if place == "forward" else -1
    for item in reversed(chosen) if way > 0 else chosen:
        at = row.index(item)
        if 0 <= at + way < len(row) and row[at + way].id not in wanted:
            row[at], row[at + way] = row[at + way], row[at]
    return tuple(row)
