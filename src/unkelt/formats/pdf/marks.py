"""The layers that objects of a page are marked to be of."""

from __future__ import annotations

import ctypes
from collections.abc import Callable, Iterator
from typing import Any

import pypdfium2.raw as pdfium

from unkelt.formats.pdf.chars import Raw


def layers_of(raw: Raw) -> Iterator[str]:
    """The names of the optional content groups that an object is of (ISO 32000-1, 8.11.3.2)."""
    for number in range(max(0, pdfium.FPDFPageObj_CountMarks(raw))):
        mark = pdfium.FPDFPageObj_GetMark(raw, number)
        if _text(pdfium.FPDFPageObjMark_GetName, mark) == "OC":
            yield _text(pdfium.FPDFPageObjMark_GetParamStringValue, mark, b"Name")


def _text(ask: Callable[..., Any], *of: Any) -> str:
    length = ctypes.c_ulong()
    if not ask(*of, None, 0, length):
        return ""
    buffer = ctypes.create_string_buffer(max(length.value, 2))
    ask(*of, ctypes.cast(buffer, ctypes.POINTER(ctypes.c_ushort)), length.value, length)
    return buffer.raw[: length.value].decode("utf-16-le", "replace").rstrip("\x00")
