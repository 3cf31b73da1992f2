"""`set-on-guide`"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
import shapely

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.arc_length import Along
from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.lettering.guides import Position, Stand, Tops, circle, in_column, off_guide, on_circle, on_path
from unkelt.lettering.setting import capital_share, set_lettering
from unkelt.messages import say
from unkelt.sheet.model import Item, Lettering, Outline, Sheet
from unkelt.sheet.naming import meant_in
from unkelt.steps.grip import Grip, Handle, Handles, InHand, written_mm
from unkelt.steps.lettering import saying, set_again
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

USUAL_MM = 100.0
SPREAD = 0.25
"""The radius that is proposed to a text that is too long for the usual one, as a share of its letters' sizes: it then
takes about half of the circle.
"""
ROUND_MM = 0.01
"""A guide whose box is as wide as it is high, within so much, is taken for a circle."""

Shape = Literal["circle", "path", "straight", "column"]


def _on_its_circle(held: InHand) -> Handles:
    text = held.chosen[0]
    if isinstance(text, Lettering) and held["shape"] == "path":
        return _on_its_line(held)
    if not isinstance(text, Lettering) or held["shape"] != "circle" or held["radius"] <= 0:
        return Handles()
    radius, turn = held["radius"], math.radians(held["around"])
    x, y = circle_of(text, held.workshop, radius, held["around"], held["x"], held["y"])
    rim = x + radius * math.sin(turn), y - radius * math.cos(turn)
    places = Handle("centre", x, y, "the circle's centre"), Handle("rim", *rim, "radius, and where on the circle")
    return Handles(places, circle(x, y, radius, 0.0, True))


SHARES = {"start": 0.0, "centre": 0.5, "end": 1.0}
"""Where on a line the part of a text lies that is placed, as a share of the line's length."""

PLACES = 2000
"""How finely a line is looked at for the place nearest to a hand."""


def _line_of(held: InHand) -> Along | None:
    """The first subpath of the outline that text is to follow."""
    outline = held.sheet.find(meant_in("set-on-guide", held.sheet, held["path"])) if held["path"] else None
    return Along.of(outline.path.subpath(0)) if isinstance(outline, Outline) and len(outline.path) else None


def _on_its_line(held: InHand) -> Handles:
    along = _line_of(held)
    if along is None:
        return Handles()
    at = SHARES[held["position"]] * along.length + held["along"]
    x, y = along.places(np.array([at]))[0]
    return Handles((Handle("along", float(x), float(y), "the place along the line"),), along.path)


def _line_dragged(held: InHand, to: tuple[float, float]) -> dict[str, str]:
    along = _line_of(held)
    if along is None:
        return {}
    distances = np.linspace(0.0, along.length, PLACES)
    nearest = int(np.linalg.norm(along.places(distances) - to, axis=1).argmin())
    return {"along": written_mm(float(distances[nearest]) - SHARES[held["position"]] * along.length)}


def _circle_dragged(held: InHand, handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
    if handle.name == "along":
        return _line_dragged(held, to)
    if handle.name == "centre":
        return {"x": written_mm(to[0]), "y": written_mm(to[1])}
    text = held.chosen[0]
    assert isinstance(text, Lettering)
    x, y = circle_of(text, held.workshop, held["radius"], held["around"], held["x"], held["y"])
    around = math.degrees(math.atan2(to[0] - x, y - to[1])) % 360
    radius = written_mm(math.hypot(to[0] - x, to[1] - y))
    return {"radius": radius, "around": f"{round(around, 1) % 360:g}", "x": written_mm(x), "y": written_mm(y)}


def _same_circle(sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """Where another text stands on a circle: below on the same one, in the same band."""
    ids = {item.id for item in chosen}
    for text in reversed(sheet.letterings()):
        box = bounds(text.guide.path.transformed(text.placement)) if text.guide and text.id not in ids else None
        if box is not None and text.guide and text.guide.path.closed.all() and _round(box):
            x, y, radius = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2, (box[2] - box[0]) / 2
            place = {"radius": written_mm(radius), "x": written_mm(x), "y": written_mm(y)}
            return {**place, "around": "180", "tops": "inward", "band": "yes"}
    texts = [item for item in chosen if isinstance(item, Lettering)]
    wide = max((SPREAD * sum(run.size_mm * len(run.text) for run in text.runs) for text in texts), default=0.0)
    return {"radius": written_mm(math.ceil(wide / 10) * 10)} if wide > USUAL_MM else {}


def _round(box: Box) -> bool:
    return abs((box[2] - box[0]) - (box[3] - box[1])) < ROUND_MM


ShapeOption = Annotated[
    Shape,
    "a circle, an outline of the sheet, a straight line again, or a column down the page",
    Field("Set on", first=True),
]
LettersOption = Annotated[
    Stand,
    "letters turn with the line, or stand upright; in a column, turned by a quarter or stacked",
    Field("Letters stand"),
]
RadiusOption = Annotated[
    float, "of the circle that the letters stand on", Field("Radius", first=True, when=("shape", "circle"))
]
XOption = Annotated[
    float | None,
    "the circle's centre; without it, the text's middle stays where it is",
    Field("Centre x", when=("shape", "circle")),
]
YOption = Annotated[
    float | None, "the circle's centre, from the top of the page", Field("Centre y", when=("shape", "circle"))
]
AroundOption = Annotated[
    float,
    "where on the circle: 0 is the top, 90 the right, 180 the bottom",
    "angle",
    Field("Place on it", when=("shape", "circle")),
]
TopsOption = Annotated[
    Tops,
    "where the letters' tops point; inward reads the right way round at the bottom",
    Field("Tops point", first=True, when=("shape", "circle")),
]
BandOption = Annotated[
    bool,
    "letters with their tops inward fill the same band as letters with their tops outward",
    Field("Same band", when=("tops", "inward")),
]
PositionOption = Annotated[
    Position,
    "which part of the text lies there: its start, centre or end",
    Field("Part placed", when=("shape", "circle", "path")),
]
PathOption = Annotated[
    str, "the outline to follow", Pictured("items"), Field("Line", first=True, when=("shape", "path"))
]
AlongOption = Annotated[float, "shift along the path", Field("Shift along", when=("shape", "circle", "path"))]
AwayOption = Annotated[
    float,
    "distance from the line towards the tops of the letters; negative puts them below it",
    Field("Distance", first=True, when=("shape", "circle", "path")),
]


@step(
    "set-on-guide",
    "Set on a circle or path",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    likely=On.TEXT,
    redraws=Reason.LETTERING,
    grip=Grip(_on_its_circle, _circle_dragged),
    hints=_same_circle,
)
def set_on_guide(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    shape: ShapeOption = "circle",
    letters: LettersOption = "turned",
    radius: RadiusOption = USUAL_MM,
    x: XOption = None,
    y: YOption = None,
    around: AroundOption = 0.0,
    tops: TopsOption = "outward",
    band: BandOption = False,
    position: PositionOption = "centre",
    path: PathOption = "",
    along: AlongOption = 0.0,
    away: AwayOption = 0.0,
) -> Outcome:
    """Sets live text on a circle, on an outline of the sheet, down the page, or straight again. Letters keep their
    shapes.

    Refused if letters find no room. The evidence says how many neighbouring letters collide on a bend that didn't
    collide before.
    """
    if shape == "circle" and radius <= 0:
        raise StepRefused("set-on-guide", "the radius must be greater than zero")
    guide = sheet.find(path) if shape == "path" else None
    upright = letters == "upright"
    if shape == "path" and not (isinstance(guide, Outline) and len(guide.path)):
        raise StepRefused(
            "set-on-guide", say("“{path}” is no outline of this sheet", path=path) if path else "no outline is named"
        )

    def change(lettering: Lettering) -> Lettering:
        if shape == "path":
            assert isinstance(guide, Outline)
            return on_path(lettering, guide.path, position, along, away, guide.id, upright)
        if shape == "straight":
            return _straight(lettering, workshop)
        if shape == "column":
            return in_column(lettering, _start(lettering, workshop), upright)
        lowered = away - _capitals(lettering, workshop) if band and tops == "inward" else away
        centre = circle_of(lettering, workshop, radius, around, x, y)
        return on_circle(
            lettering, centre, radius, around + math.degrees(along / radius), tops, position, lowered, upright
        )

    outcome = set_again("set-on-guide", sheet, items, workshop, change)
    collisions = sum(
        _collisions(new, workshop)
        for name in outcome.items
        if isinstance(new := outcome.sheet.find(name), Lettering) and new.guide
    )
    return saying(outcome, letters_that_collide=collisions)


def _straight(lettering: Lettering, workshop: Workshop) -> Lettering:
    """On a straight line again, its middle where it was."""
    own = lettering.placement.inverse().transformPoint(_middle(lettering, workshop))
    shift = {"start": -0.5, "end": 0.5}.get(lettering.anchor, 0.0) * _advance(lettering, workshop)
    return off_guide(lettering, (own[0] + shift, own[1]))


def circle_of(
    lettering: Lettering, workshop: Workshop, radius: float, around: float, x: float | None, y: float | None
) -> tuple[float, float]:
    """The circle's centre in mm: the one asked for, or that with which the middle of the text stays where it is."""
    middle = _middle(lettering, workshop)
    turn = math.radians(around)
    kept = middle[0] - radius * math.sin(turn), middle[1] + radius * math.cos(turn)
    return (kept[0] if x is None else x), (kept[1] if y is None else y)


def _middle(lettering: Lettering, workshop: Workshop) -> tuple[float, float]:
    """The middle of its baseline, on the sheet."""
    glyphs = set_lettering(lettering, workshop.shelf).glyphs
    if not glyphs:
        return lettering.placement.transformPoint((lettering.runs[0].at[0] or 0.0, lettering.runs[0].at[1] or 0.0))
    first, last = glyphs[0], glyphs[-1]
    end = last.x + last.advance * math.cos(last.turn), last.y + last.advance * math.sin(last.turn)
    x, y = lettering.placement.transformPoint(((first.x + end[0]) / 2, (first.y + end[1]) / 2))
    return float(x), float(y)


def _start(lettering: Lettering, workshop: Workshop) -> tuple[float, float]:
    """Where its first letter begins, in its own axes."""
    glyphs = set_lettering(lettering, workshop.shelf).glyphs
    return (glyphs[0].x, glyphs[0].y) if glyphs else (lettering.runs[0].at[0] or 0.0, lettering.runs[0].at[1] or 0.0)


def _advance(lettering: Lettering, workshop: Workshop) -> float:
    return sum(glyph.advance for glyph in set_lettering(lettering, workshop.shelf).glyphs)


def _capitals(lettering: Lettering, workshop: Workshop) -> float:
    """The height of its capitals, in mm on the sheet."""
    face, m = workshop.shelf.match(lettering.runs[0].face), lettering.placement
    share = capital_share(face) if face else 0.0
    return lettering.runs[0].size_mm * share * math.sqrt(abs(m.xx * m.yy - m.xy * m.yx))


def _collisions(lettering: Lettering, workshop: Workshop) -> int:
    """Neighbouring letters that overlap on the guide and don't on a straight line."""
    counts = []
    for text in (lettering, off_guide(lettering, (0.0, 0.0))):
        chord = workshop.ticket.tolerance.chord_mm
        shapes = [
            region(path, False, chord) for _, _, path in set_lettering(text, workshop.shelf).letters(text.placement)
        ]
        counts.append([shapely.intersects(a, b) for a, b in pairwise(shapes)])
    on, off = counts
    return sum(bool(now and not before) for now, before in zip(on, off, strict=False))
