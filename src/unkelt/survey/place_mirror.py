"""`place.mirror`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.messages import headline, say
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Item, Lettering, Outline, Reads, Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("place.mirror")
def place_mirror(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The ticket says whether the work must be mirrored, and some items are not. Film cut from the wrong side reads
    backwards.
    """
    wanted = workshop.ticket.mirrored
    if wanted is None:
        return
    reads = {item.id: way for item in sheet.walk() if (way := _reads(item, workshop)) is not None}
    right = Reads.BACKWARDS if wanted else Reads.FORWARDS
    wrong = [name for name, way in reads.items() if way is right.mirrored()]
    unknown = [name for name, way in reads.items() if way is Reads.UNKNOWN]
    if wrong:
        said = "not mirrored, as the ticket asks" if wanted else "mirrored, which the ticket doesn't want"
        many = say("{count} of {total} items: {said}", count=len(wrong), total=len(reads), said=say(said))
        yield _finding(
            sheet,
            workshop,
            wrong,
            Level.HOLD,
            headline(say(said)) if len(wrong) == len(reads) else many,
            "it would read backwards when mounted",
            "Film that is cut from behind must read backwards on the machine. This film would read backwards when it "
            "is mounted.",
        )
    if unknown:
        yield _finding(
            sheet,
            workshop,
            unknown,
            Level.WARN,
            "The reading direction is unknown",
            say("the ticket wants it {value}", value="mirrored" if wanted else "not mirrored"),
            say(
                "A {kind} file doesn't say whether its outlines are mirrored. Check the letters before you cut.",
                kind=sheet.source.kind,
            ),
        )


def _finding(
    sheet: Sheet, workshop: Workshop, items: list[str], level: Level, headline: str, detail: str, message: str
) -> Finding:
    found = [sheet.find(name) for name in items]
    marks = tuple(box for item in found if item is not None and (box := _box(item, workshop)))
    return Finding(
        "place.mirror",
        level,
        tuple(items),
        join_boxes(list(marks)),
        float(len(items)),
        "items",
        headline,
        detail,
        message,
        marks=marks,
        choice=level is Level.WARN,
    )


def _reads(item: Item, workshop: Workshop) -> Reads | None:
    """Which way round something reads that is cut, scored or engraved; None for what isn't."""
    if isinstance(item, Lettering):
        return item.reads
    if isinstance(item, Outline) and workshop.ticket.operation(item.look) is not Operation.LEAVE:
        return item.reads
    return None


def _box(item: Item, workshop: Workshop) -> Box | None:
    if isinstance(item, Lettering):
        return set_lettering(item, workshop.shelf).ink(item.placement) or item.place
    return bounds(item.path) if isinstance(item, Outline) else None
