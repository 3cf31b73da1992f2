"""Which independent reader reads which ending. None of them shares code with `formats/`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path as FilePath
from pkgutil import resolve_name

from unkelt.proof.import_hpgl import import_hpgl
from unkelt.proof.import_svg import import_svg
from unkelt.proof.imported import Imported

# These two are imported when they are first called: their libraries take a while.


def _import_dxf(path: FilePath) -> Imported:
    found: Imported = resolve_name("unkelt.proof.import_dxf:import_dxf")(path)
    return found


def _import_pdf(path: FilePath) -> Imported:
    found: Imported = resolve_name("unkelt.proof.import_pdf:import_pdf")(path)
    return found


IMPORTERS: dict[str, Callable[[FilePath], Imported]] = {
    ".svg": import_svg,
    ".dxf": _import_dxf,
    ".pdf": _import_pdf,
    ".plt": import_hpgl,
}


def import_file(path: FilePath) -> Imported:
    """The file as importing software reads it, by its ending; without a known one it is taken for SVG. Raises InputError."""
    return IMPORTERS.get(path.suffix.lower(), import_svg)(path)
