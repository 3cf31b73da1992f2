"""`move`, `rotate`, `shear`, `mirror`: where things lie, and which way round."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from fontTools.misc.transform import Identity, Transform

from unkelt.errors import StaleTarget, StepRefused
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.lettering.setting import set_lettering
from unkelt.sheet.change import leaves, transformed
from unkelt.sheet.model import Lettering, Outline, Picture, Sheet
from unkelt.steps.step import Outcome, step
from unkelt.survey.check import Workshop

Axis = Literal["left-right", "top-bottom"]


@step("move", "Move", cures=("place.off-page",))
def move(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    right: Annotated[float, "how far to the right; negative to the left"] = 0.0,
    down: Annotated[float, "how far down; negative up"] = 0.0,
) -> Outcome:
    """Moves the named items, or everything, by exact distances. Nothing changes its shape."""
    if right == down == 0:
        raise StepRefused("move", "by nothing, everything stays where it is")
    return _placed("move", sheet, items, workshop, Transform(1, 0, 0, 1, right, down))


@step("rotate", "Rotate", cures=())
def rotate(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    angle: Annotated[float, "clockwise as seen", "angle"] = 90.0,
    x: Annotated[float | None, "the centre; without it, the middle of the ink"] = None,
    y: Annotated[float | None, "the centre, from the top of the page"] = None,
) -> Outcome:
    """Rotates the named items, or everything, about a centre; quarter turns are exact."""
    cx, cy = _centre("rotate", sheet, items, workshop, x, y)
    quarters: dict[float, tuple[float, float]] = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}
    cos, sin = quarters.get(angle % 360) or (math.cos(math.radians(angle)), math.sin(math.radians(angle)))
    if (cos, sin) == (1, 0):
        raise StepRefused("rotate", "by a whole turn, everything stays where it is")
    return _placed("rotate", sheet, items, workshop, _about(Transform(cos, sin, -sin, cos, 0, 0), cx, cy))


@step("shear", "Slant", cures=())
def shear(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    angle: Annotated[float, "how far uprights lean to the right", "angle"] = 10.0,
) -> Outcome:
    """Slants the named items, or everything, about the lower edge of its ink; heights stay."""
    if angle == 0 or not -80 <= angle <= 80:
        raise StepRefused("shear", "the angle must lie between -80° and 80°, and not be 0")
    box = _box("shear", sheet, items, workshop)
    slant = Transform(1, 0, -math.tan(math.radians(angle)), 1, 0, 0)
    return _placed("shear", sheet, items, workshop, _about(slant, box[0], box[3]))


@step("mirror", "Mirror", cures=())
def mirror(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    axis: Annotated[Axis, "what changes sides; left-right for film that is cut from behind"] = "left-right",
) -> Outcome:
    """Mirrors the named items, or everything, about the middle of its ink, so that it stays in its place.

    The evidence says so, and so does the inspection sheet: mirrored work reads the wrong way round until it is turned.
    """
    box = _box("mirror", sheet, items, workshop)
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    flip = Transform(-1, 0, 0, 1, 0, 0) if axis == "left-right" else Transform(1, 0, 0, -1, 0, 0)
    outcome = _placed("mirror", sheet, items, workshop, _about(flip, x, y))
    return Outcome(outcome.sheet, outcome.items, {**outcome.evidence, "mirrored": axis})


def ink_box(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Box | None:
    """The box of the named items' ink, or of all; live text counts with its letters, strokes by their centre line."""
    chosen = leaves(sheet, items) if items else None
    boxes: list[Box | None] = []
    for item in sheet.walk():
        if chosen is not None and item.id not in chosen:
            continue
        match item:
            case Outline():
                boxes.append(bounds(item.path))
            case Lettering():
                boxes.append(set_lettering(item, workshop.shelf).ink(item.placement) or item.place)
            case Picture():
                boxes.append(item.box)
    return join_boxes([box for box in boxes if box])


def check_items(name: str, sheet: Sheet, items: tuple[str, ...]) -> None:
    """Raises StaleTarget where a named item is gone."""
    on_sheet = {item.id for item in sheet.walk()}
    for item_id in items:
        if item_id not in on_sheet:
            raise StaleTarget(name, f"“{item_id}” is no longer on the sheet")


def _box(name: str, sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Box:
    check_items(name, sheet, items)
    box = ink_box(sheet, items, workshop)
    if box is None:
        raise StepRefused(name, "there is nothing here")
    return box


def _centre(
    name: str, sheet: Sheet, items: tuple[str, ...], workshop: Workshop, x: float | None, y: float | None
) -> tuple[float, float]:
    box = _box(name, sheet, items, workshop)
    return (box[0] + box[2]) / 2 if x is None else x, (box[1] + box[3]) / 2 if y is None else y


def _about(matrix: Transform, x: float, y: float) -> Transform:
    return Identity.translate(x, y).transform(matrix).translate(-x, -y)


def _placed(name: str, sheet: Sheet, items: tuple[str, ...], workshop: Workshop, matrix: Transform) -> Outcome:
    before = _box(name, sheet, items, workshop)
    moved = transformed(sheet, matrix, strokes=False, items=items or None)
    after = ink_box(moved, items, workshop) or before
    evidence = {
        "items": len(leaves(sheet, items)) if items else len(moved.outlines()) + len(moved.letterings()),
        "left_mm": round(after[0], 4),
        "top_mm": round(after[1], 4),
        "width_mm": round(after[2] - after[0], 4),
        "height_mm": round(after[3] - after[1], 4),
    }
    worked = items or tuple(item.id for item in sheet.items)
    return Outcome(moved, worked, evidence)
