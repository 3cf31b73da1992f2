"""Reading PDF: the outlines, text and pictures of one page, in mm, by PDFium.

Nothing is executed: PDFium is asked for page objects only.
"""

from __future__ import annotations

import ctypes
import math
import re
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path as FilePath

import pypdfium2
import pypdfium2.raw as pdfium
from fontTools.misc.transform import Identity, Transform

from unkelt.errors import InputError
from unkelt.formats.edges import lies_within
from unkelt.formats.files import read_bytes
from unkelt.formats.pdf.chars import AWAY, POINT, Char, Raw, char_at, is_that_glyph
from unkelt.formats.pdf.fonts import advance_of, family_of, weight_of
from unkelt.formats.pdf.marks import layers_of
from unkelt.formats.pdf.paragraphs import paragraphs
from unkelt.formats.pdf.resources import Resources, resources_of
from unkelt.formats.pdf.shown import Shown, shown_by
from unkelt.formats.readable import readable
from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.path import Path, PathBuilder, closed_by_line, concat, polygon
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance, uneven_pen
from unkelt.sheet.change import transformed
from unkelt.sheet.model import (
    FaceQuery,
    Group,
    Item,
    Lettering,
    Outline,
    Pen,
    Picture,
    Reads,
    Remark,
    Run,
    Sheet,
    Source,
)

DEEPEST = 60
CLIP_MM = 0.01
"""A clip that hides no more than this hides nothing."""

PATTERN_GREY = "#bfbfbf"
"""What PDFium says is the colour of a pattern with colours of its own."""

_CAPS = {0: "butt", 1: "round", 2: "square"}
_JOINS = {0: "miter", 1: "round", 2: "bevel"}


def read_pdf(path: FilePath, page: int = 1) -> Sheet:
    """The sheet of one page, counted from 1. Raises InputError: damaged, encrypted, no such page."""
    data = read_bytes(path)
    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as problem:
        said = str(problem).lower()
        reason = (
            "is protected by a password; save it without one"
            if "password" in said
            else "is protected in a way that is not supported"
            if "security" in said
            else "is not a PDF, or is damaged"
        )
        raise InputError(str(path), reason) from problem
    try:
        count = len(document)
        if not 1 <= page <= count:
            raise InputError(
                str(path),
                say_count(
                    "has {count} page; there is no page {page}",
                    "has {count} pages; there is no page {page}",
                    count,
                    page=page,
                ),
            )
        try:
            opened = document[page - 1]
        except pypdfium2.PdfiumError as problem:
            raise InputError(str(path), say("page {page} is damaged", page=page)) from problem
        reader = _Reader(opened, str(path), lambda: shown_by(data, page - 1), resources_of(data, page - 1))
        sheet = reader.sheet()
        units = {float(value) for value in re.findall(rb"/UserUnit\s+([0-9.]+)", data)}
        if len(units) == 1 and (unit := units.pop()) != 1:
            sheet = _scaled(sheet, unit)
        elif len(units) > 1:
            note = Remark("its pages have different user units, which were not applied: check the size")
            sheet = replace(sheet, source=replace(sheet.source, remarks=(note, *sheet.source.remarks)))
        source = replace(sheet.source, pages=count, page=page)
        if count > 1:
            words = say("this is page {page} of {count}; the others were not read", page=page, count=count)
            note = Remark(words, "content.pages")
            source = replace(source, remarks=(note, *source.remarks))
        return replace(sheet, source=source)
    finally:
        document.close()


def _but_for_page(edge: Box, page: Box) -> Box:
    """A clip's edge, without end where it is the page's own or lies beyond it."""
    low = [-math.inf if a <= b + CLIP_MM else a - CLIP_MM for a, b in zip(edge[:2], page[:2], strict=True)]
    high = [math.inf if a >= b - CLIP_MM else a + CLIP_MM for a, b in zip(edge[2:], page[2:], strict=True)]
    return (*low, *high)  # type: ignore[return-value]


def _hidden(item: Item) -> Item:
    """The same, in the file and not shown."""
    if isinstance(item, Outline):
        return replace(item, look=replace(item.look, visible=False))
    if isinstance(item, Lettering):
        return replace(item, runs=tuple(replace(run, look=replace(run.look, visible=False)) for run in item.runs))
    return item


Letter = tuple[str, Path, tuple[float, float]]
"""What a glyph stands for, its curves on the sheet, and where it begins there."""


class _Reader:
    """One pass over one page's objects."""

    def __init__(
        self, page: pypdfium2.PdfPage, name: str, shown: Callable[[], list[Shown | None]], resources: Resources
    ) -> None:
        self.page, self.name, self.ask_shown, self.resources = page, name, shown, resources
        self.remarks: list[Remark] = []
        self.count = 0
        self.text_page = page.get_textpage()
        self.upright = Identity
        self._letters: dict[int, list[int]] | None = None
        self._shown: dict[int, Shown | None] | None = None

    def remark(self, words: str, code: str | None = None, items: tuple[str, ...] = ()) -> None:
        self.remarks.append(Remark(words, code, items))

    def sheet(self) -> Sheet:
        x0, y0, x1, y1 = self.page.get_cropbox()
        turn = self.page.get_rotation()
        size = ((x1 - x0) * POINT, (y1 - y0) * POINT)
        k = POINT
        upright = {
            0: Transform(k, 0, 0, -k, -x0 * k, y1 * k),
            90: Transform(0, k, k, 0, -y0 * k, -x0 * k),
            180: Transform(-k, 0, 0, k, x1 * k, -y0 * k),
            270: Transform(0, -k, -k, 0, y1 * k, x1 * k),
        }[turn % 360]
        self.upright = upright
        page = size if turn % 180 == 0 else (size[1], size[0])
        frame = (0.0, 0.0, *page)
        items = self._items(self._page_objects(), upright, frame, 0, hidden=False)
        if self.resources.patterns:
            self._remark_patterns(items)
        self._remark_annotations()
        if self.resources.several_limits and any(
            o.look.stroke and o.look.line_join == "miter" for o in Sheet((0.0, 0.0), items).outlines()
        ):
            self.remark("corners of strokes are cut off at several limits, which are all taken as 10", "content.effect")
        if not items:
            self.remark("the page draws nothing")
        return Sheet(page, paragraphs(items), Source(self.name, "pt", tuple(self.remarks), "PDF"))

    def _remark_patterns(self, items: tuple[Item, ...]) -> None:
        """PDFium gives what is painted with a tiling pattern a grey, and doesn't say so."""
        grey = tuple(o.id for o in Sheet((0.0, 0.0), items).outlines() if PATTERN_GREY in (o.look.fill, o.look.stroke))
        for name in grey:
            self.remark(
                say(
                    "“{name}” may be painted with a pattern: importing reads no more than one colour, here grey",
                    name=name,
                ),
                "content.effect",
                (name,),
            )
        if not grey:
            self.remark("the page has patterns; what is painted with one comes as one colour", "content.effect")

    def _remark_annotations(self) -> None:
        """Form fields, notes and stamps lie over a page and are no part of its drawing; what can't be seen is passed
        over.
        """
        fields = others = 0
        for index in range(pdfium.FPDFPage_GetAnnotCount(self.page.raw)):
            note = pdfium.FPDFPage_GetAnnot(self.page.raw, index)
            kind = pdfium.FPDFAnnot_GetSubtype(note)
            pdfium.FPDFPage_CloseAnnot(note)
            fields += kind == pdfium.FPDF_ANNOT_WIDGET
            others += kind not in (pdfium.FPDF_ANNOT_WIDGET, pdfium.FPDF_ANNOT_LINK, pdfium.FPDF_ANNOT_POPUP)
        if fields:
            self._remark_left_out("a form field", "form fields", fields)
        if others:
            self._remark_left_out("an annotation", "annotations", others)

    def _remark_left_out(self, one: str, several: str, count: int) -> None:
        if count == 1:
            words = say("{one} lies over the page and was left out: importing drops it", one=one)
        else:
            words = say(
                "{count} {several} lie over the page and were left out: importing drops them",
                count=count,
                several=several,
            )
        self.remark(words, "content.effect")

    def _page_objects(self) -> Iterator[Raw]:
        raw = self.page.raw
        return (pdfium.FPDFPage_GetObject(raw, index) for index in range(pdfium.FPDFPage_CountObjects(raw)))

    def _items(
        self, objects: Iterator[Raw], matrix: Transform, frame: Box, depth: int, *, hidden: bool
    ) -> tuple[Item, ...]:
        if depth > DEEPEST:
            raise InputError(self.name, say("forms are nested more than {deepest} deep", deepest=DEEPEST))
        items: list[Item] = []
        for raw in objects:
            kind = pdfium.FPDFPageObj_GetType(raw)
            own = matrix.transform(_matrix(raw))
            self.count += 1
            item: Item | None = None
            off = hidden or self._is_off(raw)
            if kind == pdfium.FPDF_PAGEOBJ_PATH:
                item = self._outline(raw, own, frame)
            elif kind == pdfium.FPDF_PAGEOBJ_TEXT:
                item = self._text(raw, own)
            elif kind == pdfium.FPDF_PAGEOBJ_IMAGE:
                corners = polygon((0, 0), (1, 0), (1, 1), (0, 1)).transformed(own)
                item = Picture(f"picture-{self.count}", bounds(corners) or frame, "embedded in the PDF")
            elif kind == pdfium.FPDF_PAGEOBJ_FORM:
                inner = (pdfium.FPDFFormObj_GetObject(raw, n) for n in range(pdfium.FPDFFormObj_CountObjects(raw)))
                name = f"form-{self.count}"
                parts = self._items(inner, own, frame, depth + 1, hidden=off)
                item = Group(name, parts) if parts else None
            else:
                self.remark("a shading has no outline and was left out: importing drops it", "content.effect")
            if item is not None:
                self._remark_blending(raw, item)
                items.append(_hidden(item) if off else item)
        return tuple(items)

    def _is_off(self, raw: Raw) -> bool:
        """Whether an object is of a layer that is switched off."""
        if not self.resources.off and not self.resources.doubtful:
            return False
        for name in layers_of(raw):
            if name in self.resources.off:
                return True
            if name in self.resources.doubtful:
                words = say(
                    "two layers are called “{name}”, and one of them is off: what is of either is shown", name=name
                )
                if all(remark.words != words for remark in self.remarks):
                    self.remark(words, "content.effect")
        return False

    def _remark_blending(self, raw: Raw, item: Item) -> None:
        """PDFium tells whether an object lets through what lies beneath, and of paths also by how much."""
        if pdfium.FPDFPageObj_HasTransparency(raw) != 1:
            return
        if isinstance(item, Group):
            if self.resources.blends:
                self.remark(
                    say("“{name}” may be translucent or blended as a whole, which importing drops", name=item.id),
                    "content.effect",
                    (item.id,),
                )
        elif isinstance(item, Outline) and item.look.fill_opacity == item.look.stroke_opacity == 1:
            self.remark(
                say("“{name}” has a blend mode or a mask, which importing drops", name=item.id),
                "content.effect",
                (item.id,),
            )

    def _outline(self, raw: Raw, matrix: Transform, frame: Box) -> Outline | None:
        path = _path(raw).transformed(matrix)
        if not len(path):
            return None
        fill_mode, stroke = ctypes.c_int(), ctypes.c_int()
        pdfium.FPDFPath_GetDrawMode(raw, fill_mode, stroke)
        if not fill_mode.value and not stroke.value:
            return None  # a path that only clips
        name = f"path-{self.count}"
        scale = math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx))
        width, phase = ctypes.c_float(1.0), ctypes.c_float()
        pdfium.FPDFPageObj_GetStrokeWidth(raw, width)
        fill = self._colour(raw, pdfium.FPDFPageObj_GetFillColor, name) if fill_mode.value else (None, 1.0)
        line = self._colour(raw, pdfium.FPDFPageObj_GetStrokeColor, name) if stroke.value else (None, 1.0)
        dashes = self._dashes(raw, scale) if stroke.value else ()
        pdfium.FPDFPageObj_GetDashPhase(raw, phase)
        look = Appearance(
            fill=fill[0],
            stroke=line[0],
            # A width of 0 is the thinnest line that can be drawn (ISO 32000-1, 8.4.3.2), and none in other formats.
            stroke_width_mm=width.value * scale if line[0] and width.value else DEFAULT_STROKE_MM,
            line_join=_JOINS.get(pdfium.FPDFPageObj_GetLineJoin(raw), "miter"),
            line_cap=_CAPS.get(pdfium.FPDFPageObj_GetLineCap(raw), "butt"),
            mitre_limit=self.resources.mitre_limit,
            fill_opacity=fill[1] if fill[0] else 1.0,
            stroke_opacity=line[1] if line[0] else 1.0,
            even_odd=fill_mode.value == pdfium.FPDF_FILLMODE_ALTERNATE,
            dashes_mm=dashes,
            dash_offset_mm=phase.value * scale if dashes else 0.0,
            pen=uneven_pen(*matrix[:4]) if line[0] else None,
        )
        if line[0] and not width.value:
            self.remark(
                say(
                    "“{name}” is a line of no width, drawn as thin as can be: importing takes it as a hairline",
                    name=name,
                ),
                "content.effect",
                (name,),
            )
        outline = Outline(name, path, look, reads=Reads.UNKNOWN)  # PDF has no word for it
        self._remark_clip(raw, outline, frame, matrix)
        return outline

    def _colour(self, raw: Raw, get: Raw, name: str) -> tuple[str | None, float]:
        r, g, b, a = (ctypes.c_uint() for _ in range(4))
        if not get(raw, r, g, b, a):
            self.remark(
                say(
                    "“{name}” is painted with a pattern: importing reads no more than one colour, here black", name=name
                ),
                "content.effect",
                (name,),
            )
            return "#000000", 1.0
        return f"#{r.value:02x}{g.value:02x}{b.value:02x}", a.value / 255

    def _dashes(self, raw: Raw, scale: float) -> tuple[float, ...]:
        count = pdfium.FPDFPageObj_GetDashCount(raw)
        if count <= 0:
            return ()
        values = (ctypes.c_float * count)()
        pdfium.FPDFPageObj_GetDashArray(raw, values, count)
        return tuple(float(value) * scale for value in values)

    def _remark_clip(self, raw: Raw, outline: Outline, frame: Box, matrix: Transform) -> None:
        """A clip that hides a part of an outline on the page; most clips are a page's own and hide nothing."""
        clip = pdfium.FPDFPageObj_GetClipPath(raw)
        own = _matrix(raw)
        if not clip or own.xx * own.yy == own.xy * own.yx:
            return
        upright = matrix.transform(own.inverse())
        for index in range(max(0, pdfium.FPDFClipPath_CountPaths(clip))):
            builder = PathBuilder()
            for number in range(pdfium.FPDFClipPath_CountPathSegments(clip, index)):
                _draw(builder, pdfium.FPDFClipPath_GetPathSegment(clip, index, number), [])
            around = bounds(builder.path().transformed(upright))
            if around and not lies_within((outline,), _but_for_page(around, frame)):
                self.remark(
                    say("“{name}” is partly hidden by a clip: importing shows all of it", name=outline.id),
                    "content.effect",
                    (outline.id,),
                )
                return

    def _text(self, raw: Raw, matrix: Transform) -> Lettering | None:
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
        look = self._text_look(raw, scale)
        query = FaceQuery((family_of(font),), weight_of(font), angle.value != 0)
        run = Run(words, query, size.value * scale, look, at=(0.0, 0.0))
        drawn = self._drawn(raw, matrix, font, size.value)
        beyond = ("forms of letters that only its own face has",) if drawn is None else ()
        text = Lettering(f"text-{self.count}", (run,), "start", placement, beyond=beyond)
        return _with_letters(text, drawn, font, size.value * scale) if drawn else text

    def _text_look(self, raw: Raw, scale: float) -> Appearance:
        """What a text is painted with: filled, stroked, both, or neither (ISO 32000-1, table 106)."""
        name = f"text-{self.count}"
        mode = pdfium.FPDFTextObj_GetTextRenderMode(raw)
        if mode >= pdfium.FPDF_TEXTRENDERMODE_FILL_CLIP:
            self.remark(
                say("“{name}” also clips what follows: importing shows all of it", name=name), "content.effect", (name,)
            )
            mode -= pdfium.FPDF_TEXTRENDERMODE_FILL_CLIP
        fill: tuple[str | None, float] = (None, 1.0)
        line = fill
        if mode in (pdfium.FPDF_TEXTRENDERMODE_FILL, pdfium.FPDF_TEXTRENDERMODE_FILL_STROKE):
            fill = self._colour(raw, pdfium.FPDFPageObj_GetFillColor, name)
        if mode in (pdfium.FPDF_TEXTRENDERMODE_STROKE, pdfium.FPDF_TEXTRENDERMODE_FILL_STROKE):
            line = self._colour(raw, pdfium.FPDFPageObj_GetStrokeColor, name)
        width = ctypes.c_float(1.0)
        pdfium.FPDFPageObj_GetStrokeWidth(raw, width)
        return Appearance(
            fill=fill[0],
            stroke=line[0],
            stroke_width_mm=width.value * scale if line[0] else DEFAULT_STROKE_MM,
            fill_opacity=fill[1],
            stroke_opacity=line[1],
        )

    def _drawn(self, raw: Raw, matrix: Transform, font: Raw, size: float) -> list[Letter] | None:
        """The letters of a text with the curves of its embedded face, each where the file puts it, and where it begins.

        Empty where the face isn't embedded: then the shelf must have it. None where it is, and a letter's form isn't
        found in it: the shelf's face would set another.
        """
        if not font or pdfium.FPDFFont_GetIsEmbedded(font) != 1:
            return []
        chars = [char for index in self._letters_of(raw) if (char := char_at(self.text_page.raw, index)).letter.strip()]
        if shown := self._shown_by(raw):
            return self._as_shown(matrix, shown, chars, size)
        letters: list[Letter] = []
        for char in chars:
            glyph = pdfium.FPDFFont_GetGlyphPath(font, ord(char.letter), size)
            count = pdfium.FPDFGlyphPath_CountGlyphSegments(glyph) if glyph else 0
            builder = PathBuilder()
            pending: list[tuple[float, float]] = []
            for number in range(max(count, 0)):
                _draw(builder, pdfium.FPDFGlyphPath_GetGlyphPathSegment(glyph, number), pending)
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

    def _shown_by(self, raw: Raw) -> Shown | None:
        """What the operator of a text object shows, where the operators and PDFium's objects agree in number."""
        if self._shown is None:
            texts = [ctypes.addressof(each.contents) for each in _texts(self._page_objects())]
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
        elif kind == pdfium.FPDF_PAGEOBJ_FORM and depth < DEEPEST:
            count = pdfium.FPDFFormObj_CountObjects(raw)
            yield from _texts((pdfium.FPDFFormObj_GetObject(raw, n) for n in range(count)), depth + 1)


def _scaled(sheet: Sheet, unit: float) -> Sheet:
    """ISO 32000: a page may say that its unit is more than a point; PDFium doesn't tell, so the file is asked
    itself.
    """
    changed = transformed(sheet, Transform(unit, 0, 0, unit, 0, 0), strokes=True)
    note = Remark(say("the page's user unit is {unit:g} points, and was applied", unit=unit))
    source = replace(sheet.source, remarks=(note, *sheet.source.remarks))
    return replace(changed, page_mm=(sheet.page_mm[0] * unit, sheet.page_mm[1] * unit), source=source)


def _matrix(raw: Raw) -> Transform:
    m = pdfium.FS_MATRIX()
    if not pdfium.FPDFPageObj_GetMatrix(raw, m):
        return Identity
    return Transform(m.a, m.b, m.c, m.d, m.e, m.f)


def _path(raw: Raw) -> Path:
    builder = PathBuilder()
    pending: list[tuple[float, float]] = []
    for index in range(pdfium.FPDFPath_CountSegments(raw)):
        _draw(builder, pdfium.FPDFPath_GetPathSegment(raw, index), pending)
    return builder.path()


def _draw(builder: PathBuilder, segment: Raw, pending: list[tuple[float, float]]) -> None:
    """One segment of PDFium's; a Bézier comes in three, its handles first."""
    x, y = ctypes.c_float(), ctypes.c_float()
    pdfium.FPDFPathSegment_GetPoint(segment, x, y)
    kind = pdfium.FPDFPathSegment_GetType(segment)
    if kind == pdfium.FPDF_SEGMENT_MOVETO:
        builder.move_to(x.value, y.value)
    elif kind == pdfium.FPDF_SEGMENT_BEZIERTO:
        pending.append((x.value, y.value))
        if len(pending) == 3:
            builder.cubic_to(*pending[0], *pending[1], *pending[2])
            pending.clear()
    else:
        builder.line_to(x.value, y.value)
    if pdfium.FPDFPathSegment_GetClose(segment):
        builder.close()
