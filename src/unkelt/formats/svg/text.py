"""A `text` element as lettering: its runs with face, size, spacing and position. Setting it is another room's work."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import replace

from fontTools.misc.transform import Transform
from lxml import etree

from unkelt.formats.svg.style import Style, style_of
from unkelt.formats.svg.values import length, numbers
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Lettering, Run
from unkelt.units import MM_PER_UNIT

PX = MM_PER_UNIT["px"]
_SIZES = {"xx-small": 9, "x-small": 10, "small": 13, "medium": 16, "large": 18, "x-large": 24, "xx-large": 32}
_WEIGHTS = {"normal": 400, "bold": 700, "lighter": 300, "bolder": 700}
LookOf = Callable[[etree._Element, Style], Appearance]


def read_text(
    element: etree._Element, item_id: str, matrix: Transform, style: Style, look_of: LookOf
) -> Lettering | None:
    """The lettering of a text element, or None where it holds no letters."""
    scale = math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx)) or 1.0
    placement = Transform(
        matrix.xx / scale, matrix.xy / scale, matrix.yx / scale, matrix.yy / scale, matrix.dx, matrix.dy
    )
    reader = _Runs(scale, look_of)
    reader.element(element, style, 16 * PX)
    runs = _collapsed(reader.runs, preserve=element.get("{http://www.w3.org/XML/1998/namespace}space") == "preserve")
    if not runs:
        return None
    anchor = style["text-anchor"] if style["text-anchor"] in ("start", "middle", "end") else "start"
    return Lettering(item_id, tuple(runs), anchor, placement, beyond=tuple(dict.fromkeys(reader.beyond)))


class _Runs:
    """Collects the runs of a text element in document order, with what can't be set yet."""

    def __init__(self, scale: float, look_of: LookOf) -> None:
        self.scale, self.look_of = scale, look_of
        self.runs: list[Run] = []
        self.beyond: list[str] = []
        self._at: tuple[float | None, float | None] = (0.0, 0.0)
        self._shift = (0.0, 0.0)

    def element(self, element: etree._Element, style: Style, parent_size: float) -> None:
        look = self.look_of(element, style)
        self._position(element)
        size = _size(style, parent_size)
        self._add(element.text, style, look, size)
        for child in element:
            tag = etree.QName(child).localname if isinstance(child.tag, str) else ""
            if tag == "tspan":
                self.element(child, style_of(child, {**style, "font-size": f"{size / PX}px"}), size)
            elif tag:
                self.beyond.append(tag)
                self._add("".join(str(text) for text in child.itertext()), style, look, size)
            self._add(child.tail, style, look, size)

    def _position(self, element: etree._Element) -> None:
        values: dict[str, float | None] = {}
        for name in ("x", "y", "dx", "dy"):
            words = element.get(name, "").replace(",", " ").split()
            if len(words) > 1:
                self.beyond.append(f"a list of {name}")
            values[name] = length(words[0], 16 * PX)[0] * self.scale / PX if words else None
        for name in ("rotate", "textLength", "writing-mode", "inline-size", "shape-inside"):
            if element.get(name):
                self.beyond.append(name)
        if values["x"] is not None or values["y"] is not None:
            x, y = values["x"], values["y"]
            # An element that names only one coordinate keeps what its parent set for the other.
            self._at = (x if x is not None else self._at[0], y if y is not None else self._at[1])
        self._shift = (self._shift[0] + (values["dx"] or 0), self._shift[1] + (values["dy"] or 0))

    def _add(self, text: str | None, style: Style, look: Appearance, size: float) -> None:
        if not text:
            return
        spacing = [
            0.0 if style[name] == "normal" else length(style[name], size)[0] * self.scale / PX
            for name in ("letter-spacing", "word-spacing")
        ]
        run = Run(text, face_query(style), size * self.scale / PX, look, spacing[0], spacing[1], self._at, self._shift)
        self.runs.append(run)
        self._at, self._shift = (None, None), (0.0, 0.0)


def _size(style: Style, parent: float) -> float:
    """Font size in mm at 96 user units to the inch; `parent` is what 1em and 100 % are."""
    text = style["font-size"]
    return _SIZES[text] * PX if text in _SIZES else length(text, parent, parent)[0]


def face_query(style: Style) -> FaceQuery:
    """The face that font properties ask for."""
    families = [name.strip().strip("\"'").strip() for name in style["font-family"].split(",")]
    weight = style["font-weight"]
    value = _WEIGHTS.get(weight) or int(numbers(weight, [400.0])[0])
    return FaceQuery(tuple(filter(None, families)), value, style["font-style"].startswith(("italic", "oblique")))


def _collapsed(runs: list[Run], preserve: bool) -> list[Run]:
    """White space as `xml:space` says (SVG 1.1, section 10.15); a run emptied by it passes its position on."""
    result: list[Run] = []
    at: tuple[float | None, float | None] = (None, None)
    shift = (0.0, 0.0)
    after_space = True
    for run in runs:
        text = (
            re.sub(r"[\t\r\n]", " ", run.text) if preserve else re.sub(r"[ \t]+", " ", re.sub(r"[\r\n]", "", run.text))
        )
        if not preserve and after_space:
            text = text.removeprefix(" ")
        at = run.at if run.at != (None, None) else at
        shift = (shift[0] + run.shift[0], shift[1] + run.shift[1])
        if not text:
            continue
        after_space = text.endswith(" ")
        result.append(replace(run, text=text, at=at, shift=shift))
        at, shift = (None, None), (0.0, 0.0)
    if result and not preserve:
        result[-1] = replace(result[-1], text=result[-1].text.removesuffix(" "))
        if not result[-1].text:
            result.pop()
    return result if any(run.text.strip() for run in result) else []
