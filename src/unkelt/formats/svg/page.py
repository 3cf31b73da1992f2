"""The page of an SVG file, its viewports, and how sure its physical size is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fontTools.misc.transform import Transform

from unkelt.errors import InputError, LengthError
from unkelt.formats.limits import FARTHEST
from unkelt.formats.svg.values import length, numbers
from unkelt.geometry.measure import Box
from unkelt.messages import say
from unkelt.units import MM_PER_UNIT

Attributes = Mapping[Any, Any]
"""Of an element of lxml, whose names and values may be bytes."""

PX = MM_PER_UNIT["px"]
PAPERS_MM = {
    "A5": (148, 210),
    "A4": (210, 297),
    "A3": (297, 420),
    "A2": (420, 594),
    "Letter": (215.9, 279.4),
    "Legal": (215.9, 355.6),
}
"""ISO 216 and ANSI sizes: a page that is one of them at 72 or 90 units to the inch was drawn at that scale."""

PER_INCH = (96, 90, 72)
"""Units to the inch that files are drawn with: CSS's own, and two that were usual before."""


@dataclass(frozen=True, slots=True)
class Page:
    """Size in mm as understood, the units as written, and the matrix from user units to mm.

    `sure` is False where the file doesn't tell its physical size; `per_inch` is what its numbers seem to assume, where
    something speaks for it (`evidence`). `uneven` is the ratio of the two scales where they differ. `told` says for
    each side whether the file gives its length at all.
    """

    size_mm: tuple[float, float]
    units: str
    matrix: Transform
    sure: bool
    per_inch: int | None = None
    evidence: str = ""
    uneven: float = 1.0
    told: tuple[bool, bool] = (True, True)

    def around(self, box: Box | None) -> tuple[float, float]:
        """Its size, where the file tells none at least as large as the drawing reaches: a program that shows such a
        file has a page of its own, and cuts nothing off.
        """
        reach = (0.0, 0.0) if box is None else box[2:]
        return (
            self.size_mm[0] if self.told[0] else max(self.size_mm[0], reach[0]),
            self.size_mm[1] if self.told[1] else max(self.size_mm[1], reach[1]),
        )


def read_page(attributes: Attributes, source: str) -> Page:
    """The page of the outermost `svg`. Where one side is missing, it is as long as the viewBox makes it (CSS 2.1,
    section 10.3.2). Raises InputError for sizes that are none.
    """
    box = view_box(attributes)
    if attributes.get("viewBox") is not None and box is None:
        raise InputError(
            source,
            say("“{attributes}” is not a viewBox of four numbers with a size", attributes=attributes["viewBox"]),
            "svg viewBox",
        )
    sides = [_side(attributes, name, source) for name in ("width", "height")]
    told = (sides[0] is not None or box is not None, sides[1] is not None or box is not None)
    if box is not None:
        for here, other in ((0, 1), (1, 0)):
            if sides[here] is None and (given := sides[other]) is not None:
                sides[here] = (given[0] * box[2 + here] / box[2 + other], given[1])
    spare = box[2:] if box is not None else (300.0, 150.0)
    (wide, across), (high, down) = (
        (value * PX, "none") if side is None else side for side, value in zip(sides, spare, strict=True)
    )
    size, written = (wide, high), (across, down)
    matrix = viewport_matrix(attributes, size)
    units = written[0] if written[0] == written[1] else " × ".join(written)
    physical = all(unit not in ("none", "px", "em", "ex") for unit in written)
    uneven = abs(matrix.yy / matrix.xx) if matrix.xx else 1.0
    per_inch, evidence = (None, "") if physical else _paper(size)
    # Pixels are a physical unit in CSS, and are believed unless something speaks against it.
    sure = physical or ("none" not in written and per_inch in (None, 96))
    return Page(size, units, matrix, sure, per_inch, evidence, uneven, told)


def _side(attributes: Attributes, name: str, source: str) -> tuple[float, str] | None:
    """A side of the page in mm, and its unit as written; None where the file leaves it to the program that shows it."""
    text = str(attributes.get(name, "")).strip()
    if not text or text.endswith("%") or text == "auto":
        return None
    try:
        value, unit = length(text, 16 * PX)
    except LengthError as problem:
        raise InputError(source, str(problem), f"svg {name}") from problem
    if value <= 0 or value > FARTHEST:
        raise InputError(source, say("“{text}” is no size for a page", text=text), f"svg {name}")
    return value, unit or "none"


def _paper(size: tuple[float, float]) -> tuple[int | None, str]:
    """The scale at which the page is a sheet of paper, to half a millimetre, if there is one."""
    for per_inch in PER_INCH:
        scaled = sorted(value * 96 / per_inch for value in size)
        for name, paper in PAPERS_MM.items():
            if all(abs(a - b) <= 0.5 for a, b in zip(scaled, paper, strict=True)):
                return per_inch, say("at {per_inch} units to the inch the page is {name}", per_inch=per_inch, name=name)
    return None, ""


def view_box(attributes: Attributes) -> tuple[float, float, float, float] | None:
    """The four numbers of a viewBox with a size, or None."""
    values = numbers(str(attributes.get("viewBox", "")))
    if values is None or len(values) != 4 or values[2] <= 0 or values[3] <= 0 or max(map(abs, values)) > FARTHEST:
        return None
    return values[0], values[1], values[2], values[3]


def viewport_matrix(attributes: Attributes, size_mm: tuple[float, float]) -> Transform:
    """User units to mm within a viewport, by viewBox and preserveAspectRatio (SVG 1.1, section 7.8)."""
    box = view_box(attributes)
    if box is None:
        return Transform(PX, 0, 0, PX, 0, 0)
    return fit_box(box, size_mm, str(attributes.get("preserveAspectRatio", "")))


def fit_box(box: tuple[float, float, float, float], size: tuple[float, float], ratio: str) -> Transform:
    """The matrix that fits a box into a size, by the words of preserveAspectRatio."""
    x, y, w, h = box
    sx, sy = size[0] / w, size[1] / h
    words = ratio.replace("defer", "").split() or ["xMidYMid"]
    if words[0] == "none":
        return Transform(sx, 0, 0, sy, -x * sx, -y * sy)
    scale = max(sx, sy) if words[1:] == ["slice"] else min(sx, sy)
    shift = [
        {"Min": 0.0, "Mid": 0.5, "Max": 1.0}.get(words[0][at : at + 3], 0.5) * (outer - inner * scale)
        for at, outer, inner in ((1, size[0], w), (5, size[1], h))
    ]
    return Transform(scale, 0, 0, scale, shift[0] - x * scale, shift[1] - y * scale)
