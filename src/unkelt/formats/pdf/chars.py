"""The characters that a page shows, as PDFium tells them, and whether curves are the glyph that it draws for one."""

from __future__ import annotations

import ctypes
import math
from dataclasses import dataclass
from typing import Any

import pypdfium2.raw as pdfium
from fontTools.misc.transform import Transform

from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.path import Path

Raw = Any
"""Something of PDFium, whose bindings have no types."""

POINT = 25.4 / 72

AWAY = 0.012
"""Glyphs are told apart by their boxes, which PDFium rounds, to this share of the size."""

HANDLES = 0.06
"""So much of the size the handles of a glyph may reach beyond its curves."""


@dataclass(frozen=True, slots=True)
class Char:
    """A character as PDFium finds it on the page: where it starts, its matrix, and the box of the glyph that is drawn
    for it.
    """

    letter: str
    origin: tuple[float, float]
    matrix: Raw
    box: Box


def char_at(page: Raw, index: int) -> Char:
    """The character with this number on a page."""
    code = pdfium.FPDFText_GetUnicode(page, index)
    letter = chr(code) if 0 < code < 0x110000 else "\ufffd"  # what no letter is known for is drawn all the same
    x, y, m = ctypes.c_double(), ctypes.c_double(), pdfium.FS_MATRIX()
    pdfium.FPDFText_GetCharOrigin(page, index, x, y)
    pdfium.FPDFText_GetMatrix(page, index, m)
    left, right, low, high = (ctypes.c_double() for _ in range(4))
    pdfium.FPDFText_GetCharBox(page, index, left, right, low, high)
    return Char(letter, (x.value, y.value), m, (left.value, low.value, right.value, high.value))


def is_that_glyph(path: Path, place: Transform, char: Char, size: float, upright: Transform) -> bool:
    """Whether curves, placed on the sheet, fill the box of the glyph that PDFium draws there by its code."""
    box = bounds(path)
    if box is None:
        return False
    m = char.matrix
    em = size * POINT * max(math.hypot(m.a, m.b), math.hypot(m.c, m.d))
    # PDFium's box is around the handles, too, and around that where it is turned.
    ours, theirs = around(box, place), around(char.box, upright)
    beyond = [ours[0] - theirs[0], ours[1] - theirs[1], theirs[2] - ours[2], theirs[3] - ours[3]]
    return all(-AWAY * em <= each <= HANDLES * em for each in beyond)


def around(box: Box, matrix: Transform) -> Box:
    corners = [matrix.transformPoint((x, y)) for x in box[::2] for y in box[1::2]]
    xs, ys = zip(*corners, strict=True)
    return min(xs), min(ys), max(xs), max(ys)
