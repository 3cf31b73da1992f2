"""`spokes` and `grid`: copies about a centre and in rows."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated

from fontTools.misc.transform import Identity, Transform

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.measure import Box
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.change import leaves, transformed
from unkelt.sheet.model import Group, Item, Outline, Reads, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import Grip, Handle, Handles, InHand, written_mm
from unkelt.steps.place import check_items, ink_box
from unkelt.steps.step import Field, On, Outcome, Purpose, step

MOST, MOST_SPOKES = 10_000, 720


@dataclass(frozen=True, kw_only=True)
class Spread(Evidence):
    """Copies around a centre, and the angle between neighbours."""

    copies: int
    angle_deg: float

    def caption(self) -> str:
        return say_count("{count} copy", "{count} copies", self.copies)


@dataclass(frozen=True, kw_only=True)
class Gridded(Evidence):
    """Copies side by side, and the size of all (mm)."""

    copies: int
    width_mm: float
    height_mm: float

    def caption(self) -> str:
        return say_count("{count} copy", "{count} copies", self.copies)


NEAR_MM = 0.1
"""Nearer to the centre than this, ink has no direction from it."""


def _about(held: InHand) -> tuple[float, float]:
    page = held.sheet.page_mm
    return page[0] / 2 if held["x"] is None else held["x"], page[1] / 2 if held["y"] is None else held["y"]


def _spoke_handles(held: InHand) -> Handles:
    """The centre, the nearest ink above it, and where the next copy stands."""
    (cx, cy), (mx, my) = _about(held), held.middle
    near = held.box[3] if held["distance"] is None else cy - held["distance"]
    right, down = mx - cx, my + near - held.box[3] - cy
    places = [Handle("place", cx, cy, "the centre"), Handle("distance", mx, near, "how far from the centre")]
    if math.hypot(right, down) > NEAR_MM:
        x, y = Identity.rotate(math.tau / max(held["count"], 2)).transformPoint((right, down))
        places.append(Handle("count", cx + x, cy + y, "where the next copy stands"))
    return Handles(tuple(places))


def _spokes_dragged(held: InHand, handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
    cx, cy = _about(held)
    match handle.name:
        case "place":
            return {"x": written_mm(to[0]), "y": written_mm(to[1])}
        case "distance":
            return {"distance": written_mm(max(cy - to[1], 0.0))}
        case _:
            near = held.box[3] if held["distance"] is None else cy - held["distance"]
            first = math.atan2(held.middle[1] + near - held.box[3] - cy, held.middle[0] - cx)
            angle = (math.atan2(to[1] - cy, to[0] - cx) - first) % math.tau
            return {"count": str(min(max(round(math.tau / max(angle, math.tau / MOST_SPOKES)), 2), MOST_SPOKES))}


@step(
    "spokes",
    "Copy around a centre",
    on=On.OUTLINES,
    purpose=Purpose.LAYOUT,
    redraws=Reason.MADE,
    grip=Grip(_spoke_handles, _spokes_dragged),
)
def spokes(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    count: Annotated[int, "number of copies in all; six are 60° apart", Field("Copies in all", first=True)] = 6,
    x: Annotated[float | None, "the centre; without it, the middle of the page", Field("Centre x")] = None,
    y: Annotated[float | None, "the centre, from the top of the page", Field("Centre y")] = None,
    distance: Annotated[
        float | None, "from the centre to the nearest ink; without it, as now", Field("From the centre", first=True)
    ] = None,
    mirrored: Annotated[
        bool, "every second copy is mirrored about its spoke; the count must be even", Field("Mirror every second")
    ] = False,
) -> Outcome:
    """Turns copies of the named items, or of all items, about a centre, at equal angles. Each copy is exactly like
    the first, or its mirror image. Copies that meet overlap until you weld them.
    """
    if not 2 <= count <= MOST_SPOKES:
        raise StepRefused("spokes", say("the count must be from 2 to {most}", most=MOST_SPOKES))
    if mirrored and count % 2:
        raise StepRefused("spokes", "an odd count can't alternate with its mirror image")
    chosen, box = chosen_to_copy("spokes", sheet, items, workshop)
    cx = sheet.page_mm[0] / 2 if x is None else x
    cy = sheet.page_mm[1] / 2 if y is None else y
    shift = Identity if distance is None else Identity.translate(0, cy - distance - box[3])
    after = transformed(sheet, shift, strokes=False, items=[item.id for item in chosen])
    if mirrored:  # an ornament and its mirror image are right either way
        ids = leaves(sheet, [item.id for item in chosen])
        after = after.mapped(
            lambda each: replace(each, reads=Reads.EITHER) if isinstance(each, Outline) and each.id in ids else each
        )
        chosen = [_either_way(item) for item in chosen]
    for number in range(1, count):
        turn = Identity.translate(cx, cy).rotate(math.tau * number / count)
        if mirrored and number % 2:  # about the line from the centre through the middle of the ink
            spoke = math.atan2((box[1] + box[3]) / 2 + shift.dy - cy, (box[0] + box[2]) / 2 - cx)
            turn = turn.rotate(spoke).scale(1, -1).rotate(-spoke)
        turn = turn.translate(-cx, -cy).transform(shift)
        after = with_copy(after, chosen, turn)
    return Outcome(after, tuple(item.id for item in chosen), Spread(copies=count - 1, angle_deg=round(360 / count, 4)))


@step("grid", "Copy in rows", on=On.OUTLINES, purpose=Purpose.LAYOUT, redraws=Reason.MADE)
def grid(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    columns: Annotated[
        int, "number of columns; 0 fills the width of the bed or page", Field("Columns", first=True)
    ] = 2,
    rows: Annotated[int, "number of rows; 0 fills the height", Field("Rows", first=True)] = 1,
    gap: Annotated[float, "gap between the ink of neighbours", Field("Gap", first=True)] = 3.0,
) -> Outcome:
    """Copies the named items, or all items, into columns and rows. Each copy is exactly like the first."""
    chosen, box = chosen_to_copy("grid", sheet, items, workshop)
    width, height = box[2] - box[0] + gap, box[3] - box[1] + gap
    bed = workshop.ticket.machine.bed_mm or sheet.page_mm
    columns = columns or max(1, math.floor((bed[0] - box[0] + gap) / width))
    rows = rows or max(1, math.floor((bed[1] - box[1] + gap) / height))
    if not 2 <= columns * rows <= MOST or gap < 0:
        raise StepRefused(
            "grid", say("there must be from 2 to {most:,} in all, and the gap can't be negative", most=MOST)
        )
    after = sheet
    for number in range(1, columns * rows):
        row, column = divmod(number, columns)
        after = with_copy(after, chosen, Transform(1, 0, 0, 1, column * width, row * height))
    size = (columns * width - gap, rows * height - gap)
    evidence = Gridded(copies=columns * rows - 1, width_mm=round(size[0], 3), height_mm=round(size[1], 3))
    return Outcome(after, tuple(item.id for item in chosen), evidence)


def _either_way(item: Item) -> Item:
    if isinstance(item, Group):
        return replace(item, items=tuple(_either_way(inner) for inner in item.items))
    return replace(item, reads=Reads.EITHER) if isinstance(item, Outline) else item


def chosen_to_copy(name: str, sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> tuple[list[Item], Box]:
    """The named items, or all, and the box of their ink (mm). Raises StepRefused where there is none."""
    check_items(name, sheet, items)
    box = ink_box(sheet, items, workshop)
    chosen = [item for item in sheet.walk() if item.id in items] if items else list(sheet.items)
    if box is None or not chosen:
        raise StepRefused(name, "there is nothing here to copy")
    return chosen, box


def with_copy(sheet: Sheet, items: list[Item], matrix: Transform, *, named: bool = False) -> Sheet:
    """The sheet with a copy of the items, moved, above all else; ids are made new, and with `named` the names too."""
    taken = {item.id for item in sheet.walk()}

    copy = f"{len(taken)}"  # more with every copy

    def renamed(item: Item) -> Item:
        number, name = 2, f"{item.id}-2"
        while name in taken:
            number += 1
            name = f"{item.id}-{number}"
        taken.add(name)
        if named and item.label:
            item = replace(item, label=f"{item.label} {number}")
        if isinstance(item, Group):
            return replace(item, id=name, items=tuple(renamed(inner) for inner in item.items))
        return replace(item, id=name, copy=copy) if isinstance(item, Outline) else replace(item, id=name)

    copies = tuple(renamed(item) for item in items)
    return replace(sheet, items=(*sheet.items, *transformed(Sheet(sheet.page_mm, copies), matrix, strokes=False).items))
