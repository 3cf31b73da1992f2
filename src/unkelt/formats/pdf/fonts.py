"""What the fonts of a PDF say of themselves: family, weight, and how far their letters move on."""

from __future__ import annotations

import ctypes
import re

import pypdfium2.raw as pdfium

from unkelt.formats.pdf.chars import Raw
from unkelt.formats.readable import readable


def family_of(font: Raw) -> str:
    """The family that a font of the file calls itself, without the tag of a subset."""
    return _named(font, pdfium.FPDFFont_GetFamilyName)


def _named(font: Raw, ask: Raw) -> str:
    length = ask(font, None, 0)
    buffer = ctypes.create_string_buffer(max(1, length))
    ask(font, buffer, length)
    name = readable(buffer.value.decode("utf-8", "replace"))
    return name.split("+", 1)[1] if name[6:7] == "+" else name


WEIGHTS = (
    (100, r"thin|hairline"),
    (200, r"(?:extra|ultra) ?light"),
    (300, r"light"),
    (500, r"medium"),
    (600, r"(?:semi|demi) ?bold|demi\b"),
    (800, r"(?:extra|ultra) ?bold"),
    (700, r"bold"),
    (900, r"black|heavy"),
)
"""What names say of weights (OpenType specification, usWeightClass); what PDFium tells is a guess from the stems."""


def weight_of(font: Raw) -> int:
    """The weight that a font's own name says; regular where it says none."""
    name = _named(font, pdfium.FPDFFont_GetBaseFontName).casefold() if font else ""
    style = re.split(r"[-,]", name, maxsplit=1)[-1]
    return next((weight for weight, words in WEIGHTS if re.search(words, style)), 400)


def advance_of(font: Raw, letter: str, em_mm: float) -> float:
    """How far on the next letter begins, by the embedded face; 0 where it doesn't tell."""
    width = ctypes.c_float()
    return float(width.value) if pdfium.FPDFFont_GetGlyphWidth(font, ord(letter), em_mm, width) else 0.0
