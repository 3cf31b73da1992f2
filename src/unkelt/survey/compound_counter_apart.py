"""`compound.counter-apart`"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from unkelt.anatomy.counters import counters_apart
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.job.workshop import Workshop
from unkelt.lettering.recognise import are_letters
from unkelt.messages import say_count
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("compound.counter-apart")
def compound_counter_apart(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A counter is a separate solid shape. The letter is cut or engraved full, and a weld would remove the counter."""
    for apart in counters_apart(sheet, workshop.ticket, are_letters):
        marks = tuple(box for counter in apart.counters if (box := bounds(counter.path)))
        count = len(apart.counters)
        finding = Finding(
            code="compound.counter-apart",
            level=Level.HOLD,
            items=(apart.body.id, *[counter.id for counter in apart.counters]),
            box=join_boxes(list(marks)),
            value=float(count),
            unit="counters",
            headline=say_count("A counter is a shape of its own", "{count} counters are shapes of their own", count),
            detail=say_count("a weld would fill it", "a weld would fill them", count),
            message="A hole is solid here: the machine engraves it full or cuts it as a loose part, and a weld would "
            "remove it.",
            case="sure",
            marks=marks,
        )
        if not apart.sure:
            finding = replace(
                finding,
                headline=say_count(
                    "A shape lies inside another: hole or solid?",
                    "{count} shapes lie inside another: hole or solid?",
                    count,
                ),
                detail="Unkelt can't tell which",
                message="The tool cuts its edge either way. If it is a counter or a window, restore it as a hole. If "
                "everything is one solid shape, weld it with “swallow”. If it is a separate part on top, accept it.",
                case="doubtful",
                choice=True,
            )
        yield finding
