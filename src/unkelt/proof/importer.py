"""Which independent reader reads which ending. None of them shares code with `formats/`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path as FilePath

from unkelt.proof.import_hpgl import import_hpgl
from unkelt.proof.imported import Imported

# These are imported when they are first called: their libraries take a while.


def _import_svg(path: FilePath) -> Imported:
    from unkelt.proof.import_svg import import_svg

    return import_svg(path)


def _import_dxf(path: FilePath) -> Imported:
    from unkelt.proof.import_dxf import import_dxf

    return import_dxf(path)


def _import_pdf(path: FilePath) -> Imported:
    from unkelt.proof.import_pdf import import_pdf

    return import_pdf(path)


IMPORTERS: dict[str, Callable[[FilePath], Imported]] = {
    ".svg": _import_svg,
    ".dxf": _import_dxf,
    ".pdf": _import_pdf,
    ".plt": import_hpgl,
}


def import_file(path: FilePath) -> Imported:
    """The file as importing software reads it, by its ending; without a known one it is taken for SVG. Raises
    InputError.
    """
    return IMPORTERS.get(path.suffix.lower(), _import_svg)(path)
