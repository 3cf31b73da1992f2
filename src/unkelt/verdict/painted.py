"""What pictures of a job show, which other programs paint: the file as received beside the sheet as written."""

from __future__ import annotations

from pathlib import Path

from unkelt.errors import InputError
from unkelt.formats.files import read_bytes
from unkelt.formats.formats import WRITERS
from unkelt.outgoing import outgoing
from unkelt.proof.pictures import compare, compare_format
from unkelt.proof.pixels import Pictures
from unkelt.verdict.case import Case
from unkelt.verdict.lost import whole_of


def pictures_of(case: Case, written: bytes | None = None) -> Pictures:
    """The file as received and the sheet as it is written in SVG, painted by a renderer of somebody else's, and where
    they differ.

    `written` are the bytes that were written, where they are there already.
    """
    try:
        received = case.data
    except InputError as problem:
        return Pictures.none(str(problem))
    if not received:
        return Pictures.none("it was made from nothing")
    ticket, sheet = case.workshop.ticket, case.sheet
    written = WRITERS[".svg"](outgoing(sheet, case.workshop), ticket) if written is None else written
    return compare(received, case.source, case.original, written, sheet, whole_of(case), ticket, case.workshop.shelf)


def pictures_of_file(case: Case, path: Path) -> tuple[Pictures, ...]:
    """The pictures of a job and of a file that was written of it: as received beside as written, and its format beside
    SVG.
    """
    if path.suffix.lower() == ".svg":
        return (pictures_of(case, read_bytes(path)),)
    ticket = case.workshop.ticket
    as_svg = WRITERS[".svg"](outgoing(case.sheet, case.workshop), ticket)
    return pictures_of(case, as_svg), compare_format(path, as_svg, case.sheet, ticket)


def held_by_pictures(case: Case, path: Path) -> tuple[str, ...]:
    """What the pictures of a job and of its file hold against that file, in lines as findings have them."""
    return held_by(*pictures_of_file(case, path))


def held_by(*pictures: Pictures) -> tuple[str, ...]:
    """What holds of the differences that nothing explains, in lines as findings have them."""
    left = [each.lost[0] for each in pictures if each.lost]
    return tuple(f"ink.lost: the picture differs from what was received: {each.words()}" for each in left)
