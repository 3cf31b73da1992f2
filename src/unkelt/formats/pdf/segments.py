"""Curves and matrices as PDFium gives them."""

from __future__ import annotations

import ctypes

import pypdfium2.raw as pdfium
from fontTools.misc.transform import Identity, Transform

from unkelt.formats.pdf.chars import Raw
from unkelt.geometry.path import Path, PathBuilder


def matrix_of(raw: Raw) -> Transform:
    """How an object lies in what it stands in."""
    m = pdfium.FS_MATRIX()
    if not pdfium.FPDFPageObj_GetMatrix(raw, m):
        return Identity
    return Transform(m.a, m.b, m.c, m.d, m.e, m.f)


def path_of(raw: Raw) -> Path:
    """The curves of a path object, in its own units."""
    builder = PathBuilder()
    pending: list[tuple[float, float]] = []
    for index in range(pdfium.FPDFPath_CountSegments(raw)):
        draw(builder, pdfium.FPDFPath_GetPathSegment(raw, index), pending)
    return builder.path()


def draw(builder: PathBuilder, segment: Raw, pending: list[tuple[float, float]]) -> None:
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
