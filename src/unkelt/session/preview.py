"""What a step would do to the sheet: figures now → after, and the proof in words. Made off the interface thread."""

from __future__ import annotations

from dataclasses import dataclass, replace

from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.measure import Box
from unkelt.job.extent import measured_box
from unkelt.job.workshop import Workshop
from unkelt.language import grouped
from unkelt.progress import Progress
from unkelt.recipe import Call, apply
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Group, Sheet
from unkelt.steps.step import Outcome
from unkelt.steps.steps import STEPS


@dataclass(frozen=True, slots=True)
class Row:
    """A line of the figures table. `changed` where now and after differ."""

    name: str
    now: str
    after: str

    @property
    def changed(self) -> bool:
        """Whether the figure would be another."""
        return self.now != self.after


@dataclass(frozen=True)
class Preview:
    """The call, what came of it, and the words to show: `proof` on success, `refusal` otherwise; `marks` are places to
    look at. `coming` holds what would be there that isn't now, by itself. `way_out` names what would clear a refusal;
    an `idle` one has nothing to do.
    """

    call: Call
    outcome: Outcome | None
    rows: tuple[Row, ...]
    proof: tuple[str, ...]
    refusal: str | None = None
    marks: tuple[Box, ...] = ()
    way_out: str = ""
    coming: Sheet | None = None
    idle: bool = False


def preview(call: Call, sheet: Sheet, workshop: Workshop, progress: Progress | None = None) -> Preview:
    """Tries a step and says what it would change. Never raises for a refusal: that is part of the answer."""
    if prepare := STEPS[call.name].prepare:
        prepare(workshop, progress)
    try:
        outcome = apply(call, sheet, workshop)
    except StepRefused as problem:
        return Preview(
            call,
            None,
            _rows(sheet, sheet, workshop),
            (),
            problem.reason,
            problem.marks,
            problem.way_out,
            idle=isinstance(problem, NothingToDo),
        )
    rows = _rows(sheet, outcome.sheet, workshop)
    proof = outcome.evidence.proof_lines()
    return Preview(call, outcome, rows, proof, marks=outcome.marks, coming=coming(sheet, outcome.sheet))


def coming(before: Sheet, after: Sheet) -> Sheet:
    """What is on the second sheet and not so on the first, by itself."""
    known = {item.id: item for item in before.walk()}
    new = [
        item
        for item in after.walk()
        if not isinstance(item, Group) and ((was := known.get(item.id)) is not item and was != item)
    ]
    return replace(after, items=tuple(new))


def _rows(now: Sheet, after: Sheet, workshop: Workshop) -> tuple[Row, ...]:
    before, then = (
        figures(sheet.outlines(), workshop.ticket.tolerance, workshop.ticket.is_cut) for sheet in (now, after)
    )
    rows = [
        Row("texts", str(len(now.letterings())), str(len(after.letterings()))),
        Row("outlines", str(before.outlines), str(then.outlines)),
        Row("subpaths", str(before.subpaths), str(then.subpaths)),
        Row("counters", str(before.counters), str(then.counters)),
        Row("nodes", grouped(before.nodes), grouped(then.nodes)),
        Row("area, mm²", grouped(before.area_mm2, 1), grouped(then.area_mm2, 1)),
        Row("cut length, mm", grouped(before.cut_length_mm), grouped(then.cut_length_mm)),
    ]
    boxes = [measured_box(sheet, workshop.ticket) for sheet in (now, after)]
    widths = [f"{box[2] - box[0]:.2f}" if box else "–" for box in boxes]
    rows.append(Row("ink width, mm", widths[0], widths[1]))
    return tuple(row for row in rows if row.changed or row.name == "counters")
