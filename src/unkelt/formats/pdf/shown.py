"""What a page's text operators show: the numbers of the glyphs in the face that the file carries, and where each
stands.

A PDF shows text by character codes (ISO 32000-1, 9.4 and 9.7). What a code means as a letter is said apart, and may be
several letters or none: ligatures and the forms of joining scripts are found by their code alone. PDFium tells only the
letters, so that the operators are read here a second time. Only faces with two-byte codes that are numbers of glyphs
(`Identity-H`) are answered for; with one-byte codes every glyph has one letter.
"""

from __future__ import annotations

import io
import logging
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any

from fontTools.cffLib import CFFFontSet
from fontTools.misc.transform import Identity, Transform
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont
from pypdf import PdfReader
from pypdf.generic import ContentStream

from unkelt.formats.limits import DEEPEST_FORM
from unkelt.geometry.path import Path, PathBuilder

Raw = Any
"""Something of pypdf or of a font, which have no types."""

Place = tuple[float, float]


MOST_BYTES = 4_000_000
"""More operators than this are not read a second time: they are taken apart by Python, which takes its while."""

_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Shown:
    """What one operator shows: of each glyph its curves, y up, one unit an em, and how far along it starts, in text
    units.
    """

    glyphs: tuple[tuple[Path, float], ...]
    rise: float = 0.0
    stretch: float = 1.0


@dataclass(frozen=True, slots=True)
class Told:
    """What is told of one operator that shows text: its glyphs, None where they aren't known; and the matrix to the
    page that is in force beside the text's own, which shapes its stroke.
    """

    shown: Shown | None
    ctm: Transform


@dataclass(frozen=True, slots=True)
class _State:
    font: Raw = None
    size: float = 0.0
    between: float = 0.0
    stretch: float = 1.0
    rise: float = 0.0
    ctm: Transform = Identity


@dataclass(slots=True)
class _Show:
    """The operators of one page in their order, those of its forms where they are drawn."""

    reader: PdfReader
    found: list[Told] = field(default_factory=list)
    faces: dict[int, _Embedded | None] = field(default_factory=dict)
    left: int = MOST_BYTES

    def run(self, stream: Raw, resources: Raw, state: _State, depth: int = 0) -> None:
        """Raises whatever the library does, and ValueError where the page is too large or nested too deep."""
        self.left -= len(stream.get_data()) if stream is not None else 0
        if self.left < 0 or depth > DEEPEST_FORM:
            raise ValueError("more operators than are read here")
        if stream is None:
            return
        stack: list[_State] = []
        for operands, operator in ContentStream(stream, self.reader).operations:
            if operator == b"q":
                stack.append(state)
            elif operator == b"Q":
                state = stack.pop() if stack else state
            elif operator == b"Do":
                form = _named(resources, "/XObject", operands)
                if form is not None and form.get("/Subtype") == "/Form":
                    own = form.get("/Resources", resources)
                    inside = state.ctm.transform(_matrix(form.get("/Matrix", _PLAIN)))
                    self.run(form, own.get_object(), replace(state, ctm=inside), depth + 1)
            elif operator in (b"Tj", b"'", b'"', b"TJ"):
                shown = operands[-1]
                pieces = list(shown) if operator == b"TJ" else [shown]
                if operator == b'"':
                    state = replace(state, between=float(operands[1]))
                if any(_codes(piece) for piece in pieces):
                    self.found.append(Told(_shown(pieces, state, self._face(state.font)), state.ctm))
            else:
                state = _changed(state, operator, operands, resources)

    def _face(self, font: Raw) -> _Embedded | None:
        """The face that a font carries, where its codes are numbers of glyphs and it can be read."""
        if id(font) not in self.faces:
            self.faces[id(font)] = None
            if font is not None and font.get("/Subtype") == "/Type0" and font.get("/Encoding") == "/Identity-H":
                try:
                    self.faces[id(font)] = _Embedded(font["/DescendantFonts"][0].get_object())
                except Exception as problem:
                    _log.info("an embedded face can't be read: %r", problem)
        return self.faces[id(font)]


def shown_by(data: bytes, page: int) -> list[Told]:
    """What is told of each operator that shows text on a page, counted from 0. Empty where the operators can't be
    read.
    """
    try:
        reader = PdfReader(io.BytesIO(data))
        opened = reader.pages[page]
        show = _Show(reader)
        show.run(opened.get_contents(), opened["/Resources"].get_object(), _State())
    except Exception as problem:
        _log.info("the text operators can't be read: %r", problem)
        return []
    return show.found


def _changed(state: _State, operator: bytes, operands: list[Raw], resources: Raw) -> _State:
    """The text state, and the matrix, after an operator (ISO 32000-1, tables 57 and 105)."""
    if operator == b"Tf":
        return replace(state, font=_named(resources, "/Font", operands), size=float(operands[1]))
    if operator == b"Tc":
        return replace(state, between=float(operands[0]))
    if operator == b"Tz":
        return replace(state, stretch=float(operands[0]) / 100)
    if operator == b"Ts":
        return replace(state, rise=float(operands[0]))
    if operator == b"cm":
        return replace(state, ctm=state.ctm.transform(_matrix(operands)))
    if operator == b"gs":
        graphics = _named(resources, "/ExtGState", operands)
        if graphics is not None and "/Font" in graphics:
            font, size = graphics["/Font"]
            return replace(state, font=font.get_object(), size=float(size))
    return state


def _named(resources: Raw, kind: str, operands: list[Raw]) -> Raw:
    """What an operator names; None where the page or form doesn't have it, as PDFium passes over it, too."""
    of_kind = resources.get(kind)
    named = of_kind.get_object().get(operands[0]) if of_kind is not None else None
    return named.get_object() if named is not None else None


_PLAIN = (1, 0, 0, 1, 0, 0)


def _matrix(numbers: Raw) -> Transform:
    return Transform(*(float(number) for number in numbers))


def _codes(piece: Raw) -> bytes:
    """The bytes of a string operand; none of a number."""
    if isinstance(piece, bytes):
        return piece
    original = getattr(piece, "original_bytes", b"")
    return original if isinstance(original, bytes) else b""


def _shown(pieces: list[Raw], state: _State, face: _Embedded | None) -> Shown | None:
    if face is None:
        return None
    along, glyphs = 0.0, []
    for piece in pieces:
        codes = _codes(piece)
        if not codes and isinstance(piece, int | float):
            along -= float(piece) / 1000 * state.size * state.stretch
        for first, second in zip(codes[::2], codes[1::2], strict=False):
            number = first << 8 | second
            path = face.path(number)
            if path is None:
                return None
            glyphs.append((path, along))
            along += (face.width(number) / 1000 * state.size + state.between) * state.stretch
    return Shown(tuple(glyphs), state.rise, state.stretch)


class _Embedded:
    """A face that the file carries, asked by the numbers of its glyphs (ISO 32000-1, 9.7.4)."""

    def __init__(self, descendant: Raw) -> None:
        descriptor = descendant["/FontDescriptor"].get_object()
        key = "/FontFile2" if "/FontFile2" in descriptor else "/FontFile3"
        self.glyphs, self.order, self.per_em = _opened(descriptor[key].get_object().get_data())
        of = descendant.get("/CIDToGIDMap", "/Identity")
        self.table = None if of == "/Identity" else of.get_object().get_data()
        self.usual = float(descendant.get("/DW", 1000))
        self.widths = dict(_widths(descendant.get("/W", [])))
        self.paths: dict[int, Path | None] = {}

    def path(self, number: int) -> Path | None:
        """A glyph's curves in ems, y up; None where the face hasn't got it, or it is damaged."""
        if number not in self.paths:
            try:
                self.paths[number] = _path(self.glyphs, self._name(number), self.per_em)
            except Exception as problem:
                _log.info("glyph %d can't be read: %r", number, problem)
                self.paths[number] = None
        return self.paths[number]

    def _name(self, number: int) -> str:
        if self.table is not None:
            number = int.from_bytes(self.table[2 * number : 2 * number + 2], "big")
        elif f"cid{number:05d}" in self.glyphs:  # of a face whose glyphs have numbers of their own
            return f"cid{number:05d}"
        return self.order[number]

    def width(self, number: int) -> float:
        return self.widths.get(number, self.usual)


def _opened(data: bytes) -> tuple[Raw, list[str], float]:
    """The glyphs of a face, their names in order, and its units an em."""
    if data[:4] in (b"\x00\x01\x00\x00", b"OTTO", b"true", b"ttcf"):
        font = TTFont(io.BytesIO(data), fontNumber=0, lazy=True)
        return font.getGlyphSet(), font.getGlyphOrder(), float(font["head"].unitsPerEm)
    bare = CFFFontSet()
    bare.decompile(io.BytesIO(data), None)
    top = bare[bare.fontNames[0]]
    return top.CharStrings, list(top.charset), 1.0 / float(getattr(top, "FontMatrix", [0.001])[0] or 0.001)


def _widths(listed: Raw) -> Iterator[tuple[int, float]]:
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


def _path(glyphs: Raw, name: str, per_em: float) -> Path:
    builder = PathBuilder()
    pen = _Pen(glyphs, builder, 1 / per_em)
    glyphs[name].draw(pen)
    return builder.path()


class _Pen(BasePen):  # type: ignore[misc]
    """A glyph's curves into ours, in ems."""

    def __init__(self, glyphs: Raw, builder: PathBuilder, scale: float) -> None:
        super().__init__(glyphs)
        self.builder, self.scale = builder, scale

    def _at(self, *points: tuple[float, float]) -> list[float]:
        return [value * self.scale for point in points for value in point]

    def _moveTo(self, pt: Place) -> None:
        self.builder.move_to(*self._at(pt))

    def _lineTo(self, pt: Place) -> None:
        self.builder.line_to(*self._at(pt))

    def _curveToOne(self, pt1: Place, pt2: Place, pt3: Place) -> None:
        self.builder.cubic_to(*self._at(pt1, pt2, pt3))

    def _qCurveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float]) -> None:
        self.builder.quad_to(*self._at(pt1, pt2))

    def _closePath(self) -> None:
        self.builder.close()

    def _endPath(self) -> None:
        self.builder.end()
