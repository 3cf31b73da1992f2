"""What can be taken hold of on the table while a step is being set, as the step itself says."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from unkelt.errors import LengthError, StepRefused
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.recipe import Call
from unkelt.sheet.model import Item, Lettering, Outline, Sheet
from unkelt.steps.grip import Handle, Handles, InHand
from unkelt.steps.steps import STEPS
from unkelt.units import parse_length


def handles(call: Call | None, sheet: Sheet, workshop: Workshop, picked: str = "") -> Handles:
    """The handles of a step as it is set; none for steps that are set by numbers and words alone. A node that is
    `picked` shows its own handles.
    """
    grip = STEPS[call.name].grip if call else None
    if call is None or grip is None:
        return Handles()
    try:
        held = _in_hand(call, sheet, workshop, picked)
        return grip.handles(held) if held else Handles()
    except (LengthError, ValueError, TypeError, StepRefused):  # an option that can't be read has no place
        return Handles()


def dragged(
    call: Call,
    handle: Handle,
    to: tuple[float, float],
    sheet: Sheet,
    workshop: Workshop,
    along: Sequence[Handle] = (),
) -> dict[str, str]:
    """The options, as a person would write them, with which the handle lies at this place of the sheet; other nodes
    that are picked move `along`.
    """
    grip, held = STEPS[call.name].grip, _in_hand(call, sheet, workshop)
    return grip.dragged(held, handle, to, along) if grip and held else {}


def pointed(call: Call, at: tuple[float, float], sheet: Sheet, workshop: Workshop) -> dict[str, str]:
    """The options, as a person would write them, that a click at a place gives a step whose other thing it names."""
    grip, held = STEPS[call.name].grip, _in_hand(call, sheet, workshop)
    return grip.pointed(held, at) if grip and grip.pointed and held else {}


def _in_hand(call: Call, sheet: Sheet, workshop: Workshop, picked: str = "") -> InHand | None:
    """Raises LengthError where a length can't be read."""
    named = call.items or [item.id for item in sheet.walk()]
    chosen = [item for name in named if (item := sheet.find(name)) is not None]
    box = _box(chosen, workshop)
    if box is None:
        return None
    options = {}
    for each in STEPS[call.name].parameters:
        value = call.options.get(each.name, each.default)
        options[each.name] = parse_length(value) if each.kind == "length" and isinstance(value, str) else value
    return InHand(options, tuple(chosen), box, sheet, workshop, picked)


def aligned(
    places: Sequence[Handle], moving: Sequence[str], x: float, y: float, reach_mm: float
) -> tuple[float, float]:
    """A place that falls in line with a node across or down, where one that isn't moving is within reach."""
    others = [place for place in places if place.node and place.name not in moving]
    xs = min((p.x for p in others), key=lambda value: abs(value - x), default=x)
    ys = min((p.y for p in others), key=lambda value: abs(value - y), default=y)
    return (xs if abs(xs - x) <= reach_mm else x), (ys if abs(ys - y) <= reach_mm else y)


def encircled(places: Sequence[Handle], ring: Sequence[tuple[float, float]]) -> tuple[str, ...]:
    """The nodes within a frame or lasso, which is given by its corners in mm."""
    nodes = [place for place in places if place.node]
    if len(ring) < 3 or not nodes:
        return ()
    inside = shapely.intersects_xy(shapely.make_valid(shapely.Polygon(ring)), [(p.x, p.y) for p in nodes])
    return tuple(place.name for place, within in zip(nodes, inside, strict=True) if within)


def _box(items: list[Item], workshop: Workshop) -> Box | None:
    boxes = []
    for item in items:
        if isinstance(item, Outline):
            boxes.append(bounds(item.path))
        elif isinstance(item, Lettering):
            boxes.append(set_lettering(item, workshop.shelf).ink(item.placement))
    return join_boxes([box for box in boxes if box])
