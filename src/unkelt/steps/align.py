"""`align` and `stack`: how items lie to each other, on the sheet and one above the other."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from fontTools.misc.transform import Transform

from unkelt.errors import StepRefused
from unkelt.geometry.measure import Box
from unkelt.sheet.change import transformed
from unkelt.sheet.model import Group, Item, Sheet
from unkelt.steps.place import check_items, ink_box
from unkelt.steps.step import Outcome, step
from unkelt.survey.check import Workshop

Across = Literal["stay", "left", "middle", "right", "spread"]
Upright = Literal["stay", "top", "middle", "bottom", "spread"]
To = Literal["each-other", "page", "first"]


@step("align", "Align by ink", cures=())
def align(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    across: Annotated[Across, "what of the ink is brought to one line from left to right"] = "middle",
    upright: Annotated[Upright, "what of the ink is brought to one line from top to bottom"] = "stay",
    to: Annotated[To, "to the box of them all, to the page, or to the first that is named"] = "each-other",
) -> Outcome:
    """Aligns items by what is drawn of them, not by frames; `spread` leaves equal room between them. Shapes stay as they are."""
    items = items or tuple(item.id for item in sheet.items)
    check_items("align", sheet, items)
    if len(items) < (1 if to == "page" else 2):
        raise StepRefused("align", "at least two items have to be named")
    boxes = {item: box for item in items if (box := ink_box(sheet, (item,), workshop))}
    if not boxes:
        raise StepRefused("align", "there is nothing here")
    whole = ink_box(sheet, items, workshop)
    if to == "page":
        whole = (0.0, 0.0, *sheet.page_mm)
    elif to == "first":
        whole = boxes.get(items[0]) or whole
    assert whole is not None
    shifts = {item: [0.0, 0.0] for item in boxes}
    for axis, how in ((0, across), (1, upright)):
        for item, shift in _shifts(boxes, how, (whole[axis], whole[axis + 2]), axis).items():
            shifts[item][axis] = shift
    if to == "first":
        shifts[items[0]] = [0.0, 0.0]
    moved, farthest = sheet, 0.0
    for item, (dx, dy) in shifts.items():
        if dx or dy:
            moved = transformed(moved, Transform(1, 0, 0, 1, dx, dy), strokes=False, items=(item,))
            farthest = max(farthest, (dx * dx + dy * dy) ** 0.5)
    if moved is sheet:
        raise StepRefused("align", "they lie like that already")
    return Outcome(moved, items, {"items": len(boxes), "farthest_moved_mm": round(farthest, 4)})


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


@step("stack", "Bring to front or back", cures=())
def stack(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,  # every step has one
    *,
    place: Annotated[Literal["front", "back"], "above all others, or beneath"] = "front",
) -> Outcome:
    """Puts items above or beneath all others of their group. Nothing moves."""
    check_items("stack", sheet, items)
    if not items:
        raise StepRefused("stack", "no item is named")
    wanted = set(items)

    def ordered(level: tuple[Item, ...]) -> tuple[Item, ...]:
        level = tuple(replace(item, items=ordered(item.items)) if isinstance(item, Group) else item for item in level)
        chosen = tuple(item for item in level if item.id in wanted)
        others = tuple(item for item in level if item.id not in wanted)
        return (*others, *chosen) if place == "front" else (*chosen, *others)

    after = replace(sheet, items=ordered(sheet.items))
    if after == sheet:
        raise StepRefused("stack", "it lies there already")
    return Outcome(after, items, {"items": len(wanted)})
