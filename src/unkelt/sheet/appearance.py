"""How an item is painted. Colours are kept as plain "#rrggbb", the one form that all importers read."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Operation(StrEnum):
    """What the machine does along or within an outline."""

    CUT = "cut"
    SCORE = "score"
    ENGRAVE = "engrave"
    LEAVE = "leave"


DEFAULT_STROKE_MM = 25.4 / 96
"""One pixel of CSS: the width of an unstyled stroke, and of an outline without one."""


@dataclass(frozen=True, slots=True)
class Appearance:
    """Fill and stroke are "#rrggbb", or None for no paint; the stroke width is in mm. What is not `visible` is in the file
    but not shown. `pen` is the matrix (a, b, c, d), of determinant 1, that shapes the stroke where its transform was skewed
    or uneven: its true outline is that of a round line drawn with such a pen.
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

    @property
    def colour(self) -> str | None:
        """The colour that tells the operation: the stroke's where there is one, else the fill's."""
        return self.stroke or self.fill


def has_visible_stroke(look: Appearance, hairline_mm: float, keyed: bool) -> bool:
    """Whether a stroke is thickness that people see and no machine follows.

    A line no wider than the hairline is a line. So is an unfilled one of any width where a key of colours says what it
    is for (`keyed`): it is too wide a line then, not a shape.
    """
    if look.stroke is None or not look.visible or look.opacity == 0 or (keyed and look.fill is None):
        return False
    return look.stroke_width_mm > hairline_mm * 1.001
