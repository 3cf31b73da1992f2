"""`restore-counters`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely

from unkelt.account.changes import Change, Reason
from unkelt.anatomy.counters import counters_apart
from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.orient import orient_rings
from unkelt.geometry.path import concat
from unkelt.geometry.region import apart_mm2, region
from unkelt.job.workshop import Workshop
from unkelt.lettering.recognise import are_letters
from unkelt.messages import say, say_count
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Restored(Evidence):
    """Counters that were put back."""

    counters_restored: int

    def caption(self) -> str:
        return say_count("{count} counter restored", "{count} counters restored", self.counters_restored)

    def headline(self) -> Sequence[str]:
        return (
            say_count(
                "{count} counter restored, proven by a second engine",
                "{count} counters restored, proven by a second engine",
                self.counters_restored,
            ),
        )


@step(
    "restore-counters",
    "Restore counters",
    on=On.NOTHING,
    purpose=Purpose.CLEAN,
    safe=True,
)
def restore_counters(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Makes loose counters holes again, in the outlines that they lie on. No line moves.

    Without items, the step takes only shapes that are certainly counters: white, or of the letter's own paint, on a
    letter. Proven by a second engine: by either fill rule, the filled area is that of the outline without its
    counters.
    """
    tolerance = workshop.ticket.tolerance
    chord = tolerance.chord_mm / 2
    changes: dict[str, tuple[Item, ...]] = {}
    declared: list[Change] = []
    restored = 0
    chosen = targets("restore-counters", sheet, items, Outline)
    for apart in counters_apart(sheet, workshop.ticket, are_letters, chosen):
        if not items and not apart.sure:
            continue
        body = apart.body
        solid = region(body.path, body.look.even_odd, chord)
        holes = shapely.unary_union([region(each.path, each.look.even_odd, chord) for each in apart.counters])
        try:
            path = orient_rings(concat([body.path, *[counter.path for counter in apart.counters]]), chord)
        except GeometryRefused as problem:
            raise StepRefused(
                "restore-counters", say("“{name}”: {problem}", name=name_of(body), problem=problem)
            ) from problem
        wanted = solid.difference(holes)
        if any(apart_mm2(region(path, rule, chord), wanted) > tolerance.sliver_mm2 for rule in (False, True)):
            raise StepRefused(
                "restore-counters", say("“{id}” would not be filled as it should; weld it first", id=name_of(body))
            )
        letters = "".join([body.letters, *[counter.letters for counter in apart.counters]])
        changes |= {counter.id: () for counter in apart.counters}
        changes[body.id] = (replace(body, path=path, look=replace(body.look, even_odd=False), letters=letters),)
        seen = [*(each.look for each in apart.counters), body.look]
        materials = tuple(dict.fromkeys(name for look in seen for name in workshop.ticket.materials_of(look)))
        declared.append(Change(Reason.COUNTER, holes, materials, float(holes.area), "mm²"))
        restored += len(apart.counters)
    if not changes:
        raise NothingToDo("restore-counters", "no counter lies loose on another outline")
    evidence = Restored(
        counters_restored=restored,
        max_deviation_mm=0.0,
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence, tuple(declared))
