"""`knock-out`"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from fontTools.misc.transform import Transform

from unkelt.account.changes import Reason
from unkelt.account.declare import coming, going, within
from unkelt.errors import GeometryRefused, StepRefused
from unkelt.geometry.boolean.combine import combine
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import WeldProof
from unkelt.geometry.measure import bounds, signed_areas
from unkelt.geometry.offset.offset import offset_path
from unkelt.geometry.path import Path, concat
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Group, Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.around import as_one, chosen_outlines
from unkelt.steps.evidence import ByTwoEngines
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

APART_MM = 10.0
"""Room between what is left and what is laid beside it."""


@dataclass(frozen=True, kw_only=True)
class KnockedOut(ByTwoEngines):
    """The pieces that are left, and slivers that went."""

    pieces_after: int
    slivers_dropped: int

    def caption(self) -> str:
        return say_count("{count} piece left", "{count} pieces left", self.pieces_after)


OutOfOption = Annotated[str, "the outline that gets the hole", Pictured("items"), Field("Out of", first=True)]
ClearanceOption = Annotated[float, "gap around the knocked-out shape, so that it fits", Field("Clearance", first=True)]
SmallestOption = Annotated[float, "remove leftover parts that are smaller than this", Field("Remove scraps below")]
KeepOption = Annotated[bool, "also keep the knocked-out shape in its place", Field("Keep the shape in place")]
BesideOption = Annotated[
    bool,
    "put the knocked-out shape beside the rest, as a group for another material",
    Field("Put the shape beside", first=True),
]


@step("knock-out", "Knock out of another outline", on=On.OUTLINES, purpose=Purpose.SHAPE, lines="closed")
def knock_out(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    out_of: OutOfOption = "",
    clearance: ClearanceOption = 0.0,
    smallest: SmallestOption = 0.5,
    keep: KeepOption = False,
    beside: BesideOption = False,
) -> Outcome:
    """Cuts outlines out of another outline. The rest stays one outline, in as many pieces as there are.

    Proven by a second engine: area, pieces and counters of the rest, and no line moves beyond the chord tolerance.
    """
    base, tools = _named(sheet, items, out_of)
    tool, whole, proof = _cut(base, tools, clearance, workshop)
    small = [
        index
        for index, (part, area) in enumerate(zip(whole.subpaths(), signed_areas(whole), strict=True))
        if area > 0 and (box := bounds(part)) and max(box[2] - box[0], box[3] - box[1]) < smallest
    ]
    path = whole.select([index for index in range(len(whole)) if index not in small])
    if not len(path):
        raise StepRefused("knock-out", say("nothing of “{id}” would be left", id=name_of(base)))
    if path == base.path or proof.area_mm2 == float(signed_areas(base.path).sum()):
        raise StepRefused("knock-out", "it doesn't touch the outline that it is to be cut from")
    changes: dict[str, tuple[Item, ...]] = {
        base.id: (replace(base, path=path, look=replace(base.look, even_odd=False)),)
    }
    laid = _laid_beside(base, tools) if beside else []
    counter_part = (Group(sheet.fresh_id("counter-part"), tuple(laid), "Counter-part"),) if beside else ()
    if beside or not keep:
        changes |= {outline.id: () for outline in tools}
    after = sheet.replaced(changes)
    ticket, shelf = workshop.ticket, workshop.shelf
    chord = ticket.tolerance.chord_mm
    hole = region(tool, False, chord / 10)
    declared = [within(Reason.CUT_OUT, hole.buffer(chord, quad_segs=2), ticket.materials_of(base.look))]
    if small:
        left_over = [replace(base, path=whole.select(small))]
        declared += going(Reason.PIECE, left_over, ticket, shelf)
    if beside or not keep:
        declared += going(Reason.CUT_OUT, tools, ticket, shelf)
    declared += coming(Reason.MADE, laid, ticket, shelf)
    evidence = KnockedOut(
        pieces_after=proof.pieces - len(small),
        slivers_dropped=len(small),
        area_mm2=round(proof.area_mm2, 4),
        area_second_engine_mm2=round(proof.area_second_mm2, 4),
        max_deviation_mm=round(proof.max_deviation_mm, 5),
    )
    return Outcome(
        replace(after, items=(*after.items, *counter_part)),
        (base.id, *[outline.id for outline in tools]),
        evidence,
        tuple(declared),
    )


def _named(sheet: Sheet, items: tuple[str, ...], out_of: str) -> tuple[Outline, list[Outline]]:
    """What gets the hole, and what is knocked out of it. Raises StepRefused."""
    base = sheet.find(out_of)
    if not isinstance(base, Outline):
        raise StepRefused(
            "knock-out",
            say("“{out_of}” is no outline of this sheet", out_of=out_of)
            if out_of
            else "no outline is named to cut from",
        )
    tools = [outline for outline in chosen_outlines("knock-out", sheet, items) if outline.id != out_of]
    if not items or not tools:
        raise StepRefused("knock-out", "name what is to be knocked out")
    return base, tools


def _cut(base: Outline, tools: list[Outline], clearance: float, workshop: Workshop) -> tuple[Path, Path, WeldProof]:
    """What is knocked out, with the room around it; what remains, and its proof. Raises StepRefused."""
    tolerance = workshop.ticket.tolerance
    tool = as_one("knock-out", tools, workshop)
    try:
        if clearance:
            tool = offset_path(tool, clearance, tolerance, "round", 4.0)[0]
        path, proof = combine("difference", [Operand(base.path, base.look.even_odd)], [Operand(tool)], tolerance)
    except GeometryRefused as problem:
        raise StepRefused("knock-out", str(problem)) from problem
    return tool, path, proof


def _laid_beside(base: Outline, tools: list[Outline]) -> list[Outline]:
    """What is knocked out, right of what it is knocked out of."""
    apart, tools_box = bounds(base.path), bounds(concat([outline.path for outline in tools]))
    assert apart is not None
    assert tools_box is not None
    shift = Transform(1, 0, 0, 1, apart[2] - tools_box[0] + APART_MM, 0)
    return [replace(outline, path=outline.path.transformed(shift)) for outline in tools]
