"""A job that begins with words instead of a file."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from unkelt.errors import InputError, StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import HeightOf
from unkelt.recipe import Call, Recipe, run
from unkelt.session.job import Job
from unkelt.sheet.model import Sheet
from unkelt.units import parse_length

BLANK_MM = (300.0, 200.0)
"""The page of a sheet that is fitted to its art, until it is."""
MARGIN = "10 mm"
LONGEST_NAME = 60


@dataclass(frozen=True, kw_only=True)
class NewSheet:
    """What is wanted: lengths as a person writes them, empty where nothing is asked for. Without a page it is fitted to
    the art. Without a height and a width the letters are 20 mm high, or as wide as the ticket wants them.
    """

    words: str = ""
    family: str = ""
    weight: int = 400
    italic: bool = False
    height: str = ""
    of: HeightOf = "capitals"
    width: str = ""
    page: tuple[str, str] | None = None


def new_job(wanted: NewSheet, workshop: Workshop, folder: Path, taken: Iterable[Path] = ()) -> Job:
    """A job made from nothing, named after its words, with the steps that made it. Its file is to be in a folder, under
    a name that is free.

    Raises LengthError where a length can't be read, InputError where the page has no size, StepRefused where the words
    can't be set.
    """
    page = tuple(parse_length(text) for text in wanted.page) if wanted.page else BLANK_MM
    if not (page[0] > 0 and page[1] > 0):
        raise InputError("the page", "must be greater than zero")
    blank = Sheet((page[0], page[1]))
    job = Job(_free(folder, wanted.words, taken), blank, workshop, received=b"")
    if not wanted.words.strip():
        return job
    options: dict[str, object] = {"text": wanted.words.strip(), "family": wanted.family}
    options |= {"weight": wanted.weight} if wanted.weight != 400 else {}
    options |= {"italic": True} if wanted.italic else {}
    options |= _size(wanted, workshop)
    key = next(iter(workshop.ticket.key), None)
    options |= {"colour": key} if key else {}
    calls = [Call("add-lettering", options=options)]
    if wanted.page is None:
        calls.append(Call("fit-page", options={"margin": MARGIN}))
    stages = tuple(run(Recipe(tuple(calls)), blank, workshop))
    refused = next((stage.skipped for stage in stages if stage.refused), None)
    if refused:
        raise StepRefused("new", refused)
    return job.with_stages(stages)


def _size(wanted: NewSheet, workshop: Workshop) -> dict[str, object]:
    if wanted.height:
        return {"height": wanted.height, **({"of": wanted.of} if wanted.of != "capitals" else {})}
    if wanted.width:
        return {"width": wanted.width}
    ticket = workshop.ticket
    if ticket.width_mm is not None:
        return {"width": f"{ticket.width_mm:g} mm"}
    if ticket.height_mm is not None:
        return {"height": f"{ticket.height_mm:g} mm", "of": "ink"}
    return {}


def _free(folder: Path, words: str, taken: Iterable[Path]) -> Path:
    """A file name made of the words that neither the folder nor an open job has."""
    stem = " ".join(re.sub(r"[^\w\s-]", " ", words).split())[:LONGEST_NAME].strip() or "New sheet"
    used = set(taken)
    number, path = 1, folder / f"{stem}.svg"
    while path in used or path.exists():
        number += 1
        path = folder / f"{stem} {number}.svg"
    return path
