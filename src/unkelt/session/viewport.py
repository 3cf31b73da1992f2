"""Where on the sheet one looks: the map between millimetres and pixels, zooming, and the ticks of the rulers."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from unkelt.geometry.cache import TopicOfObjects
from unkelt.geometry.measure import Box
from unkelt.geometry.path import LINE, Bools, Floats, Ints, Path, concat
from unkelt.language import figures
from unkelt.session.reading import MM, Unit
from unkelt.survey.finding import Finding

CLOSEST, FARTHEST = 5000.0, 0.01
"""Pixels a millimetre at most and at least."""
RULER_APART_PX = 62.0
"""The figures of a ruler stand at least so far apart."""


@dataclass(frozen=True, slots=True)
class Viewport:
    """`scale` in pixels a mm; (x, y) is the place on the sheet, in mm, under the window's top left pixel."""

    width_px: float
    height_px: float
    scale: float = 1.0
    x: float = 0.0
    y: float = 0.0

    @property
    def percent(self) -> float:
        """The zoom, 100 where a millimetre of the sheet is one of a screen of 96 pixels to the inch."""
        return self.scale * 25.4 / 96 * 100

    @property
    def decimals(self) -> int:
        """How many decimals of a millimetre a pixel tells apart."""
        return max(0, math.ceil(math.log10(self.scale)))

    def to_px(self, x_mm: float, y_mm: float) -> tuple[float, float]:
        """Where a place in mm is shown."""
        return (x_mm - self.x) * self.scale, (y_mm - self.y) * self.scale

    def to_mm(self, x_px: float, y_px: float) -> tuple[float, float]:
        """Which place is shown at a point in pixels."""
        return x_px / self.scale + self.x, y_px / self.scale + self.y

    def where(self, made: Viewport) -> tuple[float, float, float, float]:
        """Where a picture made in another view lies in this one, as (left, top, width, height) in pixels."""
        x0, y0 = self.to_px(made.x, made.y)
        x1, y1 = self.to_px(*made.to_mm(made.width_px, made.height_px))
        return x0, y0, x1 - x0, y1 - y0

    def line(self, points: Floats) -> list[list[float]]:
        """A polyline (p, 2) in mm as pixels, without points that can't be told from the one before."""
        px = (points - (self.x, self.y)) * self.scale
        cell = np.round(px * 2)
        told = np.append(True, (cell[1:] != cell[:-1]).any(axis=1))
        told[-1] = True
        return px[told].tolist()

    def seen(self, boxes: Floats) -> Ints:
        """Which of some boxes (n, 4) in mm lie in the window, at least in part, or a few pixels beside it."""
        margin = 12 / self.scale
        x1, y1 = self.to_mm(self.width_px, self.height_px)
        low = (boxes[:, 0] <= x1 + margin) & (boxes[:, 1] <= y1 + margin)
        high = (boxes[:, 2] >= self.x - margin) & (boxes[:, 3] >= self.y - margin)
        return np.flatnonzero(low & high)

    def middles(self, boxes: Sequence[Box], most: int) -> list[tuple[float, float]]:
        """The middles in pixels of those boxes that are in view, as many as `most`; of more, some from everywhere."""
        return [((x0 + x1) / 2, (y0 + y1) / 2) for x0, y0, x1, y1 in self._some(boxes, most)]

    def frames(self, boxes: Sequence[Box], apart_px: float, most: int) -> list[tuple[float, float, float, float]]:
        """Frames about those boxes that are in view, as (left, top, width, height) in pixels; of more than `most`,
        about some.
        """
        return [
            (x0 - apart_px, y0 - apart_px, x1 - x0 + 2 * apart_px, y1 - y0 + 2 * apart_px)
            for x0, y0, x1, y1 in self._some(boxes, most)
        ]

    def _some(self, boxes: Sequence[Box], most: int) -> list[list[float]]:
        """Boxes that are in view, in pixels; of several about one pixel the first, of more than `most` some from
        everywhere.
        """
        if not boxes:
            return []
        array = _ARRAYS.get(lambda: np.array(boxes), boxes) if len(boxes) > most else np.array(boxes)
        px = (array[self.seen(array)] - (self.x, self.y, self.x, self.y)) * self.scale
        if len(px) > most:
            across, down = ((px[:, :2] + px[:, 2:]) / 2).round().T
            _, first = np.unique(across + 1j * down, return_index=True)
            chosen = np.sort(first)
            px = px[chosen[np.unique(np.linspace(0, len(chosen) - 1, most).round().astype(np.intp))]]
        return px.tolist()

    def nodes_in(self, paths: Sequence[Path]) -> tuple[list[list[float]], list[list[float]]]:
        """The nodes in the window as [x, y] in pixels, and the stems of handles whose node is in it as [x0, y0, x1,
        y1].
        """
        whole = concat(paths)
        px = (whole.points - (self.x, self.y)) * self.scale
        inside: Bools = np.all((px > -8) & (px < (self.width_px + 8, self.height_px + 8)), axis=2)
        curved = (whole.degrees != LINE) & (inside[:, 0] | inside[:, 3])
        stems = np.concatenate([px[curved][:, (0, 1)], px[curved][:, (3, 2)]]).reshape(-1, 4)
        return px[inside[:, 3], 3].tolist(), stems.tolist()

    def grid_step(self, unit: Unit) -> float:
        """How far the lines of the grid lie apart at this scale, in mm."""
        return nice_step(RULER_APART_PX / (self.scale * unit.mm)) / 5 * unit.mm

    def resized(self, width_px: float, height_px: float) -> Viewport:
        """The same middle in another size of window."""
        dx, dy = (self.width_px - width_px) / 2 / self.scale, (self.height_px - height_px) / 2 / self.scale
        return replace(self, width_px=width_px, height_px=height_px, x=self.x + dx, y=self.y + dy)

    def zoomed(self, factor: float, x_px: float | None = None, y_px: float | None = None) -> Viewport:
        """Larger or smaller about a pixel that stays on its place; about the middle without one."""
        x_px, y_px = self.width_px / 2 if x_px is None else x_px, self.height_px / 2 if y_px is None else y_px
        scale = min(CLOSEST, max(FARTHEST, self.scale * factor))
        x_mm, y_mm = self.to_mm(x_px, y_px)
        return replace(self, scale=scale, x=x_mm - x_px / scale, y=y_mm - y_px / scale)

    def at_scale(self, scale: float) -> Viewport:
        """The same middle at so many pixels a millimetre."""
        return self.zoomed(scale / self.scale)

    def panned(self, dx_px: float, dy_px: float) -> Viewport:
        """The view after the sheet was dragged by so many pixels."""
        return replace(self, x=self.x - dx_px / self.scale, y=self.y - dy_px / self.scale)

    def centred(self, box: Box, *, left: bool = False) -> Viewport:
        """A box in the middle at the scale as it is, or with its left side at the left edge."""
        x = box[0] if left else (box[0] + box[2]) / 2 - self.width_px / self.scale / 2
        return replace(self, x=x, y=(box[1] + box[3]) / 2 - self.height_px / self.scale / 2)

    def fitted(self, box: Box, margin_px: float = 24.0, foot_px: float = 0.0) -> Viewport:
        """All of a box in the middle of what is left above a foot."""
        width, height = max(box[2] - box[0], 1e-3), max(box[3] - box[1], 1e-3)
        room_x, room_y = max(self.width_px - 2 * margin_px, 8), max(self.height_px - foot_px - 2 * margin_px, 8)
        scale = min(CLOSEST, max(FARTHEST, min(room_x / width, room_y / height)))
        x = (box[0] + box[2]) / 2 - self.width_px / scale / 2
        y = (box[1] + box[3]) / 2 - (self.height_px - foot_px) / scale / 2
        return replace(self, scale=scale, x=x, y=y)


_ARRAYS: TopicOfObjects[Floats] = TopicOfObjects("boxes of findings", 16)
"""Boxes of findings in many places, which are asked for at every painting."""


@dataclass(frozen=True, slots=True)
class Tick:
    """A mark of a ruler: its place in pixels, and its figure where it has one."""

    at_px: float
    label: str | None


def ticks(
    start_mm: float, scale: float, extent_px: float, unit: Unit = MM, apart_px: float = RULER_APART_PX
) -> list[Tick]:
    """The marks of a ruler from `start_mm` on: figures at steps of 1, 2 or 5 at least `apart_px` apart, five
    between.
    """
    start_mm, scale = start_mm / unit.mm, scale * unit.mm  # from here on in the unit
    step = nice_step(apart_px / scale)
    small = step / 5
    first = math.floor(start_mm / small)
    last = math.ceil((start_mm + extent_px / scale) / small)
    places = max(0, -math.floor(math.log10(step) + 1e-9))
    return [
        Tick((k * small - start_mm) * scale, figures(f"{k * small + 0.0:.{places}f}") if k % 5 == 0 else None)
        for k in range(first, last + 1)
    ]


def nice_step(least: float) -> float:
    """The smallest of 1, 2, 5 times a power of ten that is not below `least`."""
    power = 10.0 ** math.floor(math.log10(least))
    return next(step for step in (power, 2 * power, 5 * power, 10 * power) if step >= least * (1 - 1e-9))


def moved_box(box: Box, right: float, down: float, factor: float = 1.0) -> Box:
    """A box moved by shares of its width and height, and made larger or smaller about its middle."""
    width, height = box[2] - box[0], box[3] - box[1]
    x, y = (box[0] + box[2]) / 2 + right * width, (box[1] + box[3]) / 2 + down * height
    half = max(width * factor, 0.01) / 2, max(height * factor, 0.01) / 2
    return x - half[0], y - half[1], x + half[0], y + half[1]


def loupe_box(finding: Finding, least_mm: float = 4.0, room: float = 1.7) -> Box | None:
    """The square that a loupe shows of a finding: its first place with what lies about it, or all of it where it has
    no single places.
    """
    box = finding.focus or (finding.marks[0] if finding.marks else finding.box)
    if box is None:
        return None
    room = room if finding.marks else 1.08
    side = max(least_mm, room * max(box[2] - box[0], box[3] - box[1]))
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    return (x - side / 2, y - side / 2, x + side / 2, y + side / 2)
