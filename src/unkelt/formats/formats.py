"""Which endings can be read and written, and by what."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from unkelt.errors import InputError
from unkelt.formats.files import write_whole
from unkelt.formats.svg.read import read_svg
from unkelt.job.ticket import Ticket
from unkelt.messages import say
from unkelt.sheet.model import Sheet

# What writes, and the libraries of DXF and PDF, take a while to import: they are when a file needs them.


def _read_dxf(path: Path) -> Sheet:
    from unkelt.formats.dxf.read import read_dxf

    return read_dxf(path)


def _write_dxf(sheet: Sheet, ticket: Ticket, number_mm: float = 1.0) -> bytes:
    from unkelt.formats.dxf.write import write_dxf

    return write_dxf(sheet, ticket, number_mm)


def _read_pdf(path: Path, page: int = 1) -> Sheet:
    from unkelt.formats.pdf.read import read_pdf

    return read_pdf(path, page)


def _write_pdf(sheet: Sheet, ticket: Ticket) -> bytes:
    from unkelt.formats.pdf.write import write_pdf

    return write_pdf(sheet, ticket)


READERS: dict[str, Callable[[Path], Sheet]] = {
    ".svg": read_svg,
    ".svgz": read_svg,
    ".pdf": _read_pdf,
    ".dxf": _read_dxf,
}
XML = b"<", b"\x1f\x8b", b"\xff\xfe", b"\xfe\xff"
"""How it begins: plain, packed, or of wide characters."""


def _write_svg(sheet: Sheet, ticket: Ticket, number_mm: float = 1.0) -> bytes:
    from unkelt.formats.svg.write import places_for, write_svg

    return write_svg(sheet, places_for(ticket.tolerance.chord_mm / number_mm), number_mm)


def _write_hpgl(sheet: Sheet, ticket: Ticket) -> bytes:
    from unkelt.formats.hpgl.write import write_hpgl

    return write_hpgl(sheet, ticket)


WRITERS: dict[str, Callable[[Sheet, Ticket], bytes]] = {
    ".svg": _write_svg,
    ".dxf": _write_dxf,
    ".pdf": _write_pdf,
    ".plt": _write_hpgl,
}


NUMBERED: dict[str, Callable[[Sheet, Ticket, float], bytes]] = {".svg": _write_svg, ".dxf": _write_dxf}
"""Those whose numbers may mean another length than their own: so many mm each. The unit of all others is fixed."""


def read_sheet(path: Path, page: int = 1) -> Sheet:
    """The sheet of a file, by its ending or, where that is none of those read, by how it begins; `page` counts from 1.

    Raises InputError.
    """
    reader = READERS.get(path.suffix.lower()) or _by_its_beginning(path)
    return _read_pdf(path, page) if reader is _read_pdf else reader(path)


def _by_its_beginning(path: Path) -> Callable[[Path], Sheet]:
    if not path.is_file():
        return read_svg  # which says what is wrong, and doesn't wait for what a pipe may bring
    try:
        with path.open("rb") as file:
            begins = file.read(1024).removeprefix(b"\xef\xbb\xbf").lstrip()
    except OSError:
        return read_svg  # which says what is wrong
    if b"%PDF-" in begins:  # ISO 32000 allows for something before it
        return _read_pdf
    if begins.startswith(b"AutoCAD Binary DXF") or (begins.startswith((b"0", b"999")) and b"SECTION" in begins):
        return _read_dxf
    if not begins or begins.startswith(XML):
        return read_svg
    written_only = " (HPGL is only written)" if path.suffix.lower() in WRITERS else ""
    raise InputError(
        str(path),
        say(
            "is none of what can be read: {listed}{written_only}", listed=", ".join(READERS), written_only=written_only
        ),
    )


def write_sheet(sheet: Sheet, path: Path, ticket: Ticket | None = None, *, never_over: Path | None = None) -> None:
    """Writes a sheet in the format of the path's ending, whole or not at all; the ticket says what is which operation.

    Raises InputError.
    """
    writer = WRITERS.get(path.suffix.lower())
    if writer is None:
        raise InputError(str(path), say("its ending is none that can be written ({listed})", listed=", ".join(WRITERS)))
    write_whole(path, writer(sheet, ticket or Ticket()), never_over=never_over)
