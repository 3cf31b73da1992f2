"""`compound.loose`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.geometry.measure import bounds, join_boxes
from unkelt.language import grouped
from unkelt.sheet.model import Sheet
from unkelt.sheet.words import words
from unkelt.survey.check import Workshop, check
from unkelt.survey.finding import Finding, Level


@check("compound.loose")
def compound_loose(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Pieces of one lettering that are not bound in one compound path: importing may scatter them."""
    for word in words(sheet):
        if len(word.outlines) < 2:
            continue
        marks = tuple(box for outline in word.outlines if (box := bounds(outline.path)))
        yield Finding(
            code="compound.loose",
            level=Level.HOLD,
            items=word.ids,
            box=join_boxes(list(marks)),
            value=float(len(word.outlines)),
            unit="outlines",
            headline=f"{grouped(len(word.outlines))} outlines, not one compound path",
            detail="importing may scatter them",
            message="Importing takes every outline for a part of its own and may move, sort or nest them apart.",
            steps=("bind",),
            marks=marks,
        )
