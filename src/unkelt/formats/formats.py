"""Which endings can be read and written, and by what."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from pkgutil import resolve_name
from typing import Any

from unkelt.errors import InputError
from unkelt.formats.files import write_whole
from unkelt.formats.hpgl.write import write_hpgl
from unkelt.formats.svg.read import read_svg
from unkelt.formats.svg.write import places_for, write_svg
from unkelt.sheet.model import Sheet
from unkelt.sheet.ticket import Ticket


def _first_imported(name: str) -> Callable[..., Any]:
    """A function of a module that is imported when it is first called: the libraries of some formats take a while."""

    def call(*given: Any) -> Any:
        return resolve_name(name)(*given)

    return call


_read_pdf = _first_imported("unkelt.formats.pdf.read:read_pdf")

READERS: dict[str, Callable[[Path], Sheet]] = {
    ".svg": read_svg,
    ".svgz": read_svg,
    ".pdf": _read_pdf,
    ".dxf": _first_imported("unkelt.formats.dxf.read:read_dxf"),
}
WRITERS: dict[str, Callable[[Sheet, Ticket], bytes]] = {
    ".svg": lambda sheet, ticket: write_svg(sheet, places_for(ticket.tolerance.chord_mm)),
    ".dxf": _first_imported("unkelt.formats.dxf.write:write_dxf"),
    ".pdf": _first_imported("unkelt.formats.pdf.write:write_pdf"),
    ".plt": write_hpgl,
}


def read_sheet(path: Path, page: int = 1) -> Sheet:
    """The sheet of a file, by its ending; `page` counts from 1. Raises InputError.

    A file without a known ending is tried as SVG.
    """
    if path.suffix.lower() == ".pdf":
        sheet: Sheet = _read_pdf(path, page)
        return sheet
    return READERS.get(path.suffix.lower(), read_svg)(path)


def write_sheet(sheet: Sheet, path: Path, ticket: Ticket | None = None, *, never_over: Path | None = None) -> None:
    """Writes a sheet in the format of the path's ending, whole or not at all; the ticket says what is which operation.

    Raises InputError.
    """
    writer = WRITERS.get(path.suffix.lower())
    if writer is None:
        raise InputError(str(path), f"its ending is none that can be written ({', '.join(WRITERS)})")
    write_whole(path, writer(sheet, ticket or Ticket()), never_over=never_over)
