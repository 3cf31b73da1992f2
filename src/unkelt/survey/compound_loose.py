"""`compound.loose`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.anatomy.words import Word, words
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.job.workshop import Workshop
from unkelt.language import grouped
from unkelt.messages import say
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("compound.loose")
def compound_loose(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Pieces of one word are not bound into one compound path. Importing software may scatter them."""
    for outlines in (alike for word in words(sheet) for alike in _alike(word, workshop)):
        if len(outlines) < 2:
            continue
        marks = tuple(box for outline in outlines if (box := bounds(outline.path)))
        yield Finding(
            code="compound.loose",
            level=Level.HOLD,
            items=tuple(outline.id for outline in outlines),
            box=join_boxes(list(marks)),
            value=float(len(outlines)),
            unit="outlines",
            headline=say("{count} outlines, not one compound path", count=grouped(len(outlines))),
            detail="importing may scatter them",
            message="Importing software takes every outline for a separate part, and may move, sort or nest them "
            "separately.",
            marks=marks,
        )


def _alike(word: Word, workshop: Workshop) -> list[list[Outline]]:
    """The outlines of a word, those of one material and way round together: a compound path has one paint."""
    groups: dict[object, list[Outline]] = {}
    for outline in word.outlines:
        if outline.look.shown:
            groups.setdefault((workshop.ticket.family(outline.look), outline.reads), []).append(outline)
    return list(groups.values())
