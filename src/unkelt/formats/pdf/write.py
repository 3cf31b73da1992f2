"""Writing PDF: one page at true size, outlines as vectors, curves exactly as they are."""

from __future__ import annotations

import io

from fontTools.misc.transform import Transform
from reportlab.pdfgen.canvas import FILL_EVEN_ODD, FILL_NON_ZERO, Canvas

from unkelt.formats.plain import outlines_only, refuse_one_sided
from unkelt.geometry.path import LINE, Path
from unkelt.job.ticket import Ticket
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Outline, Sheet
from unkelt.sheet.pens import dash_phase_mm
from unkelt.units import MM_PER_UNIT

PT_PER_MM = 1 / MM_PER_UNIT["pt"]
_JOINS = {"miter": 0, "round": 1, "bevel": 2}
_CAPS = {"butt": 0, "round": 1, "square": 2}


def write_pdf(sheet: Sheet, ticket: Ticket) -> bytes:
    """The sheet's outlines as a PDF page. Raises InputError where it holds live text or pictures."""
    outlines = outlines_only(sheet, "PDF")
    file = io.BytesIO()
    width, height = (value * PT_PER_MM for value in sheet.page_mm)
    # `invariant`: no date and no random id, so that the same sheet always gives the same file.
    canvas = Canvas(file, pagesize=(width, height), invariant=1, pageCompression=1)
    canvas.setTitle(ticket.name or "sheet")
    for outline in outlines:
        refuse_one_sided(outline)
        _draw(canvas, outline, height)
    canvas.showPage()
    canvas.save()
    return file.getvalue()


def _draw(canvas: Canvas, outline: Outline, page_height_pt: float) -> None:
    look = outline.look
    canvas.saveState()
    if look.fill:
        canvas.setFillColor(look.fill)
    if look.stroke:
        canvas.setStrokeColor(look.stroke)
        canvas.setLineJoin(_JOINS.get(look.line_join, 0))
        canvas.setLineCap(_CAPS.get(look.line_cap, 0))
        canvas.setMiterLimit(max(1.0, look.mitre_limit))
    if look.fill_paint and not look.fill_paint.opaque:
        canvas.setFillAlpha(look.fill_paint.opacity)
    if look.stroke_paint and not look.stroke_paint.opaque:
        canvas.setStrokeAlpha(look.stroke_paint.opacity)
    canvas.transform(PT_PER_MM, 0, 0, -PT_PER_MM, 0, page_height_pt)
    if look.stroke:  # the width is in user space, which is now millimetres
        canvas.setLineWidth(look.stroke_width_mm)
        if look.dashes_mm:
            canvas.setDash(*_dashes(look))
    line = outline.path
    if look.stroke and look.pen:  # a stroke that its transform shaped keeps that transform
        pen = Transform(*look.pen, 0, 0)
        canvas.transform(*pen)
        line = line.transformed(pen.inverse())
    path = canvas.beginPath()
    for subpath in line.subpaths():
        _add(path, subpath)
    rule = FILL_EVEN_ODD if look.even_odd else FILL_NON_ZERO
    fill, stroke = bool(look.fill), bool(look.stroke)
    # PDF paints a fill before its stroke: the other order takes two paintings (ISO 32000-1, table 60).
    for strokes, fills in [(True, False), (False, True)] if look.stroke_below and fill and stroke else [(stroke, fill)]:
        canvas.drawPath(path, stroke=strokes, fill=fills, fillMode=rule)
    canvas.restoreState()


def _dashes(look: Appearance) -> tuple[list[float], float]:
    """Dashes, and where in them a line begins: never negative in PDF, and in the library's hands never with an
    exponent, which PDF doesn't know.
    """
    return [round(length, 4) for length in look.dashes_mm], round(dash_phase_mm(look), 4)


def _add(path, subpath: Path) -> None:  # type: ignore[no-untyped-def]  # reportlab has no types
    path.moveTo(*subpath.points[0, 0])
    cubics, last = subpath.cubics(), len(subpath.points) - 1
    for index, degree in enumerate(subpath.degrees.tolist()):
        if degree == LINE:
            if not (subpath.closed[0] and index == last and last):
                path.lineTo(*subpath.points[index, 3])
        else:
            path.curveTo(*cubics[index, 1:].ravel())
    if subpath.closed[0]:
        path.close()
