"""`backing` and `border`: the line that is cut around lettering."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np

from unkelt.account.changes import Reason
from unkelt.errors import GeometryRefused, StepRefused
from unkelt.geometry.arcs import arc_to_cubics
from unkelt.geometry.measure import Box, bounds, join_boxes, signed_areas
from unkelt.geometry.offset.offset import offset_path
from unkelt.geometry.path import Path, PathBuilder, concat, polygon
from unkelt.geometry.reduce.reduce import reduce_nodes
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.sheet.naming import fresh_label
from unkelt.steps.around import as_one, chosen_outlines, engraving, line_in
from unkelt.steps.evidence import Evidence, Renoded
from unkelt.steps.grip import outward, written_mm
from unkelt.steps.place import ink_box
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

ARC_ERROR_MM = 1e-3


TITLE = "Backing"


@dataclass(frozen=True, kw_only=True)
class Backed(Renoded):
    """Lines around an outline, and the pieces of the outermost."""

    lines: int
    pieces_after: int

    def caption(self) -> str:
        return say_count("{count} line", "{count} lines", self.lines)


@dataclass(frozen=True, kw_only=True)
class Framed(Evidence):
    """The size of a frame (mm)."""

    width_mm: float
    height_mm: float

    def caption(self) -> str:
        return say("{width:.1f} × {height:.1f} mm", width=self.width_mm, height=self.height_mm)


USUAL_MM = 3.175
"""1/8 in (common practice for film, no source)."""


def _one_further(sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """Around what has backings already, the next one lies as far beyond the last."""
    boxes = [bounds(item.path) for item in chosen if isinstance(item, Outline)]
    ink = join_boxes([box for box in boxes if box])
    if ink is None:
        return {}
    lefts = [
        ink[0] - box[0]
        for item in sheet.outlines()
        if (item.label or "").startswith(TITLE) and (box := bounds(item.path)) and box[0] < ink[0]
    ]
    return {"distance": written_mm(max(lefts) + USUAL_MM)} if lefts else {}


@step(
    "backing",
    "Add a backing",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    lines="closed",
    grip=outward("distance", "how far the line runs from the outlines", 0.01),
    likely=On.OUTLINES,
    hints=_one_further,
    redraws=Reason.MADE,
)
def backing(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    distance: Annotated[
        float, "how far the line runs outside; common practice for film is 1/8 in", Field("Distance", first=True)
    ] = USUAL_MM,
    corners: Annotated[
        Literal["round", "sharp"], "sharp ones reach up to four times the distance", Field("Corners")
    ] = "round",
    holes: Annotated[float, "holes smaller than this across are filled", Field("Fill holes up to")] = 1000.0,
    count: Annotated[int, "number of lines, each at the distance from the one before", Field("Lines")] = 1,
    side: Annotated[Literal["outside", "inside", "both"], "where the line runs", Field("Side", first=True)] = "outside",
    colour: Annotated[
        str, "its colour; without it, the key's for cutting", Pictured("colours"), Field("Colour", first=True)
    ] = "",
    area: Annotated[bool, "paint it as an area, as a layer of material looks", Field("Paint the area")] = False,
) -> Outcome:
    """Draws a cut line, or an area, at a distance around or inside outlines, below them. Lines that touch are welded.
    The outlines stay as they are.

    Proven: every edge lies at that distance, within the chord tolerance. Curves stay curves.
    """
    if distance <= 0 or not 1 <= count <= 20:
        raise StepRefused("backing", "the distance must be greater than zero, and the count from 1 to 20")
    outlines = chosen_outlines("backing", sheet, items)
    tolerance = workshop.ticket.tolerance
    source = as_one("backing", outlines, workshop)
    made: list[Outline] = []
    look = line_in("backing", Operation.CUT, colour, workshop)
    look = Appearance(fill=look.stroke) if area else look
    after, worst, path = sheet, 0.0, source
    ways = {"outside": [1], "inside": [-1], "both": [1, -1]}[side]
    for way, number in itertools.product(ways, range(count)):
        path = source if number == 0 else path
        try:
            path, proof = offset_path(path, way * distance, tolerance, "round" if corners == "round" else "miter", 4.0)
        except GeometryRefused as problem:
            raise StepRefused("backing", str(problem)) from problem
        if not len(path):
            raise StepRefused(
                "backing",
                say("nothing of these outlines is {distance:g} mm wide", distance=2 * distance * (number + 1)),
            )
        path = _without_small_holes(path, holes) if way > 0 else path
        fewer = reduce_nodes(path, tolerance.chord_mm / 2)
        path, worst = fewer.path, max(worst, proof.max_deviation_mm + fewer.bound_mm)
        made.append(Outline(after.fresh_id("backing"), path, look, fresh_label(after, TITLE)))
        after = replace(after, items=(made[-1], *after.items))
    evidence = Backed(
        lines=len(made),
        pieces_after=int((signed_areas(path) > 0).sum()),
        nodes_before=source.node_count,
        nodes_after=made[-1].path.node_count,
        max_deviation_mm=round(worst, 5),
    )
    return Outcome(after, tuple(outline.id for outline in outlines), evidence)


def _without_small_holes(path: Path, across_mm: float) -> Path:
    areas = signed_areas(path)
    size = np.array([np.ptp(part.points, axis=(0, 1)).max() for part in path.subpaths()])
    return path.select((areas > 0) | (size >= across_mm))


@step(
    "border",
    "Add a border",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    likely=On.OUTLINES,
    grip=outward("margin", "the room between the ink and the line"),
    redraws=Reason.MADE,
)
def border(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    shape: Annotated[
        Literal["rectangle", "rounded", "ellipse", "circle"], "the form of the line", Field("Shape", first=True)
    ] = "rounded",
    margin: Annotated[float, "room between the ink and the line", Field("Margin", first=True)] = 10.0,
    radius: Annotated[float, "of rounded corners", Field("Corner radius", when=("shape", "rounded"))] = 5.0,
    frame: Annotated[float, "thickness of an inner frame for engraving; 0 for none", Field("Engraved frame")] = 0.0,
    inset: Annotated[float, "how far the inner frame lies from the line", Field("Frame distance")] = 2.5,
    colour: Annotated[
        str, "its colour; without it, the key's for cutting", Pictured("colours"), Field("Colour", first=True)
    ] = "",
) -> Outcome:
    """Draws a cut line around the ink of the named items, or of all items, and an inner frame for engraving if you
    ask for one. Everything else stays as it is.
    """
    box = ink_box(sheet, items, workshop)
    if box is None or margin < 0:
        raise StepRefused("border", "there is nothing to go around" if box is None else "the margin can't be negative")
    if frame < 0 or (frame and inset + frame >= margin):
        raise StepRefused("border", "the inner frame has no room in the margin")
    path = _around(box, shape, margin, radius)
    outline = Outline(
        sheet.fresh_id("border"), path, line_in("border", Operation.CUT, colour, workshop), fresh_label(sheet, "Border")
    )
    low, high = path.points.min(axis=(0, 1)), path.points.max(axis=(0, 1))
    evidence = Framed(width_mm=round(float(high[0] - low[0]), 4), height_mm=round(float(high[1] - low[1]), 4))
    added: tuple[Outline, ...] = (outline,)
    if frame:
        rings = [_around(box, shape, margin - off, max(radius - off, 0.0)) for off in (inset, inset + frame)]
        inner = concat([rings[0], rings[1].reversed()])
        added += (Outline(sheet.fresh_id("frame"), inner, engraving(workshop), "Inner frame"),)
    return Outcome(replace(sheet, items=(*added, *sheet.items)), items, evidence)


def _around(box: Box, shape: str, margin: float, radius: float) -> Path:
    """The line of a border at a margin from the ink's box."""
    x0, y0, x1, y1 = box[0] - margin, box[1] - margin, box[2] + margin, box[3] + margin
    cx, cy, half_w, half_h = (x0 + x1) / 2, (y0 + y1) / 2, (x1 - x0) / 2, (y1 - y0) / 2
    if shape == "rectangle":
        return polygon((x0, y0), (x1, y0), (x1, y1), (x0, y1))
    if shape == "rounded":
        return rounded(x0, y0, x1, y1, min(radius, half_w, half_h))
    # The ellipse through the corners of the ink's box, then the margin; in a circle the diagonal decides.
    rx, ry = (half_w - margin) * 2**0.5 + margin, (half_h - margin) * 2**0.5 + margin
    if shape == "circle":
        rx = ry = float(np.hypot(half_w - margin, half_h - margin)) + margin
    return ellipse(cx, cy, rx, ry)


def rounded(x0: float, y0: float, x1: float, y1: float, r: float) -> Path:
    """A rectangle with round corners; with none where the radius is zero."""
    if r <= 0:
        return polygon((x0, y0), (x1, y0), (x1, y1), (x0, y1))
    builder = PathBuilder()
    builder.move_to(x0 + r, y0)
    for (ax, ay), (bx, by) in (
        ((x1 - r, y0), (x1, y0 + r)),
        ((x1, y1 - r), (x1 - r, y1)),
        ((x0 + r, y1), (x0, y1 - r)),
        ((x0, y0 + r), (x0 + r, y0)),
    ):
        builder.line_to(ax, ay)
        for cubic in arc_to_cubics(ax, ay, r, r, 0, False, True, bx, by, ARC_ERROR_MM):
            builder.cubic_to(*cubic)
    builder.close()
    return builder.path()


def ellipse(cx: float, cy: float, rx: float, ry: float) -> Path:
    """Four arcs or more, within a micrometre of the true one."""
    builder = PathBuilder()
    builder.move_to(cx + rx, cy)
    for ax, bx in ((cx + rx, cx - rx), (cx - rx, cx + rx)):
        for cubic in arc_to_cubics(ax, cy, rx, ry, 0, False, True, bx, cy, ARC_ERROR_MM):
            builder.cubic_to(*cubic)
    builder.close()
    return builder.path()
