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
    """A counter is a solid shape of its own: the letter is cut or engraved full, and a weld would swallow the
    counter.
    """
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
            message="What should be a hole is solid: it is engraved full or drops in as a loose part, and a weld "
            "would swallow it.",
            case="sure",
            marks=marks,
        )
        if not apart.sure:
            shapes = "A shape lies" if count == 1 else say("{count} shapes lie", count=count)
            finding = replace(
                finding,
                headline=say("{shapes} inside another: hole or solid?", shapes=shapes),
                detail="it can be read in both ways",
                message="The tool cuts its edge either way. Put it back as a hole if it is a counter or a window. "
                "Weld it with "
                "“swallow” if all of it is one solid shape. Accept it if it is a part of its own that lies on top.",
                case="doubtful",
                choice=True,
            )
        yield finding
