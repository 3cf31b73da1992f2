"""`border`: a frame that is cut around what is there."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np
import shapely

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.arcs import ellipse, rounded
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import Box
from unkelt.geometry.path import Floats, Path, concat, polygon
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say
from unkelt.sheet.appearance import Operation
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Lettering, Outline, Picture, Sheet
from unkelt.sheet.naming import fresh_label
from unkelt.steps.around import engraving, line_in
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import outward
from unkelt.steps.place import ink_box
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

FINE_MM = 5e-4
"""How finely the ink is followed when a circle is laid around it."""


@dataclass(frozen=True, kw_only=True)
class Framed(Evidence):
    """The size of a frame (mm)."""

    width_mm: float
    height_mm: float

    def caption(self) -> str:
        return say("{width:.1f} × {height:.1f} mm", width=self.width_mm, height=self.height_mm)


DiameterOption = Annotated[
    float | None,
    "of the circle; without it, as small as the margin allows",
    Field("Diameter", when=("shape", "circle")),
]
XOption = Annotated[
    float | None,
    "the circle's centre; without it, where the circle is smallest",
    Field("Centre x", when=("shape", "circle")),
]
YOption = Annotated[
    float | None, "the circle's centre, from the top of the page", Field("Centre y", when=("shape", "circle"))
]


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
    diameter: DiameterOption = None,
    x: XOption = None,
    y: YOption = None,
    frame: Annotated[float, "thickness of an inner frame for engraving; 0 for none", Field("Engraved frame")] = 0.0,
    inset: Annotated[float, "how far the inner frame lies from the line", Field("Frame distance")] = 2.5,
    colour: Annotated[
        str, "its colour; without it, the key's for cutting", Pictured("colours"), Field("Colour", first=True)
    ] = "",
) -> Outcome:
    """Draws a cut line around the ink of the named items, or of all items, and an inner frame for engraving if you
    ask for one. Everything else stays as it is.

    A circle is the smallest one around the ink, plus the margin, unless you give its diameter or centre. Refused if
    such a circle would cut through the ink.
    """
    box = ink_box(sheet, items, workshop)
    if box is None or margin < 0:
        raise StepRefused("border", "there is nothing to go around" if box is None else "the margin can't be negative")
    if frame < 0 or (frame and inset + frame >= margin):
        raise StepRefused("border", "the inner frame has no room in the margin")
    if shape == "circle":
        centre, reach = _smallest_circle(sheet, items, workshop, (x, y))
        if diameter is not None and diameter / 2 < reach:
            raise StepRefused(
                "border",
                say(
                    "a circle of {diameter:g} mm would cut the ink, which needs {needed:.2f} mm",
                    diameter=diameter,
                    needed=2 * reach,
                ),
            )
        margin = margin if diameter is None else diameter / 2 - reach
        box = (centre[0] - reach, centre[1] - reach, centre[0] + reach, centre[1] + reach)
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
    if shape == "circle":
        return ellipse(cx, cy, half_w, half_h)
    # The ellipse through the corners of the ink's box, then the margin.
    return ellipse(cx, cy, (half_w - margin) * 2**0.5 + margin, (half_h - margin) * 2**0.5 + margin)


def _smallest_circle(
    sheet: Sheet, items: tuple[str, ...], workshop: Workshop, given: tuple[float | None, float | None]
) -> tuple[tuple[float, float], float]:
    """The centre and radius of the smallest circle around the ink, in mm; its centre where that is given."""
    points = shapely.MultiPoint(np.concatenate(_ink_points(sheet, items, workshop)))
    middle = shapely.centroid(shapely.minimum_bounding_circle(points))
    centre = (middle.x if given[0] is None else given[0]), (middle.y if given[1] is None else given[1])
    hull = shapely.get_coordinates(shapely.convex_hull(points))
    return centre, float(np.hypot(*(hull - centre).T).max())


def _ink_points(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> list[Floats]:
    """Points along all that counts as ink: live text with its letters, strokes by their centre line."""
    chosen = leaves(sheet, items) if items else None
    found: list[Floats] = []
    for item in sheet.walk():
        if chosen is not None and item.id not in chosen:
            continue
        if isinstance(item, Outline) and len(item.path):
            found.append(shapely.get_coordinates(lines(item.path, FINE_MM)))
        elif isinstance(item, Lettering):
            letters = [path for _, _, path in set_lettering(item, workshop.shelf).letters(item.placement) if len(path)]
            found += [shapely.get_coordinates(lines(path, FINE_MM)) for path in letters]
        if isinstance(item, Picture) or (isinstance(item, Lettering) and not letters):
            x0, y0, x1, y1 = item.box if isinstance(item, Picture) else item.place
            found.append(np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)]))
    return found
