"""What a page's text operators show: the numbers of the glyphs in the face that the file carries, and where each stands.

A PDF shows text by character codes (ISO 32000-1, 9.4 and 9.7). What a code means as a letter is said apart, and may be
several letters or none: ligatures and the forms of joining scripts are found by their code alone. PDFium tells only the
letters, so that the operators are read here a second time. Only faces with two-byte codes that are numbers of glyphs
(`Identity-H`) are answered for; with one-byte codes every glyph has one letter.
"""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

from fontTools.cffLib import CFFFontSet
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont, TTLibError
from pypdf import PdfReader
from pypdf.errors import PyPdfError
from pypdf.generic import ContentStream

from unkelt.geometry.path import Path, PathBuilder

DEEPEST = 60
BROKEN = (PyPdfError, TTLibError, KeyError, ValueError, TypeError, AttributeError, IndexError, AssertionError)
"""What the libraries raise where a file isn't as it should be: then nothing is known, and the caller asks by letters."""


@dataclass(frozen=True, slots=True)
class Shown:
    """What one operator shows: of each glyph its curves, y up, one unit an em, and how far along it starts, in text units."""

    glyphs: tuple[tuple[Path, float], ...]
    rise: float = 0.0
    stretch: float = 1.0


@dataclass(frozen=True, slots=True)
class _State:
    font: Any = None
    size: float = 0.0
    between: float = 0.0
    stretch: float = 1.0
    rise: float = 0.0


@dataclass(slots=True)
class _Show:
    """The operators of one page in their order, those of its forms where they are drawn."""

    reader: PdfReader
    found: list[Shown | None] = field(default_factory=list)

    def run(self, stream: Any, resources: Any, state: _State, depth: int = 0) -> None:
        if stream is None or depth > DEEPEST:
            return
        stack: list[_State] = []
        for operands, operator in ContentStream(stream, self.reader).operations:
            if operator == b"q":
                stack.append(state)
            elif operator == b"Q":
                state = stack.pop() if stack else state
            elif operator == b"Do":
                form = resources["/XObject"][operands[0]].get_object()
                if form.get("/Subtype") == "/Form":
                    own = form.get("/Resources", resources)
                    self.run(form, own.get_object(), state, depth + 1)
            elif operator in (b"Tj", b"'", b'"', b"TJ"):
                shown = operands[-1]
                pieces = list(shown) if operator == b"TJ" else [shown]
                if any(_codes(piece) for piece in pieces):
                    self.found.append(_shown(pieces, state))
            else:
                state = _changed(state, operator, operands, resources)


def shown_by(data: bytes, page: int) -> list[Shown | None]:
    """Of each operator that shows text on a page, counted from 0, what it shows; none where that isn't known. Empty where the
    operators can't be read.
    """
    try:
        reader = PdfReader(io.BytesIO(data))
        opened = reader.pages[page]
        show = _Show(reader)
        show.run(opened.get_contents(), opened["/Resources"].get_object(), _State())
    except BROKEN:
        return []
    return show.found


def has_patterns(data: bytes, page: int) -> bool:
    """Whether a page, or a form on it, names a pattern that it may paint with."""
    if b"/Pattern" not in data and b"/ObjStm" not in data:  # names may lie in streams of objects, which are packed
        return False
    try:
        return _names_patterns(PdfReader(io.BytesIO(data)).pages[page].get("/Resources"))
    except BROKEN:
        return False


def _names_patterns(resources: Any, depth: int = 0) -> bool:
    if resources is None or depth > DEEPEST:
        return False
    own = resources.get_object()
    forms = own.get("/XObject", {}).get_object() if "/XObject" in own else {}
    return bool(own.get("/Pattern")) or any(
        _names_patterns(form.get_object().get("/Resources"), depth + 1) for form in forms.values()
    )


def _changed(state: _State, operator: bytes, operands: list[Any], resources: Any) -> _State:
    """The text state after an operator (ISO 32000-1, table 105)."""
    if operator == b"Tf":
        return replace(state, font=resources["/Font"][operands[0]].get_object(), size=float(operands[1]))
    if operator == b"Tc":
        return replace(state, between=float(operands[0]))
    if operator == b"Tz":
        return replace(state, stretch=float(operands[0]) / 100)
    if operator == b"Ts":
        return replace(state, rise=float(operands[0]))
    return state


def _codes(piece: Any) -> bytes:
    """The bytes of a string operand; none of a number."""
    if isinstance(piece, bytes):
        return piece
    original = getattr(piece, "original_bytes", b"")
    return original if isinstance(original, bytes) else b""


def _shown(pieces: list[Any], state: _State) -> Shown | None:
    font = state.font
    if font is None or font.get("/Subtype") != "/Type0" or font.get("/Encoding") != "/Identity-H":
        return None
    try:
        face = _Embedded(font["/DescendantFonts"][0].get_object())
        along, glyphs = 0.0, []
        for piece in pieces:
            codes = _codes(piece)
            if not codes:
                along -= float(piece) / 1000 * state.size * state.stretch if isinstance(piece, int | float) else 0.0
            for first, second in zip(codes[::2], codes[1::2], strict=True):
                number = first << 8 | second
                glyphs.append((face.path(number), along))
                along += (face.width(number) / 1000 * state.size + state.between) * state.stretch
    except BROKEN:
        return None
    return Shown(tuple(glyphs), state.rise, state.stretch)


class _Embedded:
    """A face that the file carries, asked by the numbers of its glyphs (ISO 32000-1, 9.7.4)."""

    def __init__(self, descendant: Any) -> None:
        descriptor = descendant["/FontDescriptor"].get_object()
        key = next(key for key in ("/FontFile2", "/FontFile3") if key in descriptor)
        self.glyphs, self.order, self.per_em = _opened(descriptor[key].get_object().get_data())
        of = descendant.get("/CIDToGIDMap", "/Identity")
        self.table = None if of == "/Identity" else of.get_object().get_data()
        self.usual = float(descendant.get("/DW", 1000))
        self.widths = dict(_widths(descendant.get("/W", [])))

    def path(self, number: int) -> Path:
        if self.table is not None:
            number = int.from_bytes(self.table[2 * number : 2 * number + 2], "big")
        elif f"cid{number:05d}" in self.glyphs:  # of a face whose glyphs have numbers of their own
            return _path(self.glyphs, f"cid{number:05d}", self.per_em)
        return _path(self.glyphs, self.order[number], self.per_em)

    def width(self, number: int) -> float:
        return self.widths.get(number, self.usual)


@lru_cache(maxsize=32)
def _opened(data: bytes) -> tuple[Any, list[str], float]:
    """The glyphs of a face, their names in order, and its units an em."""
    if data[:4] in (b"\x00\x01\x00\x00", b"OTTO", b"true", b"ttcf"):
        font = TTFont(io.BytesIO(data), fontNumber=0, lazy=True)
        return font.getGlyphSet(), font.getGlyphOrder(), float(font["head"].unitsPerEm)
    bare = CFFFontSet()
    bare.decompile(io.BytesIO(data), None)
    top = bare[bare.fontNames[0]]
    return top.CharStrings, list(top.charset), 1.0 / float(getattr(top, "FontMatrix", [0.001])[0] or 0.001)


def _widths(listed: Any) -> Iterator[tuple[int, float]]:
    """ISO 32000-1, 9.7.4.3: `c [w1 w2 …]` or `first last w`."""
    values = [value.get_object() for value in listed]
    while values:
        first, second = int(values[0]), values[1]
        if isinstance(second, list):
            yield from ((first + n, float(width)) for n, width in enumerate(second))
            values = values[2:]
        else:
            yield from ((number, float(values[2])) for number in range(first, int(second) + 1))
            values = values[3:]


def _path(glyphs: Any, name: str, per_em: float) -> Path:
    builder = PathBuilder()
    pen = _Pen(glyphs, builder, 1 / per_em)
    glyphs[name].draw(pen)
    return builder.path()


class _Pen(BasePen):  # type: ignore[misc]
    """A glyph's curves into ours, in ems."""

    def __init__(self, glyphs: Any, builder: PathBuilder, scale: float) -> None:
        super().__init__(glyphs)
        self.builder, self.scale = builder, scale

    def _at(self, *points: tuple[float, float]) -> list[float]:
        return [value * self.scale for point in points for value in point]

    def _moveTo(self, pt: tuple[float, float]) -> None:  # noqa: N802 - fontTools' own names
        self.builder.move_to(*self._at(pt))

    def _lineTo(self, pt: tuple[float, float]) -> None:  # noqa: N802
        self.builder.line_to(*self._at(pt))

    def _curveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float], pt3: tuple[float, float]) -> None:  # noqa: N802
        self.builder.cubic_to(*self._at(pt1, pt2, pt3))

    def _qCurveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float]) -> None:  # noqa: N802
        self.builder.quad_to(*self._at(pt1, pt2))

    def _closePath(self) -> None:  # noqa: N802
        self.builder.close()

    def _endPath(self) -> None:  # noqa: N802
        self.builder.end()
