"""The frame around what is chosen: what its handles do to it, and where what is dragged is caught.

A gesture is a matrix, to be shown while one drags, and the step that it becomes when one lets go. Both are made of the
same rounded numbers.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from fontTools.misc.transform import Identity, Transform

from unkelt.geometry.measure import Box, join_boxes
from unkelt.recipe import Call
from unkelt.session.snapping import Axis, GuideLine
from unkelt.steps.grip import written_mm
from unkelt.steps.scale import fixed_point, scaling

INSIDE, TURN = "inside", "turn"
OPPOSITE = {
    "left": "right",
    "right": "left",
    "top": "bottom",
    "bottom": "top",
    "top-left": "bottom-right",
    "top-right": "bottom-left",
    "bottom-left": "top-right",
    "bottom-right": "top-left",
}
"""Each handle that sizes, and the point that stays in place meanwhile."""

LEAST = 0.01
"""Nothing becomes smaller than this share of what it was in one drag."""

TURNS_DEG = 15.0
"""Turns go by so many degrees where that is asked for, by tenths of one otherwise."""


@dataclass(frozen=True, slots=True)
class Keys:
    """What is held down during a drag: `shift` frees or keeps proportions, or turns by steps; `copy` leaves the
    original where it is; `loose` lets nothing catch it.
    """

    shift: bool = False
    copy: bool = False
    loose: bool = False


@dataclass(frozen=True, slots=True)
class Catches:
    """Where what is dragged is caught, in mm: upright lines at `xs`, level ones at `ys`, within `reach`."""

    xs: tuple[float, ...] = ()
    ys: tuple[float, ...] = ()
    reach: float = 0.0

    @classmethod
    def of(
        cls, boxes: Iterable[Box], page_mm: tuple[float, float], guides: Sequence[GuideLine], reach: float
    ) -> Catches:
        """Guide lines, the edges and middles of other ink, and those of the page."""
        xs = [guide.mm for guide in guides if guide.axis == "x"] + [0.0, page_mm[0] / 2, page_mm[0]]
        ys = [guide.mm for guide in guides if guide.axis == "y"] + [0.0, page_mm[1] / 2, page_mm[1]]
        for x0, y0, x1, y1 in boxes:
            xs += [x0, (x0 + x1) / 2, x1]
            ys += [y0, (y0 + y1) / 2, y1]
        return cls(tuple(xs), tuple(ys), reach)

    def shift(self, axis: Axis, places: Sequence[float]) -> tuple[float, float | None]:
        """How far to move so that the nearest of some places is caught, and where; nothing where none is within
        reach.
        """
        lines = self.xs if axis == "x" else self.ys
        near = [(abs(line - place), line - place, line) for place in places for line in lines]
        found = min(near, default=None)
        return (found[1], found[2]) if found is not None and found[0] <= self.reach else (0.0, None)


@dataclass(frozen=True, slots=True)
class Gesture:
    """What a drag would do: the matrix, the step with its options, what caught it, and a few words to show beside it.
    Without a step nothing happens.
    """

    matrix: Transform = Identity
    step: str = ""
    options: Mapping[str, object] | None = None
    caught: tuple[GuideLine, ...] = ()
    words: str = ""

    def call(self, items: tuple[str, ...]) -> Call | None:
        """The step, for these items."""
        return Call(self.step, items, None, dict(self.options or {})) if self.step else None


def grips(box: Box) -> dict[str, tuple[float, float]]:
    """The handles of a frame by name, and where they lie (mm). The one that turns stands apart: see `turn_grip`."""
    return {name: fixed_point(box, name) for name in OPPOSITE}


def frame_of(boxes: Sequence[Box]) -> Box | None:
    """The frame around boxes."""
    return join_boxes(list(boxes))


def gesture(
    box: Box, grip: str, start: tuple[float, float], to: tuple[float, float], keys: Keys, catches: Catches
) -> Gesture:
    """What dragging a handle from one place to another does to what is in a frame."""
    if grip == INSIDE:
        return _move(box, to[0] - start[0], to[1] - start[1], keys, catches)
    if grip == TURN:
        return _turn(box, start, to, keys)
    return _size(box, grip, to, keys, catches)


def _move(box: Box, dx: float, dy: float, keys: Keys, catches: Catches) -> Gesture:
    if keys.shift:  # along one axis only
        dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
    caught: list[GuideLine] = []
    if not keys.loose:
        for axis, low, high, way in (("x", box[0], box[2], dx), ("y", box[1], box[3], dy)):
            if keys.shift and way == 0.0:
                continue
            places = [low + way, (low + high) / 2 + way, high + way]
            shift, line = catches.shift("x" if axis == "x" else "y", places)
            if line is not None:
                caught.append(GuideLine("x" if axis == "x" else "y", line))
            dx, dy = (dx + shift, dy) if axis == "x" else (dx, dy + shift)
    dx, dy = round(dx, 3) + 0.0, round(dy, 3) + 0.0
    if dx == dy == 0 and not keys.copy:
        return Gesture()
    options = {name: f"{value:g} mm" for name, value in (("right", dx), ("down", dy)) if value or keys.copy}
    words = f"{dx:+.2f}, {dy:+.2f}"
    return Gesture(Transform(1, 0, 0, 1, dx, dy), "duplicate" if keys.copy else "move", options, tuple(caught), words)


def _turn(box: Box, start: tuple[float, float], to: tuple[float, float], keys: Keys) -> Gesture:
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    was, now = (math.atan2(py - y, px - x) for px, py in (start, to))
    angle = math.degrees(now - was)
    angle = round(angle / TURNS_DEG) * TURNS_DEG if keys.shift else round(angle, 1)
    angle = round((angle + 180) % 360 - 180, 1)
    if angle == 0:
        return Gesture()
    matrix = Identity.translate(x, y).rotate(math.radians(angle)).translate(-x, -y)
    return Gesture(matrix, "rotate", {"angle": angle}, (), f"{angle:+g}°")


def _size(box: Box, grip: str, to: tuple[float, float], keys: Keys, catches: Catches) -> Gesture:
    """A corner keeps proportions, a side stretches; with Shift it is the other way round."""
    fixed = OPPOSITE[grip]
    fx, fy = fixed_point(box, fixed)
    gx, gy = fixed_point(box, grip)
    width, height = box[2] - box[0], box[3] - box[1]
    corner = "-" in grip
    caught: list[GuideLine] = []
    x, y = to
    if not keys.loose:
        if corner or grip in ("left", "right"):
            shift, line = catches.shift("x", [x])
            x, caught = x + shift, [*caught, *([GuideLine("x", line)] if line is not None else [])]
        if corner or grip in ("top", "bottom"):
            shift, line = catches.shift("y", [y])
            y, caught = y + shift, [*caught, *([GuideLine("y", line)] if line is not None else [])]
    across = (x - fx) / (gx - fx) if gx != fx else 1.0
    down = (y - fy) / (gy - fy) if gy != fy else 1.0
    even = corner != keys.shift
    if even and corner:  # the way along the diagonal
        along = (x - fx) * (gx - fx) + (y - fy) * (gy - fy)
        across = down = along / ((gx - fx) ** 2 + (gy - fy) ** 2 or 1.0)
        caught = []
    elif even:
        across = down = across if grip in ("left", "right") else down
    across, down = max(across, LEAST), max(down, LEAST)
    wide, high = round(width * across, 3), round(height * down, 3)
    options: dict[str, object] = {}
    if width > 0 and (across != 1 or even):
        options["width"], across = f"{wide:g} mm", wide / width
    if height > 0 and (down != 1 or even) and not (even and "width" in options):
        options["height"], down = f"{high:g} mm", high / height
    if even:
        across = down = across if "width" in options else down
    elif len(options) == 1:
        options["uneven"] = True
    if not options or across == down == 1:
        return Gesture()
    options["fixed"] = fixed
    words = f"{width * across:.2f} × {height * down:.2f}"
    return Gesture(scaling(box, fixed, across, down), "scale", options, tuple(caught), words)


def nudge(right: float, down: float, before: Call | None, items: tuple[str, ...]) -> tuple[Call | None, bool]:
    """A move by a key, joined to the last step where that moved the same items. The call, which is None where both
    together move nothing; and whether it takes the last step's place.
    """
    joins = before is not None and before.name == "move" and before.items == items and before.rule is None
    if joins and before is not None:
        right += _mm(before.options.get("right"))
        down += _mm(before.options.get("down"))
    right, down = round(right, 6) + 0.0, round(down, 6) + 0.0
    options = {name: written_mm(value) for name, value in (("right", right), ("down", down)) if value}
    return (Call("move", items, None, options) if options else None), joins


def _mm(text: object) -> float:
    return float(str(text).removesuffix(" mm")) if text is not None else 0.0
