"""The text of a PDF page as lettering, with the curves of the faces that the file carries."""

from __future__ import annotations

import ctypes
import math
from collections.abc import Callable, Iterator
from dataclasses import replace

import pypdfium2
import pypdfium2.raw as pdfium
from fontTools.misc.transform import Transform

from unkelt.formats.limits import DEEPEST_FORM
from unkelt.formats.pdf.chars import AWAY, Char, Raw, char_at, is_that_glyph
from unkelt.formats.pdf.fonts import advance_of, family_of, weight_of
from unkelt.formats.pdf.segments import draw
from unkelt.formats.pdf.shown import Shown, Told
from unkelt.formats.readable import readable
from unkelt.geometry.path import Path, PathBuilder, closed_by_line, concat
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Lettering, Pen, Run

Letter = tuple[str, Path, tuple[float, float]]
"""What a glyph stands for, its curves on the sheet, and where it begins there."""


class Texts:
    """The text objects of one page. `objects` gives all of its objects, `shown` what its operators show, and `upright`
    carries the page to the sheet.
    """

    def __init__(
        self,
        page: pypdfium2.PdfPage,
        objects: Callable[[], Iterator[Raw]],
        shown: Callable[[], list[Told]],
        upright: Transform,
    ) -> None:
        self.text_page, self.objects, self.ask_shown, self.upright = page.get_textpage(), objects, shown, upright
        self._letters: dict[int, list[int]] | None = None
        self._shown: dict[int, Told] | None = None

    def lettering(self, raw: Raw, matrix: Transform, name: str, look_of: Callable[[], Appearance]) -> Lettering | None:
        """A text object as lettering, None where it has no letters; `look_of` says how it is painted."""
        size = ctypes.c_float()
        pdfium.FPDFTextObj_GetFontSize(raw, size)
        length = pdfium.FPDFTextObj_GetText(raw, self.text_page.raw, None, 0)
        buffer = ctypes.create_string_buffer(max(length, 2))
        pdfium.FPDFTextObj_GetText(
            raw, self.text_page.raw, ctypes.cast(buffer, ctypes.POINTER(ctypes.c_ushort)), length
        )
        words = buffer.raw[:length].decode("utf-16-le", "replace").rstrip("\x00")
        words = readable(words).rstrip()  # PDFium adds a space where another text follows
        if not words.strip():
            return None
        font = pdfium.FPDFTextObj_GetFont(raw)
        angle = ctypes.c_int()
        if font:
            pdfium.FPDFFont_GetItalicAngle(font, angle)
        scale = math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx)) or 1.0
        # In the text's own axes y runs down, as everywhere here; in the PDF's it runs up.
        placement = matrix.transform(Transform(1 / scale, 0, 0, -1 / scale, 0, 0))
        look = look_of()
        query = FaceQuery((family_of(font),), weight_of(font), angle.value != 0)
        run = Run(words, query, size.value * scale, look, at=(0.0, 0.0))
        drawn = self._drawn(raw, matrix, font, size.value)
        beyond = ("forms of letters that only its own face has",) if drawn is None else ()
        text = Lettering(name, (run,), "start", placement, beyond=beyond)
        return _with_letters(text, drawn, font, size.value * scale) if drawn else text

    def _drawn(self, raw: Raw, matrix: Transform, font: Raw, size: float) -> list[Letter] | None:
        """The letters of a text with the curves of its embedded face, each where the file puts it, and where it begins.

        Empty where the face isn't embedded: then the shelf must have it. None where it is, and a letter's form isn't
        found in it: the shelf's face would set another.
        """
        if not font or pdfium.FPDFFont_GetIsEmbedded(font) != 1:
            return []
        chars = [char for index in self._letters_of(raw) if (char := char_at(self.text_page.raw, index)).letter.strip()]
        told = self._told_of(raw)
        if told is not None and told.shown is not None:
            return self._as_shown(matrix, told.shown, chars, size)
        letters: list[Letter] = []
        for char in chars:
            glyph = pdfium.FPDFFont_GetGlyphPath(font, ord(char.letter), size)
            count = pdfium.FPDFGlyphPath_CountGlyphSegments(glyph) if glyph else 0
            builder = PathBuilder()
            pending: list[tuple[float, float]] = []
            for number in range(max(count, 0)):
                draw(builder, pdfium.FPDFGlyphPath_GetGlyphPathSegment(glyph, number), pending)
            m = char.matrix
            place = self.upright.transform(Transform(m.a * size, m.b * size, m.c * size, m.d * size, *char.origin))
            path = concat([closed_by_line(part) for part in builder.path().subpaths()])
            if not is_that_glyph(path, place, char, size, self.upright):
                return None
            letters.append((char.letter, path.transformed(place), (place.dx, place.dy)))
        return letters

    def _as_shown(self, m: Transform, shown: Shown, chars: list[Char], size: float) -> list[Letter] | None:
        """The glyphs that the operator shows, each with the letters that PDFium finds where it starts."""
        said: list[list[Char]] = [[] for _ in shown.glyphs]
        starts = [m.transformPoint((along, shown.rise)) for _, along in shown.glyphs]
        near = AWAY * size * math.hypot(m.xx, m.xy)
        for char in chars:
            away, nearest = min(
                (math.dist(self.upright.transformPoint(char.origin), start), index)
                for index, start in enumerate(starts)
            )
            if away > near:
                return None
            said[nearest].append(char)
        letters: list[Letter] = []
        for (path, along), told in zip(shown.glyphs, said, strict=True):
            if not len(path):
                continue
            place = m.transform(Transform(size * shown.stretch, 0, 0, size, along, shown.rise))
            closed = concat([closed_by_line(part) for part in path.subpaths()])
            drawn = closed.transformed(place)
            if not all(is_that_glyph(path, place, char, size, self.upright) for char in told):
                return None
            letters.append(("".join(char.letter for char in told) or "\ufffd", drawn, (place.dx, place.dy)))
        return letters

    def pen_matrix(self, raw: Raw) -> Transform | None:
        """From the units of a text's stroke, which its own matrix does not scale, to mm on the sheet; None where it
        isn't known (ISO 32000-1, 9.3.6).
        """
        told = self._told_of(raw)
        return self.upright.transform(told.ctm) if told is not None else None

    def _told_of(self, raw: Raw) -> Told | None:
        """What is told of the operator of a text object, where the operators and PDFium's objects agree in number."""
        if self._shown is None:
            texts = [ctypes.addressof(each.contents) for each in _texts(self.objects())]
            shown = self.ask_shown()
            self._shown = dict(zip(texts, shown, strict=True)) if len(texts) == len(shown) else {}
        return self._shown.get(ctypes.addressof(raw.contents))

    def _letters_of(self, raw: Raw) -> list[int]:
        """Which characters of the page belong to a text object."""
        if self._letters is None:
            self._letters = {}
            for index in range(pdfium.FPDFText_CountChars(self.text_page.raw)):
                owner = pdfium.FPDFText_GetTextObject(self.text_page.raw, index)
                if owner:  # none has the spaces and line ends that PDFium adds between texts
                    self._letters.setdefault(ctypes.addressof(owner.contents), []).append(index)
        return self._letters.get(ctypes.addressof(raw.contents), [])


def _with_letters(text: Lettering, letters: list[Letter], font: Raw, em_mm: float) -> Lettering:
    """A text with the letters that the file draws, and how its embedded face spaces them."""
    own = text.placement.inverse()
    pens = []
    for said, _, start in letters:
        x, y = own.transformPoint(start)
        pens.append(Pen(x, y, sum(advance_of(font, each, em_mm) for each in said)))
    drawn = tuple((said, path) for said, path, _ in letters)
    return replace(text, drawn=drawn, pens=tuple(pens), space_mm=advance_of(font, " ", em_mm))


def _texts(objects: Iterator[Raw], depth: int = 0) -> Iterator[Raw]:
    """The text objects in the order in which they are drawn."""
    for raw in objects:
        kind = pdfium.FPDFPageObj_GetType(raw)
        if kind == pdfium.FPDF_PAGEOBJ_TEXT:
            yield raw
        elif kind == pdfium.FPDF_PAGEOBJ_FORM and depth < DEEPEST_FORM:
            count = pdfium.FPDFFormObj_CountObjects(raw)
            yield from _texts((pdfium.FPDFFormObj_GetObject(raw, n) for n in range(count)), depth + 1)
