"""`compound.counter-apart`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.geometry.measure import bounds, join_boxes
from unkelt.sheet.counters import counters_apart
from unkelt.sheet.model import Sheet
from unkelt.survey.check import Workshop, check
from unkelt.survey.finding import Finding, Level


@check("compound.counter-apart")
def compound_counter_apart(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A counter is a solid shape of its own: the letter is cut or engraved full, and a weld would swallow the counter."""
    for apart in counters_apart(sheet.outlines(), workshop.ticket):
        marks = tuple(box for counter in apart.counters if (box := bounds(counter.path)))
        count = len(apart.counters)
        yield Finding(
            code="compound.counter-apart",
            level=Level.HOLD,
            items=(apart.body.id, *[counter.id for counter in apart.counters]),
            box=join_boxes(list(marks)),
            value=float(count),
            unit="counters",
            headline="A counter is a shape of its own" if count == 1 else f"{count} counters are shapes of their own",
            detail="a weld would fill it" if count == 1 else "a weld would fill them",
            message="What should be a hole is solid: it is engraved full or drops in as a loose part, and a weld would swallow it.",
            steps=("restore-counters",),
            marks=marks,
        )
