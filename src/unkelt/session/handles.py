"""What can be taken hold of on the table while a step is being set: where it lies, and what dragging it means."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import shapely

from unkelt.errors import LengthError
from unkelt.geometry.edit.edit import edited, handle_places, node_places
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.path import Path
from unkelt.job.workshop import Workshop
from unkelt.lettering.guides import circle
from unkelt.lettering.letters import glyph_boxes
from unkelt.lettering.setting import set_lettering
from unkelt.recipe import Call
from unkelt.sheet.model import Item, Lettering, Outline, Sheet
from unkelt.steps.set_on_guide import circle_of
from unkelt.steps.steps import STEPS
from unkelt.units import parse_length


@dataclass(frozen=True, slots=True)
class Handle:
    """A place on the sheet, in mm, that can be dragged; `words` say what for. A node is drawn small, and an arm on a
    stem from its node at `stem`.
    """

    name: str
    x: float
    y: float
    words: str
    node: bool = False
    stem: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Handles:
    """What can be dragged, and a line to be seen with it: a circle that text is set on, the way a thing is moved."""

    places: tuple[Handle, ...] = ()
    line: Path | None = None


def handles(call: Call | None, sheet: Sheet, workshop: Workshop, picked: str = "") -> Handles:
    """The handles of a step as it is set; none for steps that are set by numbers and words alone. A node that is
    `picked` shows its own handles.
    """
    chosen = [item for name in call.items if (item := sheet.find(name)) is not None] if call else []
    box = _box(chosen, workshop)
    if call is None or box is None:
        return Handles()
    try:
        return _handles(call, chosen, box, sheet, workshop, picked)
    except (LengthError, ValueError, TypeError):  # an option that can't be read has no place
        return Handles()


def _handles(call: Call, chosen: list[Item], box: Box, sheet: Sheet, workshop: Workshop, picked: str) -> Handles:
    get = _reader(call)
    middle = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    text = chosen[0] if isinstance(chosen[0], Lettering) else None
    match call.name:
        case "set-on-guide" if text and get("shape") == "circle" and get("radius") > 0:
            radius, turn = get("radius"), math.radians(get("around"))
            x, y = circle_of(text, workshop, radius, get("around"), get("x"), get("y"))
            rim = x + radius * math.sin(turn), y - radius * math.cos(turn)
            places = (
                Handle("centre", x, y, "the circle's centre"),
                Handle("rim", *rim, "radius, and where on the circle"),
            )
            return Handles(places, circle(x, y, radius, 0.0, True))
        case "move":
            return Handles((Handle("to", middle[0] + get("right"), middle[1] + get("down"), "where its middle goes"),))
        case "hang-ring" | "spokes" | "rotate":
            usual = {"hang-ring": (middle[0], box[1]), "spokes": (sheet.page_mm[0] / 2, sheet.page_mm[1] / 2)}
            x, y = usual.get(call.name, middle)
            words = "the hole's middle" if call.name == "hang-ring" else "the centre"
            place = x if get("x") is None else get("x"), y if get("y") is None else get("y")
            return Handles((Handle("place", *place, words),))
        case "edit-nodes" if isinstance(chosen[0], Outline):
            return _node_handles(chosen[0].path, str(get("edits")), picked)
        case "set-letters" if text:
            boxes = {str(first + 1): box for _, first, box in glyph_boxes(text, workshop.shelf)}
            if letter := boxes.get(str(get("letters")).strip()):
                x, y = (letter[0] + letter[2]) / 2 + get("shift"), (letter[1] + letter[3]) / 2 - get("lift")
                return Handles((Handle("letter", x, y, "this letter alone"),))
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
    get = _reader(call)
    dx, dy = to[0] - handle.x, to[1] - handle.y
    match call.name, handle.name:
        case "set-on-guide", "centre":
            return {"x": _mm(to[0]), "y": _mm(to[1])}
        case "set-on-guide", "rim":
            text = sheet.find(call.items[0])
            assert isinstance(text, Lettering)
            x, y = circle_of(text, workshop, get("radius"), get("around"), get("x"), get("y"))
            around = math.degrees(math.atan2(to[0] - x, y - to[1])) % 360
            radius = math.hypot(to[0] - x, to[1] - y)
            return {"radius": _mm(radius), "around": f"{round(around, 1) % 360:g}", "x": _mm(x), "y": _mm(y)}
        case "move", _:
            return {"right": _mm(get("right") + dx), "down": _mm(get("down") + dy)}
        case (("hang-ring" | "spokes" | "rotate"), _):
            return {"x": _mm(to[0]), "y": _mm(to[1])}
        case "edit-nodes", name:
            if " " in name:
                word, node = name.split(" ")
                return {"edits": with_edit(str(get("edits")), f"{word} {node} {to[0]:.3f} {to[1]:.3f}")}
            others = [each for each in along if each.node and each.name != name]
            moves = [f"move {each.name} {each.x + dx:.3f} {each.y + dy:.3f}" for each in others]
            return {"edits": with_edit(str(get("edits")), *moves, f"move {name} {to[0]:.3f} {to[1]:.3f}")}
        case "set-letters", _:
            return {"shift": _mm(get("shift") + dx), "lift": _mm(get("lift") - dy)}
    return {}


MOST_NODES = 1500
"""More handles than this would hide the line they belong to."""


def _node_handles(path: Path, edits: str, picked: str) -> Handles:
    """The nodes as they now are, and the handles of the one that is picked, or was edited last; the line as it now
    runs.
    """
    done = [edit for edit in edits.split(";") if edit.strip()]
    for edit in done:
        path = edited(path, edit)
    places = [Handle(name, x, y, f"node {name}", node=True) for name, x, y in node_places(path)][:MOST_NODES]
    node = picked or (_edited_node(done[-1]) if done else "")
    stems = [(place.x, place.y) for place in places if place.name == node]
    if stems:
        arms = handle_places(path, node)
        places = [*(Handle(f"{way} {node}", x, y, "its handle", stem=stems[0]) for way, x, y in arms), *places]
    return Handles(tuple(places), path)


def _edited_node(edit: str) -> str:
    words = edit.split()
    return words[1] if len(words) > 1 and words[0] in ("move", "in", "out", "smooth", "corner", "add") else ""


def with_edit(edits: str, *new: str) -> str:
    """The edits with some more; those that only place the same nodes or handles again take their place."""
    done = [edit.strip() for edit in edits.split(";") if edit.strip()]
    heads = [edit.split()[:2] for edit in new]
    if [edit.split()[:2] for edit in done[-len(new) :]] == heads and all(h[0] in ("move", "in", "out") for h in heads):
        done = done[: -len(new)]
    return "; ".join([*done, *new])


def edits_of(word: str, nodes: Sequence[str]) -> list[str]:
    """One edit for each of these nodes; nodes are taken out from the last on, so that the others keep their numbers."""
    if word == "join":
        return [f"join {' '.join(nodes[:2])}"] if len(nodes) > 1 else []
    if word == "reverse":
        return [f"reverse {number}" for number in dict.fromkeys(node.split(":")[0] for node in nodes)]
    ordered = sorted(
        nodes, key=lambda node: tuple(map(int, node.split(":"))), reverse=word in ("take-out", "add", "split")
    )
    return [f"{word} {node}" for node in ordered]


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


def _mm(value: float) -> str:
    return f"{round(value, 2) + 0.0:g} mm"


def _reader(call: Call) -> Any:
    """The value of an option by its name: as given, in mm and degrees, else the step's own."""
    known = {parameter.name: parameter for parameter in STEPS[call.name].parameters}
    options: Mapping[str, Any] = call.options

    def get(name: str) -> Any:
        value = options.get(name, known[name].default)
        return parse_length(value) if known[name].kind == "length" and isinstance(value, str) else value

    return get


def _box(items: list[Item], workshop: Workshop) -> Box | None:
    boxes = []
    for item in items:
        if isinstance(item, Outline):
            boxes.append(bounds(item.path))
        elif isinstance(item, Lettering):
            boxes.append(set_lettering(item, workshop.shelf).ink(item.placement))
    return join_boxes([box for box in boxes if box])
