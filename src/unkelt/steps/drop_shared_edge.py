"""`drop-shared-edge`"""

from __future__ import annotations

from dataclasses import dataclass, replace

from unkelt.anatomy.shared_edges import LEAST_MM, SharedEdge, shared_edges
from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.boolean.shared import stretches_near, without_stretches
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import lengths
from unkelt.geometry.path import concat
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Unshared(Evidence):
    """Edges that were there twice, how long they are and how much of them was taken out (mm)."""

    edges: int
    shared_mm: float
    taken_out_mm: float

    def caption(self) -> str:
        return say("{length:.1f} mm cut once", length=self.shared_mm)


@step(
    "drop-shared-edge",
    "Cut the shared edge once",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    keeps_lines=False,
)
def drop_shared_edge(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Removes a stretch that two lines share from one of them, which is open there afterwards. No line moves.

    The later line on the sheet changes, or the earlier one if the later is filled, because a fill has to stay
    closed. Refused if both are filled. Proven: the removed stretch is as long as the shared one and lies on the
    line that stays.
    """
    within = workshop.ticket.tolerance.same_shape_mm
    chosen = {outline.id for outline in targets("drop-shared-edge", sheet, items, Outline)}
    edges = [e for e in shared_edges(sheet, workshop.ticket) if {e.first.id, e.again.id} <= chosen]
    if not edges:
        raise NothingToDo("drop-shared-edge", "no two of these paths share an edge")
    cuts: dict[tuple[str, int], list[tuple[Outline, int]]] = {}
    for edge in edges:
        giving, index, staying, stay_index = _roles(edge)
        cuts.setdefault((giving.id, index), []).append((staying, stay_index))
    outlines = {outline.id: outline for outline in sheet.outlines()}
    changes: dict[str, tuple[Item, ...]] = {}
    shared, gone = sum(edge.length_mm for edge in edges), 0.0
    for item_id in dict.fromkeys(item_id for item_id, _ in cuts):
        outline = outlines[item_id]
        parts = []
        for index, subpath in enumerate(outline.path.subpaths()):
            stretches = []
            for staying, stay_index in cuts.get((item_id, index), []):
                line = lines(staying.path.subpath(stay_index), within / 10)
                stretches += stretches_near(subpath, line, within, LEAST_MM)
            left = without_stretches(subpath, stretches)
            gone += float(lengths(subpath).sum() - lengths(left).sum())
            parts.append(left)
        path = concat(parts)
        changes[item_id] = (replace(outline, path=path),) if len(path) else ()
    if abs(gone - shared) > 4 * within * max(1, len(edges)) + 0.01 * shared:
        raise StepRefused(
            "drop-shared-edge", say("{shared:.2f} mm are shared, but {gone:.2f} mm would go", shared=shared, gone=gone)
        )
    evidence = Unshared(
        edges=len(edges),
        shared_mm=round(shared, 3),
        taken_out_mm=round(gone, 3),
        max_deviation_mm=within,
    )
    return Outcome(
        sheet.replaced(changes), tuple(dict.fromkeys(i for e in edges for i in (e.first.id, e.again.id))), evidence
    )


def _roles(edge: SharedEdge) -> tuple[Outline, int, Outline, int]:
    """Which subpath gives way and which stays."""
    if edge.again.look.fill is None:
        return edge.again, edge.index, edge.first, edge.first_index
    if edge.first.look.fill is None:
        return edge.first, edge.first_index, edge.again, edge.index
    raise StepRefused(
        "drop-shared-edge",
        say(
            "“{id}” and “{id_2}” are both filled, and a fill has to stay closed",
            id=name_of(edge.first),
            id_2=name_of(edge.again),
        ),
    )
