"""`compound.counter-apart`"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from unkelt.anatomy.counters import counters_apart
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.job.workshop import Workshop
from unkelt.lettering.recognise import are_letters
from unkelt.messages import say
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
            headline="A counter is a shape of its own"
            if count == 1
            else say("{count} counters are shapes of their own", count=count),
            detail="a weld would fill it" if count == 1 else "a weld would fill them",
            message="A hole is solid here: the machine engraves it full or cuts it as a loose part, and a weld would "
            "remove it.",
            case="sure",
            marks=marks,
        )
        if not apart.sure:
            shapes = "A shape lies" if count == 1 else say("{count} shapes lie", count=count)
            finding = replace(
                finding,
                headline=say("{shapes} inside another: hole or solid?", shapes=shapes),
                detail="Unkelt can't tell which",
                message="The tool cuts its edge either way. If it is a counter or a window, restore it as a hole. If "
                "everything is one solid shape, weld it with “swallow”. If it is a separate part on top, accept it.",
                case="doubtful",
                choice=True,
            )
        yield finding
