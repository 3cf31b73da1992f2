"""All packages of a series or a folder as one: whole or not at all, with a contact sheet and the sums of everything."""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from unkelt.batch.contact_sheet import contact_sheet
from unkelt.batch.folder import Row
from unkelt.batch.journal import NAME
from unkelt.batch.summary_page import write_summary
from unkelt.errors import InputError
from unkelt.formats.files import put
from unkelt.messages import say
from unkelt.release.sheets import slug


def under_way(to: Path, title: str) -> Path:
    """Where the packages lie until all of them are there: a stop leaves it, and the next run goes on with it."""
    return to / f".{slug(title)}.part"


def as_one(part: Path, to: Path, title: str, rows: Sequence[Row]) -> tuple[Path, list[Row]]:
    """Makes what lies under way the package, under the first revision that is free; rows say where each job lies then.

    Raises InputError where it can't be written.
    """
    revision = next(number for number in range(1, 10_000) if not (to / f"{slug(title)}-r{number}").exists())
    folder = to / f"{slug(title)}-r{revision}"
    moved = [replace(row, output=str(folder / Path(row.output).name) if row.output else None) for row in rows]
    try:
        write_summary(moved, part, title)
        put(part / "contact-sheet.pdf", contact_sheet(title, moved))
        (part / NAME).unlink(missing_ok=True)
        put(part / "SHA256SUMS", _sums(part).encode())
        os.rename(part, folder)  # the one moment at which it appears
    except OSError as problem:
        raise InputError(str(to), say("can't be written: {value}", value=problem.strerror or problem)) from problem
    return folder, moved


def _sums(folder: Path) -> str:
    files = sorted(path for path in folder.rglob("*") if path.is_file())
    return "".join(f"{hashlib.sha256(path.read_bytes()).hexdigest()}  {path.relative_to(folder)}\n" for path in files)


def ready(rows: Sequence[Row]) -> list[Row]:
    """Those that are released."""
    return [row for row in rows if row.problem is None and row.output is not None]


def title_of(path: Path) -> str:
    """What a list or a folder is called."""
    return re.sub(r"\s+", " ", path.stem).strip() or "series"
