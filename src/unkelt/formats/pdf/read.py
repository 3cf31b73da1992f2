"""Reading PDF: the outlines, text and pictures of one page, in mm, by PDFium.

Nothing is executed: PDFium is asked for page objects only.
"""

from __future__ import annotations

import ctypes
import math
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path as FilePath

import pypdfium2
import pypdfium2.raw as pdfium
from fontTools.misc.transform import Transform

from unkelt.errors import InputError
from unkelt.formats.edges import lies_within
from unkelt.formats.files import read_bytes
from unkelt.formats.limits import DEEPEST_FORM
from unkelt.formats.pdf.chars import POINT, Raw
from unkelt.formats.pdf.marks import layers_of
from unkelt.formats.pdf.paragraphs import paragraphs
from unkelt.formats.pdf.resources import Resources, resources_of
from unkelt.formats.pdf.segments import draw, matrix_of, path_of
from unkelt.formats.pdf.shown import Told, shown_by
from unkelt.formats.pdf.texts import Texts
from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.path import PathBuilder
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance, Paint, uneven_pen
from unkelt.sheet.change import transformed
from unkelt.sheet.model import (
    Group,
    Item,
    Lettering,
    Outline,
    Picture,
    Reads,
    Remark,
    Sheet,
    Source,
)

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
        resources = resources_of(data, page - 1)
        reader = _Reader(opened, str(path), lambda: shown_by(data, page - 1), resources)
        sheet = reader.sheet()
        if resources.unit is None and b"/UserUnit" in data:
            note = Remark("the page may have a unit of its own, which was not applied: check the size")
            sheet = replace(sheet, source=replace(sheet.source, remarks=(note, *sheet.source.remarks)))
        elif resources.unit not in (None, 1.0):
            sheet = _scaled(sheet, resources.unit)
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
    if isinstance(item, Picture):
        return replace(item, visible=False)
    if isinstance(item, Lettering):
        return replace(item, runs=tuple(replace(run, look=replace(run.look, visible=False)) for run in item.runs))
    return item


class _Reader:
    """One pass over one page's objects."""

    def __init__(
        self, page: pypdfium2.PdfPage, name: str, shown: Callable[[], list[Told]], resources: Resources
    ) -> None:
        self.page, self.name, self.ask_shown, self.resources = page, name, shown, resources
        self.remarks: list[Remark] = []
        self.count = 0
        self.texts: Texts | None = None

    def remark(self, words: str, code: str | None = None, items: tuple[str, ...] = ()) -> None:
        self.remarks.append(Remark(words, code, items))

    def sheet(self) -> Sheet:
        x0, y0, x1, y1 = self.page.get_bbox()  # a box may be said by what the page stands in
        turn = self.page.get_rotation()
        size = ((x1 - x0) * POINT, (y1 - y0) * POINT)
        k = POINT
        upright = {
            0: Transform(k, 0, 0, -k, -x0 * k, y1 * k),
            90: Transform(0, k, k, 0, -y0 * k, -x0 * k),
            180: Transform(-k, 0, 0, k, x1 * k, -y0 * k),
            270: Transform(0, -k, -k, 0, y1 * k, x1 * k),
        }[turn % 360]
        self.texts = Texts(self.page, self._page_objects, self.ask_shown, upright)
        page = size if turn % 180 == 0 else (size[1], size[0])
        frame = (0.0, 0.0, *page)
        items = self._items(self._page_objects(), upright, frame, 0, hidden=False)
        if self.resources.patterns:
            self._remark_patterns(items)
        self._remark_annotations()
        if self.resources.several_limits and any(
            o.look.stroke and o.look.line_join == "miter" for o in Sheet((0.0, 0.0), items).outlines()
        ):
            self.remark("the page has several mitre limits: Unkelt takes 10 for all strokes", "content.effect")
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
        if depth > DEEPEST_FORM:
            raise InputError(self.name, say("forms are nested more than {deepest} deep", deepest=DEEPEST_FORM))
        items: list[Item] = []
        for raw in objects:
            kind = pdfium.FPDFPageObj_GetType(raw)
            own = matrix.transform(matrix_of(raw))
            self.count += 1
            item: Item | None = None
            off = hidden or self._is_off(raw)
            if kind == pdfium.FPDF_PAGEOBJ_PATH:
                item = self._outline(raw, own, frame)
            elif kind == pdfium.FPDF_PAGEOBJ_TEXT:
                item = self._text(raw, own)
            elif kind == pdfium.FPDF_PAGEOBJ_IMAGE:
                upright = own.transform((1, 0, 0, -1, 0, 1))  # PDF counts its rows from below
                item = Picture(f"picture-{self.count}", (1, 1), upright, "embedded in the PDF", fit="none")
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
                words = say("two layers are called “{name}”, and one of them is off: Unkelt shows both", name=name)
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
        path = path_of(raw).transformed(matrix)
        if not len(path):
            return None
        fill_mode, stroke = ctypes.c_int(), ctypes.c_int()
        pdfium.FPDFPath_GetDrawMode(raw, fill_mode, stroke)
        if not fill_mode.value and not stroke.value:
            return None  # a path that only clips
        name = f"path-{self.count}"
        look = self._look(raw, matrix, name, filled=bool(fill_mode.value), stroked=bool(stroke.value))
        look = replace(look, even_odd=fill_mode.value == pdfium.FPDF_FILLMODE_ALTERNATE)
        outline = Outline(name, path, look, reads=Reads.UNKNOWN)  # PDF has no word for it
        self._remark_clip(raw, outline, frame, matrix)
        return outline

    def _look(self, raw: Raw, matrix: Transform, name: str, *, filled: bool, stroked: bool) -> Appearance:
        """How an object is painted; the matrix, to mm, shapes its stroke."""
        scale = math.sqrt(abs(matrix.xx * matrix.yy - matrix.xy * matrix.yx))
        width, phase = ctypes.c_float(1.0), ctypes.c_float()
        pdfium.FPDFPageObj_GetStrokeWidth(raw, width)
        pdfium.FPDFPageObj_GetDashPhase(raw, phase)
        fill = self._colour(raw, pdfium.FPDFPageObj_GetFillColor, name) if filled else None
        line = self._colour(raw, pdfium.FPDFPageObj_GetStrokeColor, name) if stroked else None
        if line and not width.value:
            self.remark(
                say(
                    "“{name}” has a line width of 0: Unkelt takes it as a hairline of 0.26 mm",
                    name=name,
                ),
                "content.effect",
                (name,),
            )
        if fill and line and line.opacity < 1:  # ISO 32000-1, 11.7.4.4: both are painted as one group that knocks out
            self.remark(
                say(
                    "PDF hides the fill beneath the translucent stroke of “{name}”: Unkelt lets it show through",
                    name=name,
                ),
                "content.effect",
                (name,),
            )
        dashes = self._dashes(raw, scale) if line else ()
        return Appearance(
            fill=fill.colour if fill else None,
            stroke=line.colour if line else None,
            # A width of 0 is the thinnest line that can be drawn (ISO 32000-1, 8.4.3.2), and none in other formats.
            stroke_width_mm=width.value * scale if line and width.value else DEFAULT_STROKE_MM,
            line_join=_JOINS.get(pdfium.FPDFPageObj_GetLineJoin(raw), "miter"),
            line_cap=_CAPS.get(pdfium.FPDFPageObj_GetLineCap(raw), "butt"),
            mitre_limit=self.resources.mitre_limit,
            fill_opacity=fill.opacity if fill else 1.0,
            stroke_opacity=line.opacity if line else 1.0,
            dashes_mm=dashes,
            dash_offset_mm=phase.value * scale if dashes else 0.0,
            pen=uneven_pen(*matrix[:4]) if line else None,
        )

    def _colour(self, raw: Raw, get: Raw, name: str) -> Paint:
        r, g, b, a = (ctypes.c_uint() for _ in range(4))
        if not get(raw, r, g, b, a):
            self.remark(
                say(
                    "“{name}” is painted with a pattern: importing reads no more than one colour, here black", name=name
                ),
                "content.effect",
                (name,),
            )
            return Paint("#000000")
        return Paint(f"#{r.value:02x}{g.value:02x}{b.value:02x}", a.value / 255)

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
        own = matrix_of(raw)
        if not clip or own.xx * own.yy == own.xy * own.yx:
            return
        upright = matrix.transform(own.inverse())
        for index in range(max(0, pdfium.FPDFClipPath_CountPaths(clip))):
            builder = PathBuilder()
            for number in range(pdfium.FPDFClipPath_CountPathSegments(clip, index)):
                draw(builder, pdfium.FPDFClipPath_GetPathSegment(clip, index, number), [])
            around = bounds(builder.path().transformed(upright))
            if around and not lies_within((outline,), _but_for_page(around, frame)):
                self.remark(
                    say("“{name}” is partly hidden by a clip: importing shows all of it", name=outline.id),
                    "content.effect",
                    (outline.id,),
                )
                return

    def _text(self, raw: Raw, matrix: Transform) -> Lettering | None:
        assert self.texts is not None
        texts = self.texts
        return texts.lettering(raw, matrix, f"text-{self.count}", lambda: self._text_look(raw, matrix, texts))

    def _text_look(self, raw: Raw, matrix: Transform, texts: Texts) -> Appearance:
        """What a text is painted with: filled, stroked, both, or neither (ISO 32000-1, table 106)."""
        name = f"text-{self.count}"
        mode = pdfium.FPDFTextObj_GetTextRenderMode(raw)
        if mode >= pdfium.FPDF_TEXTRENDERMODE_FILL_CLIP:
            self.remark(
                say("“{name}” also clips what follows: importing shows all of it", name=name), "content.effect", (name,)
            )
            mode -= pdfium.FPDF_TEXTRENDERMODE_FILL_CLIP
        filling = (pdfium.FPDF_TEXTRENDERMODE_FILL, pdfium.FPDF_TEXTRENDERMODE_FILL_STROKE)
        stroking = (pdfium.FPDF_TEXTRENDERMODE_STROKE, pdfium.FPDF_TEXTRENDERMODE_FILL_STROKE)
        pen = texts.pen_matrix(raw) if mode in stroking else matrix
        if pen is None:
            self.remark(
                say("Unkelt can't tell the stroke width of “{name}”, and estimates it", name=name),
                "content.effect",
                (name,),
            )
        return self._look(raw, pen or matrix, name, filled=mode in filling, stroked=mode in stroking)


def _scaled(sheet: Sheet, unit: float) -> Sheet:
    """ISO 32000: a page may say that its unit is more than a point; PDFium doesn't tell, so the file is asked
    itself.
    """
    changed = transformed(sheet, Transform(unit, 0, 0, unit, 0, 0), strokes=True)
    note = Remark(say("the page's user unit is {unit:g} points, and was applied", unit=unit))
    source = replace(sheet.source, remarks=(note, *sheet.source.remarks))
    return replace(changed, page_mm=(sheet.page_mm[0] * unit, sheet.page_mm[1] * unit), source=source)
