"""`let-in`"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np
import shapely

from unkelt.account.changes import Reason
from unkelt.account.declare import going, within
from unkelt.errors import GeometryRefused, StaleTarget, StepRefused
from unkelt.geometry.boolean.combine import combine
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.shared import stretches_inside, without_stretches
from unkelt.geometry.boolean.weld import WeldProof, weld
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import bounds, lengths
from unkelt.geometry.path import EMPTY, Path, concat
from unkelt.geometry.region import pieces, region
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.around import as_one, chosen_outlines
from unkelt.steps.close_ends import join_ends
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

JOINT_MM = 0.05
"""The ends of a frame's lines and of the letters' outlines are joined where they lie this near."""

STEP_MM = 0.1
"""How closely lines are looked at for where they run through a letter."""

Done = tuple[dict[str, tuple[Item, ...]], shapely.Geometry, str, float]
"""What changes, the material that holds the letters, how it was done, and how far any line may have moved (mm)."""


@dataclass(frozen=True, kw_only=True)
class LetIn(Evidence):
    """How letters were let in, and the pieces that are held and that are not."""

    way: str
    pieces_held: int
    pieces_without_bridge: int

    def caption(self) -> str:
        return say_count("{count} piece held by the frame", "{count} pieces held by the frame", self.pieces_held)


@step(
    "let-in",
    "Let into a frame",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    lines="closed",
)
def let_in(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    frame: Annotated[
        str,
        "the frame; several as “top, bottom”; without it, the outline around the others",
        Pictured("items"),
        Field("Frame", first=True),
    ] = "",
    gaps: Annotated[
        float, "in a frame of open lines, gaps up to this size are bridges", Field("Bridge gaps up to")
    ] = 12.0,
    loose: Annotated[bool, "allow letters without a bridge to the frame", Field("Allow loose letters")] = False,
) -> Outcome:
    """Makes lettering part of a frame. If the lettering lies mostly over the frame's openings, it is welded to the
    bars. If the frame is drawn as openings, closed windows or open lines, the lettering is taken out of them, so
    that every detail of the frame stays.

    Open lines of the frame end where a letter takes their place, and stay elsewhere. Proven: outside the letters
    the frame is unchanged, and every letter is held. If a letter has no bridge, the step names it and is refused,
    unless you allow loose letters.
    """
    parts = _frame(sheet, frame or _around(chosen_outlines("let-in", sheet, items) if items else []))
    chosen = [outline for outline in chosen_outlines("let-in", sheet, items) if outline not in parts] if items else []
    if not chosen:
        raise StepRefused("let-in", "name the lettering that is to be let in")
    word = as_one("let-in", chosen, workshop)
    chord = workshop.ticket.tolerance.chord_mm / 2
    letters = region(word, False, chord)
    if all(not part.path.closed.any() for part in parts):
        changes, held_by, way, off = _into_lines(parts, word, letters, gaps, workshop)
    else:
        changes, held_by, way, off = _into_shape(parts, word, letters, workshop)
    sliver = workshop.ticket.tolerance.sliver_mm2
    free = [piece for piece in pieces(letters, sliver) if piece.intersection(held_by).area <= sliver]
    if free and not loose:
        raise _without_bridge(free, chosen, chord)
    changes |= {outline.id: () for outline in chosen if outline.id not in changes}
    ticket = workshop.ticket
    reach = letters.buffer(JOINT_MM + ticket.tolerance.chord_mm, quad_segs=4)
    seen = dict.fromkeys(name for outline in (*parts, *chosen) for name in ticket.materials_of(outline.look))
    declared = (within(Reason.CUT_OUT, reach, tuple(seen)), *going(Reason.CUT_OUT, chosen, ticket, workshop.shelf))
    evidence = LetIn(
        way=way,
        pieces_held=len(pieces(letters, sliver)) - len(free),
        pieces_without_bridge=len(free),
        max_deviation_mm=round(off, 5),
    )
    worked = tuple(outline.id for outline in (*parts, *chosen))
    return Outcome(sheet.replaced(changes), worked, evidence, declared)


def _without_bridge(free: Sequence[shapely.Geometry], chosen: Sequence[Outline], chord: float) -> StepRefused:
    """The refusal that names the letters whose pieces, `free`, nothing holds."""
    names = sorted({name_of(outline) for outline in chosen for piece in free if _lies_in(outline, piece, chord)})
    whose = ", ".join(f"“{name}”" for name in names)
    return StepRefused(
        "let-in",
        say(
            "{count} of its pieces, in {whose}, have no bridge to the frame and would fall out",
            count=len(free),
            whose=whose,
        ),
    )


def _frame(sheet: Sheet, names: str) -> list[Outline]:
    found: list[Outline] = []
    for name in filter(None, (part.strip() for part in names.split(","))):
        if sheet.find(name) is None:
            raise StaleTarget("let-in", say("“{name}” is no longer on the sheet", name=name))
        inside = leaves(sheet, [name])
        found += [item for item in sheet.outlines() if item.id in inside and len(item.path) and item not in found]
    if not found:
        raise StepRefused("let-in", "no frame is named")
    return found


def _around(outlines: Sequence[Outline]) -> str:
    """The one that all the others lie within, by its box; empty where there is none."""
    boxes = {outline.id: np.array(bounds(outline.path)) for outline in outlines if len(outline.path)}
    for name, box in boxes.items():
        others = [other for each, other in boxes.items() if each != name]
        if others and all((box[:2] < other[:2]).all() and (other[2:] < box[2:]).all() for other in others):
            return name
    return ""


def _lies_in(outline: Outline, piece: shapely.Geometry, chord: float) -> bool:
    return bool(region(outline.path, outline.look.even_odd, chord).intersects(piece))


def _into_shape(parts: list[Outline], word: Path, letters: shapely.Geometry, workshop: Workshop) -> Done:
    """Into closed outlines: welded to bars, or taken out of windows, whichever the letters mostly lie on."""
    tolerance = workshop.ticket.tolerance
    chord = tolerance.chord_mm / 2
    every, parts = parts, [replace(part, path=part.path.select(part.path.closed)) for part in parts]
    parts, joined = _lines_as_one([part for part in parts if len(part.path)])
    shapes = [region(part.path, part.look.even_odd or part.look.fill is None, chord) for part in parts]
    # Cut lines without a fill say by their nesting what is material: the outermost is the edge, what it holds an
    # opening.
    frame = shapely.union_all(shapes)
    share = letters.intersection(frame).area / max(letters.area, 1e-12)
    if share <= 0:
        raise StepRefused("let-in", "the lettering doesn't touch the frame")
    operands = [Operand(part.path, part.look.even_odd or part.look.fill is None) for part in parts]
    changes: dict[str, tuple[Item, ...]] = dict.fromkeys(joined, ())
    proofs: list[WeldProof] = []
    try:
        if share < 0.5:
            path, proof = weld([*operands, Operand(word)], tolerance, guard=False)
            lead = parts[0]
            changes[lead.id] = (replace(lead, path=path, look=replace(lead.look, even_odd=False)),)
            changes |= {part.id: () for part in parts[1:]}
            proofs.append(proof)
            way, held_by = "welded to the bars", frame
        else:
            for part, operand in zip(parts, operands, strict=True):
                path, proof = combine("difference", [operand], [Operand(word)], tolerance)
                changes[part.id] = (
                    (replace(part, path=path, look=replace(part.look, even_odd=False)),) if len(path) else ()
                )
                proofs.append(proof)
            way = "taken out of the openings"
            x0, y0, x1, y1 = shapely.union(frame, letters).bounds
            held_by = shapely.box(x0 - 10, y0 - 10, x1 + 10, y1 + 10).difference(frame)
    except GeometryRefused as problem:
        raise StepRefused("let-in", str(problem)) from problem
    after = shapely.union_all(
        [region(item.path, False, chord) for new in changes.values() for item in new if isinstance(item, Outline)]
    )
    _keep_open_lines(changes, every, parts[0].id, letters)
    # Letters grown by what two flattenings may differ: outside of that nothing may have changed.
    outside = letters.buffer(4 * chord)
    if after.symmetric_difference(frame).difference(outside).area > tolerance.sliver_mm2:
        raise StepRefused("let-in", "the frame would change outside the letters")
    return changes, held_by, way, max(proof.max_deviation_mm for proof in proofs)


def _lines_as_one(parts: list[Outline]) -> tuple[list[Outline], list[str]]:
    """Closed lines without a fill that lie in each other are the edges of one frame, as if they were one path; and the
    ids of those that are part of another then.
    """
    lines = [part for part in parts if part.look.fill is None]
    boxes = [np.array(bounds(part.path)) for part in lines]
    nested = any((a[:2] < b[:2]).all() and (b[2:] < a[2:]).all() for a, b in itertools.permutations(boxes, 2))
    if not nested:
        return parts, []
    first = replace(lines[0], path=concat([part.path for part in lines]))
    return [first, *(part for part in parts if part.look.fill is not None)], [part.id for part in lines[1:]]


def _keep_open_lines(
    changes: dict[str, tuple[Item, ...]], parts: Sequence[Outline], lead: str, letters: shapely.Geometry
) -> None:
    """Open lines of a frame stay with the outline that they were of, or with what it became part of, outside the
    letters.
    """
    for part in parts:
        left = _outside(part.path.select(~part.path.closed), letters)
        if len(left):
            home = part.id if changes.get(part.id) else lead
            kept = [item for item in changes.get(home, ()) if isinstance(item, Outline)] or [replace(part, path=EMPTY)]
            changes[home] = (replace(kept[0], path=concat([kept[0].path, left])),)


def _into_lines(
    parts: list[Outline], word: Path, letters: shapely.Geometry, gaps_mm: float, workshop: Workshop
) -> Done:
    """Into a frame of open lines: they end at the letters, and the letters' outlines begin there. What was a bridge
    between the ends of lines stays one.
    """
    chord = workshop.ticket.tolerance.chord_mm / 2
    field = _field([part.path for part in parts], letters, gaps_mm, chord)
    beyond = [piece for piece in shapely.get_parts(letters) if piece.intersection(field).area < piece.area / 2]
    if beyond:
        raise StepRefused(
            "let-in", say("{count} of its pieces reach beyond the field between the frame's lines", count=len(beyond))
        )
    changes: dict[str, tuple[Item, ...]] = {}
    touched = 0.0
    for part in parts:
        path = _outside(part.path, letters)
        touched += float(lengths(part.path).sum() - lengths(path).sum())
        changes[part.id] = (replace(part, path=path),) if len(path) else ()
    if not touched:
        raise StepRefused("let-in", "none of the frame's lines runs through a letter")
    outside = shapely.box(*letters.bounds).buffer(10).difference(field)
    edges = [without_stretches(ring, stretches_inside(ring, outside, STEP_MM)) for ring in word.subpaths()]
    lead = parts[0]
    drawn = Outline(f"{lead.id}-letters", concat(edges) if edges else EMPTY, lead.look, "Letters let in")
    if not len(drawn.path):
        raise StepRefused("let-in", "the lettering lies outside the frame")
    listed = [item for new in changes.values() for item in new if isinstance(item, Outline)]
    whole = Sheet((0.0, 0.0), (*listed, drawn))
    with suppress(StepRefused):  # nothing meets where lines and letters only cross
        whole = join_ends.run(whole, (), workshop, {"limit": f"{JOINT_MM} mm"}).sheet
    # One compound path, so that importing keeps the frame together.
    changes = {part.id: () for part in parts}
    changes[lead.id] = (replace(lead, path=concat([item.path for item in whole.outlines()])),)
    return changes, outside, "taken out of the field between the lines", chord


def _outside(path: Path, letters: shapely.Geometry) -> Path:
    """What of some lines doesn't run through a letter."""
    return concat([without_stretches(part, stretches_inside(part, letters, STEP_MM)) for part in path.subpaths()])


def _field(paths: list[Path], letters: shapely.Geometry, gaps_mm: float, chord: float) -> shapely.Geometry:
    """What open lines enclose, their ends bridged where they lie near each other: the parts that the letters lie
    over.
    """
    drawn = [line for path in paths for line in shapely.get_parts(lines(path, chord))]
    ends = [shapely.Point(line.coords[at]) for line in drawn for at in (0, -1)]
    bridges = [
        shapely.LineString([ends[i], ends[j]])
        for i in range(len(ends))
        for j in range(i + 1, len(ends))
        if 0 < ends[i].distance(ends[j]) <= gaps_mm
    ]
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all([*drawn, *bridges])]))
    field = shapely.union_all([face for face in faces if face.intersection(letters).area > 0.02 * face.area])
    if field.is_empty:
        raise StepRefused(
            "let-in",
            say("the frame's lines enclose nothing, even with gaps of {gaps_mm:g} mm bridged", gaps_mm=gaps_mm),
        )
    return field
