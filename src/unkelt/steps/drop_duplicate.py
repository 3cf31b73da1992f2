"""`drop-duplicate`"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from unkelt.account.changes import Change, Reason
from unkelt.account.declare import going, of_lines
from unkelt.anatomy.repeats import Repeat, copies, repeats_by_material
from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.path import Path
from unkelt.geometry.region import apart_mm2, region
from unkelt.job.workshop import Workshop
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.evidence import Dropped
from unkelt.steps.stacking import Stacking
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class DuplicatesDropped(Dropped):
    """Copies that went; outlines that were nothing else."""

    outlines_dropped: int


@step(
    "drop-duplicate",
    "Remove the duplicate",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    safe=True,
    by_length=True,
    keeps_lines=False,
)
def drop_duplicate(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Removes subpaths that repeat another subpath of the same material, and keeps the first. Of a fill and a line
    along its edge, the fill stays.

    Proven: every removed line lies within the same-shape tolerance of a line that stays, measured in both
    directions.
    """
    chosen: list[Outline] = targets("drop-duplicate", sheet, items, Outline)
    found = repeats_by_material(chosen, workshop.ticket)
    if not found:
        raise NothingToDo("drop-duplicate", "none of these outlines repeats another")
    drop: dict[str, set[int]] = {}
    apart = 0.0
    own = {outline.id: outline for outline in chosen}
    for repeat in found:
        again = (
            _without_a_trace(own[repeat.again_id], repeat, workshop)
            if repeat.first_id == repeat.again_id
            else repeat.indices
        )
        if again:
            drop.setdefault(repeat.again_id, set()).update(again)
            apart = max(apart, repeat.apart_mm)
    if not drop:
        raise StepRefused(
            "drop-duplicate", "either of the two lines decides what is solid and what is a hole; take one out by hand"
        )
    changes: dict[str, tuple[Item, ...]] = {}
    gone: list[Outline] = []
    for outline in chosen:
        if outline.id in drop:
            keep = [index for index in range(len(outline.path)) if index not in drop[outline.id]]
            changes[outline.id] = (replace(outline, path=outline.path.select(keep)),) if keep else ()
            gone.append(replace(outline, path=outline.path.select(sorted(drop[outline.id]))))
    changes |= _on_top(sheet, chosen, changes, workshop)
    evidence = DuplicatesDropped(
        subpaths_dropped=sum(len(indices) for indices in drop.values()),
        outlines_dropped=sum(not change for change in changes.values()),
        max_deviation_mm=round(apart, 5),
    )
    return Outcome(sheet.replaced(changes), tuple(drop), evidence, tuple(_declared(gone, workshop)))


def _on_top(
    sheet: Sheet, chosen: Sequence[Outline], changes: Mapping[str, tuple[Item, ...]], workshop: Workshop
) -> dict[str, tuple[Item, ...]]:
    """What stays takes the place of its topmost copy where something else is painted between them."""
    ticket = workshop.ticket
    stacking = Stacking(sheet, workshop)
    last: dict[str, Outline] = {}
    own = {outline.id: outline for outline in chosen}
    for again, first in copies(chosen, ticket.tolerance.same_shape_mm).items():
        same = len(own[first].path) == len(own[again].path) and first not in changes and changes.get(again) == ()
        if same and stacking.place[again] > stacking.place[last.get(first, own[first]).id]:
            last[first] = own[again]
    moved: dict[str, tuple[Item, ...]] = {}
    for first, topmost in last.items():
        pair = [own[first], topmost]
        shapes = [region(each.path, each.look.even_odd, ticket.tolerance.chord_mm / 2) for each in pair]
        if stacking.lead(pair, shapes) is not own[first]:
            moved |= {first: (), topmost.id: (own[first],)}
    return moved


def _declared(gone: Sequence[Outline], workshop: Workshop) -> Iterator[Change]:
    """Lines that were there twice; copies in a translucent paint made it darker, too."""
    by_material: dict[tuple[str, ...], list[Path]] = {}
    for copy in gone:
        by_material.setdefault(workshop.ticket.materials_of(copy.look), []).append(copy.path)
    for materials, paths in by_material.items():
        yield of_lines(Reason.COPY, paths, materials, workshop.ticket)
    translucent = [
        copy
        for copy in gone
        if not all(paint.opaque for paint in (copy.look.fill_paint, copy.look.stroke_paint) if paint)
    ]
    yield from going(Reason.EVENED, translucent, workshop.ticket, workshop.shelf)


def _without_a_trace(outline: Outline, repeat: Repeat, workshop: Workshop) -> tuple[int, ...]:
    """Of subpaths that an outline has twice, the copies or the originals: those without which it fills the same; none
    where it would fill something else either way, as it does where both run in opposite ways.
    """
    ticket = workshop.ticket
    chord, path = ticket.tolerance.chord_mm / 10, outline.path
    if outline.look.fill is None:
        return repeat.indices
    filled = region(path, outline.look.even_odd, chord)
    for gone in (repeat.indices, repeat.originals):
        left = path.select([index for index in range(len(path)) if index not in gone])
        if (
            apart_mm2(filled, region(left, outline.look.even_odd, chord))
            <= ticket.tolerance.same_shape_mm * filled.length
        ):
            return gone
    return ()
