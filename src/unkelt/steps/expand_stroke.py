"""`expand-stroke`"""

from __future__ import annotations

from dataclasses import dataclass, replace

from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.boolean.combine import Operation, combine
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.cache import Topic
from unkelt.geometry.measure import lengths
from unkelt.geometry.offset.offset import OffsetProof, stroke_path
from unkelt.geometry.path import EMPTY, Path
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sharing import in_two
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance, has_visible_stroke
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.sheet.pens import pen_of
from unkelt.steps.evidence import ByTwoEngines, Renoded
from unkelt.steps.step import On, Outcome, Purpose, step, targets
from unkelt.tolerance import Tolerance


@dataclass(frozen=True, kw_only=True)
class Expanded(Renoded, ByTwoEngines):
    """The pieces that strokes became."""

    pieces: int


@step(
    "expand-stroke",
    "Outline the stroke",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    safe=True,
    by_length=True,
)
def expand_stroke(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Turns the painted stroke into an outline, with its joins, caps, dashes and mitre limit, and also for a skewed
    pen.

    If the fill has the same colour and neither is translucent, the fill and the stroke are welded. Otherwise the
    fill stays an outline of its own, below or above as before. If the item is translucent as a whole, the lower
    outline ends at the edge of the upper one. Proven: every edge lies at half the stroke's width from its line,
    within the chord tolerance, and a second engine finds the same pieces and counters.
    """
    tolerance = workshop.tolerance
    chosen: list[Outline] = targets("expand-stroke", sheet, items, Outline)
    if not items:
        hairline = workshop.ticket.machine.hairline_mm
        chosen = [o for o in chosen if has_visible_stroke(o.look, hairline, keyed=bool(workshop.ticket.key))]
    chosen = [outline for outline in chosen if outline.look.stroke]
    if not chosen:
        raise NothingToDo("expand-stroke", "none of these outlines has a stroke")
    changes: dict[str, tuple[Item, ...]] = {}
    proofs: list[OffsetProof] = []
    each = _EXPANDED.get_many(
        [(outline, tolerance) for outline in chosen],
        lambda places: in_two(
            lambda some: [_expanded_or_why_not(one, tolerance) for one in some],
            [chosen[place] for place in places],
            [len(chosen[place].path.points) + _dashes(chosen[place]) for place in places],
            WORTH_A_COPY,
            16,
        ),
    )
    for outline, found in zip(chosen, each, strict=True):
        if isinstance(found, GeometryRefused):
            raise StepRefused("expand-stroke", say("“{name}”: {problem}", name=name_of(outline), problem=found))
        pieces, proof = found
        changes[outline.id] = tuple(
            piece if piece.id == outline.id else replace(piece, id=sheet.fresh_id(piece.id)) for piece in pieces
        )
        proofs.append(proof)
    made = [item.path for new in changes.values() for item in new if isinstance(item, Outline)]
    evidence = Expanded(
        nodes_before=sum(outline.path.node_count for outline in chosen),
        nodes_after=sum(path.node_count for path in made),
        pieces=sum(proof.pieces for proof in proofs),
        area_mm2=round(sum(proof.area_mm2 for proof in proofs), 4),
        area_second_engine_mm2=round(sum(proof.area_second_mm2 for proof in proofs), 4),
        max_deviation_mm=round(max(proof.max_deviation_mm for proof in proofs), 5),
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


WORTH_A_COPY = 60
"""From so many stroked segments on, two processes work."""


def _dashes(outline: Outline) -> float:
    """About how many dashes its stroke has."""
    period = sum(outline.look.dashes_mm)
    return float(lengths(outline.path).sum()) / period if period else 0.0


Expansion = tuple[tuple[Outline, ...], OffsetProof]


_EXPANDED: Topic[Expansion | GeometryRefused] = Topic("expanded strokes", 4096)
"""When a step is refused for many, it is asked again for halves of them."""


def _expanded_or_why_not(outline: Outline, tolerance: Tolerance) -> Expansion | GeometryRefused:
    try:
        return _expanded(outline, tolerance)
    except GeometryRefused as problem:
        return problem


def _expanded(outline: Outline, tolerance: Tolerance) -> Expansion:
    """What takes the outline's place: the stroke's outline, and its fill where that has another colour."""
    look = outline.look
    stroke, proof = stroke_path(outline.path, pen_of(look), tolerance)
    if look.stroke_side != "centre" and len(stroke):
        within = [Operand(_fillable(outline.path), look.even_odd)]
        way: Operation = "intersection" if look.stroke_side == "inside" else "difference"
        stroke, _ = combine(way, [Operand(stroke)], within, tolerance)
    if not len(stroke):
        raise GeometryRefused("its stroke paints nothing")
    plain = Appearance(fill=look.stroke, fill_opacity=look.stroke_opacity, opacity=look.opacity, visible=look.visible)
    if look.fill is None or region(outline.path, look.even_odd, tolerance.chord_mm).area <= tolerance.graze_mm2:
        return (replace(outline, path=stroke, look=plain),), proof  # a straight line has no fill to be kept
    if look.fill == look.stroke and look.fill_opacity == look.stroke_opacity == 1:  # else it is darker where both lie
        whole, _ = weld([Operand(_fillable(outline.path), look.even_odd), Operand(stroke)], tolerance, guard=False)
        return (replace(outline, path=whole, look=plain),), proof
    filled = replace(
        outline, look=replace(look, stroke=None, stroke_width_mm=DEFAULT_STROKE_MM, dashes_mm=(), pen=None)
    )
    band = replace(outline, id=f"{outline.id}-stroke", path=stroke, look=plain)
    lower, upper = (band, filled) if look.stroke_below else (filled, band)
    return ((lower, upper) if look.opacity == 1 else _side_by_side(lower, upper, tolerance)), proof


def _side_by_side(lower: Outline, upper: Outline, tolerance: Tolerance) -> tuple[Outline, ...]:
    """Without what the upper one hid of the lower while both were painted first and made translucent then."""
    if upper.look.fill_opacity < 1:
        raise GeometryRefused("its fill and stroke are translucent each, and both together again")
    over, under = (Operand(_fillable(each.path), each.look.even_odd) for each in (upper, lower))
    rest, _ = combine("difference", [under], [over], tolerance)
    return (replace(lower, path=rest, look=replace(lower.look, even_odd=False)), upper) if len(rest) else (upper,)


def _fillable(path: Path) -> Path:
    """Only what encloses area: a line has no fill to weld."""
    long_enough = [
        index for index, count in enumerate(path.counts.tolist()) if count > 1 or path.degrees[path.starts[index]] > 1
    ]
    return path.select(long_enough) if long_enough else EMPTY
