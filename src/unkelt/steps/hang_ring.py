"""`hang-ring`"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

import shapely

from unkelt.account.changes import Reason
from unkelt.errors import GeometryRefused, StepRefused
from unkelt.geometry.arcs import ellipse
from unkelt.geometry.boolean.combine import combine
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import weld
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Outline, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import by_place
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Hung(Evidence):
    """A ring: its hole, wall and centre (mm), and how far that lies from above the centre of mass."""

    hole_mm: float
    wall_mm: float
    x_mm: float
    y_mm: float
    off_centre_of_mass_mm: float
    pieces_after: int

    def caption(self) -> str:
        return say("a hole of {hole:.2f} mm", hole=self.hole_mm)


HoleOption = Annotated[float, "the hole's diameter; common practice is 0.21 in", Field("Hole diameter", first=True)]
WallOption = Annotated[float, "material around the hole; common practice is 0.08 to 0.12 in", Field("Wall", first=True)]
XOption = Annotated[float | None, "the hole's centre; without it, above the centre of mass", Field("Hole x")]
YOption = Annotated[float | None, "the hole's centre, from the top of the page", Field("Hole y")]


@step(
    "hang-ring",
    "Add a ring to hang it from",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    lines="closed",
    likely=On.OUTLINES,
    redraws=Reason.MADE,
    grip=by_place(lambda held: (held.middle[0], held.box[1]), "the hole's middle"),
)
def hang_ring(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    hole: HoleOption = 5.334,
    wall: WallOption = 2.54,
    x: XOption = None,
    y: YOption = None,
) -> Outcome:
    """Welds a ring to an outline and cuts its hole, so that the piece hangs level. The ring sits above the centre
    of mass, half sunk into the outline.

    Proven by a second engine. Around the hole, the wall is nowhere thinner than asked.
    """
    if hole <= 0 or wall <= 0:
        raise StepRefused("hang-ring", "hole and wall must be greater than zero")
    chosen: list[Outline] = targets("hang-ring", sheet, items, Outline)
    if len(chosen) != 1 or not chosen[0].path.closed.all():
        raise StepRefused("hang-ring", "name the one closed outline that is to hang")
    body, tolerance = chosen[0], workshop.ticket.tolerance
    shape = region(body.path, body.look.even_odd, tolerance.chord_mm / 2)
    if shape.is_empty:
        raise StepRefused("hang-ring", "the outline encloses nothing that a ring could hang from")
    cx = float(shape.centroid.x) if x is None else x
    outer = hole / 2 + wall
    cy = _top(shape, cx) - outer / 3 if y is None else y
    try:
        ring = Operand(ellipse(cx, cy, outer, outer))
        joined, _ = weld([Operand(body.path, body.look.even_odd), ring], tolerance, guard=False)
        path, proof = combine(
            "difference", [Operand(joined)], [Operand(ellipse(cx, cy, hole / 2, hole / 2))], tolerance
        )
    except GeometryRefused as problem:
        raise StepRefused("hang-ring", str(problem)) from problem
    after = region(path, False, tolerance.chord_mm / 2)
    needed = (
        shapely.Point(cx, cy)
        .buffer(outer - tolerance.chord_mm, quad_segs=64)
        .difference(shapely.Point(cx, cy).buffer(hole / 2 + tolerance.chord_mm, quad_segs=64))
    )
    if not after.buffer(tolerance.chord_mm).covers(needed):
        raise StepRefused("hang-ring", "an opening of the outline would cut into the ring's wall; place it elsewhere")
    pieces_before = len(shapely.get_parts(shape))
    if proof.pieces > pieces_before:
        raise StepRefused("hang-ring", "the ring would not touch the outline; place it nearer")
    look = replace(body.look, even_odd=False)
    lean = abs(cx - float(after.centroid.x))
    evidence = Hung(
        hole_mm=hole,
        wall_mm=wall,
        x_mm=round(cx, 4),
        y_mm=round(cy, 4),
        off_centre_of_mass_mm=round(lean, 4),
        pieces_after=proof.pieces,
        max_deviation_mm=round(proof.max_deviation_mm, 5),
    )
    return Outcome(sheet.replaced({body.id: (replace(body, path=path, look=look),)}), (body.id,), evidence)


def _top(shape: shapely.Geometry, x: float) -> float:
    """The uppermost material on an upright through x."""
    low, high = float(shape.bounds[1]), float(shape.bounds[3])
    cut = shape.intersection(shapely.LineString([(x, low - 1), (x, high + 1)]))
    return float(cut.bounds[1]) if not cut.is_empty else low
