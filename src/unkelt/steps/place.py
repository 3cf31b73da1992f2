"""`move`, `rotate`, `shear`, `mirror`: where things lie, and which way round."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal, cast

from fontTools.misc.transform import Identity, Transform

from unkelt.account.changes import Reason, moving
from unkelt.account.declare import coming
from unkelt.errors import NothingToDo, StaleTarget, StepRefused
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.path import concat
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.change import leaves, transformed
from unkelt.sheet.model import FaceQuery, Item, Lettering, Outline, Picture, Reads, Run, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import Grip, Handle, Handles, InHand, by_place, written_mm
from unkelt.steps.step import Field, On, Outcome, Purpose, step

Axis = Literal["left-right", "top-bottom"]


@dataclass(frozen=True, kw_only=True)
class Placed(Evidence):
    """What was moved, turned or mirrored: how many, and where their ink lies now (mm)."""

    items: int
    left_mm: float
    top_mm: float
    width_mm: float
    height_mm: float
    mirrored: str | None = None

    def caption(self) -> str:
        return say_count(
            "{count} item, now at {left:.1f}, {top:.1f} mm",
            "{count} items, now at {left:.1f}, {top:.1f} mm",
            self.items,
            left=self.left_mm,
            top=self.top_mm,
        )


def _destination(held: InHand) -> Handles:
    x, y = held.middle
    return Handles((Handle("to", x + held["right"], y + held["down"], "where its middle goes"),))


def _moved_to(held: InHand, handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
    dx, dy = to[0] - handle.x, to[1] - handle.y
    return {"right": written_mm(held["right"] + dx), "down": written_mm(held["down"] + dy)}


@step(
    "move",
    "Move",
    on=On.ITEMS,
    purpose=Purpose.LAYOUT,
    grip=Grip(_destination, _moved_to),
)
def move(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    right: Annotated[float, "how far to the right; negative to the left", Field("Right", first=True)] = 0.0,
    down: Annotated[float, "how far down; negative up", Field("Down", first=True)] = 0.0,
) -> Outcome:
    """Moves the named items, or all items, by exact distances. Shapes stay as they are."""
    if right == down == 0:
        raise NothingToDo("move", "by nothing, everything stays where it is")
    return _placed("move", sheet, items, workshop, Transform(1, 0, 0, 1, right, down))


@step(
    "rotate",
    "Rotate",
    on=On.ITEMS | On.SHEET,
    purpose=Purpose.LAYOUT,
    grip=by_place(lambda held: held.middle, "the centre"),
)
def rotate(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    angle: Annotated[float, "clockwise as seen", "angle", Field("Angle", first=True)] = 90.0,
    x: Annotated[float | None, "the centre; without it, the middle of the ink", Field("Centre x")] = None,
    y: Annotated[float | None, "the centre, from the top of the page", Field("Centre y")] = None,
) -> Outcome:
    """Rotates the named items, or all items, about a centre. Quarter turns are exact."""
    cx, cy = _centre("rotate", sheet, items, workshop, x, y)
    quarters: dict[float, tuple[float, float]] = {0: (1, 0), 90: (0, 1), 180: (-1, 0), 270: (0, -1)}
    cos, sin = quarters.get(angle % 360) or (math.cos(math.radians(angle)), math.sin(math.radians(angle)))
    if (cos, sin) == (1, 0):
        raise NothingToDo("rotate", "by a whole turn, everything stays where it is")
    return _placed("rotate", sheet, items, workshop, _about(Transform(cos, sin, -sin, cos, 0, 0), cx, cy))


@step("shear", "Slant", on=On.OUTLINES, purpose=Purpose.LAYOUT)
def shear(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    angle: Annotated[float, "how far upright strokes lean to the right", "angle", Field("Angle", first=True)] = 10.0,
) -> Outcome:
    """Slants the named items, or all items, about the lower edge of their ink. Heights stay."""
    if angle == 0 or not -80 <= angle <= 80:
        raise StepRefused("shear", "the angle must lie between -80° and 80°, and not be 0")
    box = _box("shear", sheet, items, workshop)
    slant = Transform(1, 0, -math.tan(math.radians(angle)), 1, 0, 0)
    return _placed("shear", sheet, items, workshop, _about(slant, box[0], box[3]))


@step("mirror", "Mirror", on=On.OUTLINES | On.SHEET, purpose=Purpose.LAYOUT, likely=On.SHEET)
def mirror(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    axis: Annotated[
        Axis, "which sides change; left-right for film that is cut from behind", Field("Swap", first=True)
    ] = "left-right",
    mark: Annotated[
        bool, "write above the ink that the sheet is mirrored; this mark is not cut", Field("Write a mark")
    ] = False,
) -> Outcome:
    """Mirrors the named items, or all items, about the middle of their ink, so that they stay in place.

    The evidence and the inspection sheet say so, because mirrored work reads backwards until it is turned. Refused
    if you want a mark and the ticket's key has no colour to leave alone or to engrave.
    """
    box = _box("mirror", sheet, items, workshop)
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    flip = Transform(-1, 0, 0, 1, 0, 0) if axis == "left-right" else Transform(1, 0, 0, -1, 0, 0)
    outcome = _placed("mirror", sheet, items, workshop, _about(flip, x, y))
    told = {True: Reads.BACKWARDS, False: Reads.FORWARDS, None: Reads.UNKNOWN}[workshop.ticket.mirrored]
    chosen = leaves(sheet, outcome.items)
    after = outcome.sheet.mapped(lambda item: _told(item, chosen, told))
    outcome = replace(outcome, sheet=after, evidence=replace(cast(Placed, outcome.evidence), mirrored=axis))
    if not mark:
        return outcome
    marked = _mark(outcome.sheet, box, workshop)
    changes = coming(Reason.MADE, [marked], workshop.ticket, workshop.shelf)
    return replace(outcome, sheet=replace(outcome.sheet, items=(*outcome.sheet.items, marked)), changes=changes)


def _told(item: Item, chosen: Collection[str], reads: Reads) -> Item:
    """Whoever mirrors what a file doesn't tell the way of has looked, and made it as the ticket wants it."""
    if isinstance(item, Outline) and item.reads is Reads.UNKNOWN and item.id in chosen:
        return replace(item, reads=reads)
    return item


MARK, MARK_MM = "MIRRORED", 4.0


def _mark(sheet: Sheet, box: Box, workshop: Workshop) -> Outline:
    """The word above the ink, in the colour of what is left alone, or else engraved."""
    key = workshop.ticket.key
    wanted = [Operation.LEAVE, Operation.ENGRAVE] if key else []
    colour = next((c for operation in wanted for c, meaning in key.items() if meaning is operation), None)
    if key and colour is None:
        raise StepRefused("mirror", "the ticket's key has no colour for a mark that isn't cut")
    look = Appearance(fill=colour or "#000000")
    run = Run(MARK, FaceQuery(("Barlow",)), MARK_MM / 0.7, look, at=((box[0] + box[2]) / 2, box[1] - MARK_MM))
    setting = set_lettering(Lettering("mark", (run,), anchor="middle"), Shelf(bundled_faces()))
    path = concat([glyph.path() for glyph in setting.glyphs])
    return Outline(sheet.fresh_id("mirrored-mark"), path, look, "Mirrored", reads=Reads.EITHER)


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
            raise StaleTarget(name, say("“{item_id}” is no longer on the sheet", item_id=item_id))


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
    evidence = Placed(
        items=len(leaves(sheet, items)) if items else len(moved.outlines()) + len(moved.letterings()),
        left_mm=round(after[0], 4),
        top_mm=round(after[1], 4),
        width_mm=round(after[2] - after[0], 4),
        height_mm=round(after[3] - after[1], 4),
    )
    worked = items or tuple(item.id for item in sheet.items)
    return Outcome(moved, worked, evidence, moves=moving(sheet, items, matrix))
