"""`add-shape`: a circle, an ellipse, a rectangle or a line, to cut or to set text on."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.arcs import ellipse, rounded
from unkelt.geometry.edit.freehand import smoothed
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import Path, polygon
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet
from unkelt.sheet.naming import fresh_label
from unkelt.steps.around import line_in
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

Shape = Literal["circle", "ellipse", "rectangle", "line", "freehand"]
For = Literal["cut", "score", "guide"]
TITLES = {
    "circle": "Circle",
    "ellipse": "Ellipse",
    "rectangle": "Rectangle",
    "line": "Line",
    "freehand": "Freehand line",
}


USES = {"cut": Operation.CUT, "score": Operation.SCORE, "guide": Operation.LEAVE}


@dataclass(frozen=True, kw_only=True)
class Shaped(Evidence):
    """The form that was added, and its size (mm)."""

    shape: str
    width_mm: float
    height_mm: float

    def caption(self) -> str:
        return say(
            "{shape}, {width:.1f} × {height:.1f} mm",
            shape=TITLES[self.shape],
            width=self.width_mm,
            height=self.height_mm,
        )


@step("add-shape", "Add a shape", on=On.SHEET, purpose=Purpose.SHAPE, redraws=Reason.MADE)
def add_shape(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    shape: Annotated[Shape, "its form; a rectangle may have round corners", Field("Shape", first=True)] = "circle",
    purpose: Annotated[
        For, "a line to cut or to score, or a guide for text that no tool follows", Field("For", first=True)
    ] = "cut",
    width: Annotated[
        float,
        "its width, a circle's diameter",
        Field("Width", first=True, when=("shape", "circle", "ellipse", "rectangle")),
    ] = 50.0,
    height: Annotated[float, "its height", Field("Height", first=True, when=("shape", "ellipse", "rectangle"))] = 30.0,
    corner: Annotated[float, "radius of its corners", Field("Corner radius", when=("shape", "rectangle"))] = 0.0,
    x: Annotated[
        float | None,
        "its centre; without it, the middle of the page",
        Field("Centre x", when=("shape", "circle", "ellipse", "rectangle")),
    ] = None,
    y: Annotated[
        float | None,
        "its centre, from the top of the page",
        Field("Centre y", when=("shape", "circle", "ellipse", "rectangle")),
    ] = None,
    points: Annotated[
        str, "where a line runs, in mm: “10,20 60,20”", Field("Points", when=("shape", "line", "freehand"))
    ] = "",
    colour: Annotated[str, "its colour; without it, the key's for that use", Pictured("colours"), Field("Colour")] = "",
) -> Outcome:
    """Adds one shape to the sheet. Everything else stays as it is. A freehand line is smoothed: it lies within
    0.5 mm of where the hand went, or within a hundredth of its length, whichever is more.

    A guide has the key's colour for what is left alone. Without such a colour Unkelt reports it as a guide as soon
    as text stands on it. Refused if you want to score and the ticket's key has no colour for that.
    """
    look = line_in("add-shape", USES[purpose], colour, workshop)
    cx = sheet.page_mm[0] / 2 if x is None else x
    cy = sheet.page_mm[1] / 2 if y is None else y
    path = _path(shape, cx, cy, width, height, corner, points)
    box = bounds(path)
    if box is None:
        raise StepRefused("add-shape", "it has no size")
    made = Outline(sheet.fresh_id(shape), path, look, fresh_label(sheet, TITLES[shape]))
    evidence = Shaped(shape=shape, width_mm=round(box[2] - box[0], 4), height_mm=round(box[3] - box[1], 4))
    return Outcome(replace(sheet, items=(*sheet.items, made)), (made.id,), evidence)


def _path(shape: Shape, cx: float, cy: float, width: float, height: float, corner: float, points: str) -> Path:
    """Raises StepRefused where its size makes no sense."""
    if shape in ("line", "freehand"):
        places = _places(points)
        if len(places) < 2:
            raise StepRefused("add-shape", "a line needs two places or more")
        return polygon(*places, closed=False) if shape == "line" else smoothed(places)
    height = width if shape == "circle" else height
    if width <= 0 or height <= 0 or corner < 0:
        raise StepRefused("add-shape", "a size must be greater than zero")
    if shape == "rectangle":
        half = min(width, height) / 2
        return rounded(cx - width / 2, cy - height / 2, cx + width / 2, cy + height / 2, min(corner, half))
    return ellipse(cx, cy, width / 2, height / 2)


def _places(text: str) -> list[tuple[float, float]]:
    places = []
    for part in text.split():
        found = re.fullmatch(r"(-?\d+(?:\.\d+)?),(-?\d+(?:\.\d+)?)", part)
        if not found:
            raise StepRefused("add-shape", say("“{part}” is no place such as “10,20”", part=part))
        places.append((float(found[1]), float(found[2])))
    return places
