"""Which independent reader reads which ending. None of them shares code with `formats/`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path as FilePath

from unkelt.proof.import_dxf import import_dxf
from unkelt.proof.import_hpgl import import_hpgl
from unkelt.proof.import_pdf import import_pdf
from unkelt.proof.import_svg import import_svg
from unkelt.proof.imported import Imported

IMPORTERS: dict[str, Callable[[FilePath], Imported]] = {
    ".svg": import_svg,
    ".dxf": import_dxf,
    ".pdf": import_pdf,
    ".plt": import_hpgl,
}


def import_file(path: FilePath) -> Imported:
    """The file as importing software reads it, by its ending; without a known one it is taken for SVG. Raises InputError."""
    return IMPORTERS.get(path.suffix.lower(), import_svg)(path)
