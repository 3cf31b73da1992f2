"""Where and how an element stands."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from fontTools.misc.transform import Identity, Transform
from lxml import etree

from unkelt.errors import LengthError
from unkelt.formats.limits import FARTHEST
from unkelt.formats.svg.page import PX
from unkelt.formats.svg.style import NOT_INHERITED, Style
from unkelt.formats.svg.values import length

EFFECTS = {"clip-path": "a clip", "mask": "a mask", "filter": "a filter", "mix-blend-mode": "a blend mode"}
MARKERS = ("marker-start", "marker-mid", "marker-end")


@dataclass(frozen=True, slots=True)
class Place:
    """Matrix to mm, inherited style, opacity, the viewport, depth, open `use`s.

    The viewport is what percentages are of, in the user units that it begins with, whatever transforms come after
    (SVG 2, 8.9).
    """

    matrix: Transform
    style: Style
    opacity: float
    viewport: tuple[float, float]
    depth: int = 0
    following: tuple[etree._Element, ...] = ()
    shown: bool = True
    effects: tuple[str, ...] = ()
    marked: bool = False
    above: Place | None = None
    scale: float = field(init=False)
    """How many mm a user unit is, over all; 1 where it is flattened to nothing."""
    tame: bool = field(init=False)
    """Whether the matrix can carry nothing far that wasn't far before."""

    def __post_init__(self) -> None:
        m = self.matrix
        scale = math.sqrt(abs(m.xx * m.yy - m.xy * m.yx)) or 1.0
        tame = max(abs(m.xx) + abs(m.yx), abs(m.xy) + abs(m.yy)) <= 1 and max(abs(m.dx), abs(m.dy)) <= FARTHEST / 100
        object.__setattr__(self, "tame", tame)
        object.__setattr__(self, "scale", scale)

    def within(self, own: Transform, style: Style) -> Place:
        """The place of an element that stands in this one. It holds on to this one, whose id then stays its own."""
        return Place(
            self.matrix if own is Identity else self.matrix.transform(own),
            style,
            self.opacity * share(style["opacity"]),
            self.viewport,
            self.depth + 1,
            self.following,
            self.shown and style["display"] != "none",
            self.effects + tuple([effect for effect in EFFECTS if style[effect] != NOT_INHERITED[effect]]),
            any(style[marker] != "none" for marker in MARKERS),
            self,
        )


def em_of(style: Style) -> float:
    """The size of letters in user units; that of CSS by default where it can't be told."""
    try:
        return length(style["font-size"], 16 * PX)[0] / PX
    except LengthError:
        return 16.0


def share(text: str) -> float:
    """An opacity from 0 to 1; a percentage is understood."""
    if text == "1":
        return 1.0
    try:
        value = float(text[:-1]) / 100 if text.endswith("%") else float(text)
    except ValueError:
        return 1.0
    return min(1.0, max(0.0, value)) if math.isfinite(value) else 1.0
