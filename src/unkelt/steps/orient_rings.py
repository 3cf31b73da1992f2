"""`orient-rings`"""

from __future__ import annotations

from dataclasses import dataclass, replace

from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.nesting import ring_nesting
from unkelt.geometry.orient import orient_rings as orient_path
from unkelt.geometry.region import apart_mm2, region
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Turned(Evidence):
    """Rings that were turned the other way round."""

    rings_turned: int

    def caption(self) -> str:
        return say_count("{count} ring turned", "{count} rings turned", self.rings_turned)


@step(
    "orient-rings",
    "Orient the rings",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    safe=True,
)
def orient_rings(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Runs outer rings in one direction and counters in the other, so that both fill rules fill the same area.

    No line moves. Proven by a second engine: by either rule, the filled area is the same before and after. Refused
    where rings cross, or where a solid ring would become a hole.
    """
    tolerance = workshop.ticket.tolerance
    chord = tolerance.chord_mm / 10
    changes: dict[str, tuple[Item, ...]] = {}
    turned = 0
    for outline in targets("orient-rings", sheet, items, Outline):
        nesting = ring_nesting(outline.path, chord).nesting
        if nesting is None or nesting.rules_agree():
            continue
        try:
            path = orient_path(outline.path, chord)
        except GeometryRefused as problem:
            raise StepRefused(
                "orient-rings", say("“{name}”: {problem}", name=name_of(outline), problem=problem)
            ) from problem
        before = region(outline.path, outline.look.even_odd, chord)
        if any(apart_mm2(before, region(path, rule, chord)) > tolerance.sliver_mm2 for rule in (False, True)):
            raise StepRefused(
                "orient-rings",
                say(
                    "“{id}” is filled where rings lie in rings; weld it first, or its counters would open",
                    id=outline.id,
                ),
            )
        turned += sum(
            bool((a != b).any())
            for a, b in zip(outline.path.points[outline.path.starts], path.points[path.starts], strict=True)
        )
        changes[outline.id] = (replace(outline, path=path, look=replace(outline.look, even_odd=False)),)
    if not changes:
        raise NothingToDo("orient-rings", "both fill rules fill the same already")
    return Outcome(sheet.replaced(changes), tuple(changes), Turned(rings_turned=turned, max_deviation_mm=0.0))
