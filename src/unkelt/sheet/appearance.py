"""How an item is painted. Colours are kept as plain "#rrggbb", the one form that all importers read."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Literal

from unkelt.messages import say


class Operation(StrEnum):
    """What the machine does along or within an outline."""

    CUT = "cut"
    SCORE = "score"
    ENGRAVE = "engrave"
    LEAVE = "leave"


DEFAULT_STROKE_MM = 25.4 / 96
"""One pixel of CSS: the width of an unstyled stroke, and of an outline without one."""


def uneven_pen(xx: float, xy: float, yx: float, yy: float) -> tuple[float, float, float, float] | None:
    """The matrix that shapes a stroke, scaled to determinant 1; None where it only turns, mirrors and scales evenly."""
    size = abs(xx) + abs(xy) + abs(yx) + abs(yy)
    determinant = xx * yy - xy * yx
    even = abs(math.hypot(xx, xy) - math.hypot(yx, yy)) <= 1e-6 * size
    if determinant == 0 or (even and abs(xx * yx + xy * yy) <= 1e-6 * size * size):
        return None
    k = 1 / math.sqrt(abs(determinant))
    return xx * k, xy * k, yx * k, yy * k


@dataclass(frozen=True, slots=True)
class Paint:
    """A colour as "#rrggbb" and how opaque it is, from 0 (excluded: that paints nothing) to 1. A paint is a material of
    its own.
    """

    colour: str
    opacity: float = 1.0

    @property
    def opaque(self) -> bool:
        """Whether it hides what lies beneath."""
        return self.opacity >= 1.0

    @property
    def name(self) -> str:
        """The paint for people: "#d22f27", or "#d22f27 at 25 %" where it is translucent."""
        return (
            self.colour
            if self.opaque
            else say("{colour} at {opacity:.3g} %", colour=self.colour, opacity=100 * self.opacity)
        )


Side = Literal["centre", "inside", "outside"]


@dataclass(frozen=True, slots=True)
class Appearance:
    """Fill and stroke are "#rrggbb", or None for no paint; the stroke width is in mm. What is not `visible` is in the
    file but not shown. `opacity` is that of the whole item; fill and stroke may have one of their own besides. The
    stroke lies above the fill, or below it where `stroke_below` says so (SVG 2, paint-order). `pen` is the matrix (a,
    b, c, d), of determinant 1, that shapes the stroke where its transform was skewed or uneven: its true outline is
    that of a round line drawn with such a pen. `stroke_side` says where the stroke's whole width lies: on both sides of
    the line, or `inside` or `outside` of what it encloses.
    """

    fill: str | None = "#000000"
    stroke: str | None = None
    stroke_width_mm: float = DEFAULT_STROKE_MM
    line_join: str = "miter"
    line_cap: str = "butt"
    mitre_limit: float = 4.0
    opacity: float = 1.0
    even_odd: bool = False
    visible: bool = True
    dashes_mm: tuple[float, ...] = ()
    dash_offset_mm: float = 0.0
    pen: tuple[float, float, float, float] | None = None
    fill_opacity: float = 1.0
    stroke_opacity: float = 1.0
    stroke_below: bool = False
    stroke_side: Side = "centre"

    @property
    def fill_paint(self) -> Paint | None:
        """What the fill is seen as; None where nothing is seen of it."""
        return self._seen(self.fill, self.fill_opacity)

    @property
    def stroke_paint(self) -> Paint | None:
        """What the stroke is seen as; None where nothing is seen of it."""
        return self._seen(self.stroke, self.stroke_opacity)

    @property
    def shown(self) -> bool:
        """Whether anything is seen of the item."""
        return self.fill_paint is not None or self.stroke_paint is not None

    @property
    def painted(self) -> Appearance:
        """As far as it is painted: how wide a line would be says nothing where none is drawn, and a file doesn't keep
        it. Two outlines look alike where this is the same.
        """
        look = self
        if look.stroke is None:
            look = replace(_NO_STROKE, fill=look.fill, fill_opacity=look.fill_opacity, even_odd=look.even_odd)
            look = replace(look, opacity=self.opacity, visible=self.visible)
        return look if look.fill is not None else replace(look, fill_opacity=1.0, even_odd=False)

    def _seen(self, colour: str | None, share: float) -> Paint | None:
        opacity = self.opacity * share
        return Paint(colour, opacity) if colour is not None and self.visible and opacity > 0 else None

    @property
    def colour(self) -> str | None:
        """The colour that tells the operation: the stroke's where there is one, else the fill's."""
        return self.stroke or self.fill


_NO_STROKE = Appearance(stroke=None)


def has_visible_stroke(look: Appearance, hairline_mm: float, keyed: bool) -> bool:
    """Whether a stroke is thickness that people see and no machine follows.

    A line no wider than the hairline is a line. So is an unfilled one of any width where a key of colours says what it
    is for (`keyed`): it is too wide a line then, not a shape.
    """
    if look.stroke_paint is None or (keyed and look.fill is None and look.stroke_side == "centre"):
        return False
    return look.stroke_width_mm > hairline_mm * 1.001


def stroke_reach(look: Appearance) -> float:
    """How far a stroke may reach beyond its line, with its caps and the tips of its mitres, in mm; 0 for no stroke."""
    if look.stroke_paint is None:
        return 0.0
    stretch = 1.0
    if look.pen is not None:  # the greater singular value of a matrix of determinant 1
        half = sum(value * value for value in look.pen) / 2
        stretch = math.sqrt(half + math.sqrt(max(0.0, half * half - 1)))
    longest = max(1.0, look.mitre_limit) if look.line_join not in ("round", "bevel") else 1.0
    width = look.stroke_width_mm * (1 if look.stroke_side == "centre" else 2)
    return width / 2 * stretch * max(longest, math.sqrt(2))
