"""`set-on-guide`"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Annotated, Literal

import shapely

from unkelt.account.changes import Reason
from unkelt.account.declare import going
from unkelt.errors import LengthError, StepRefused
from unkelt.geometry.arc_length import Along
from unkelt.geometry.measure import Box, bounds
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.lettering.guides import (
    ANCHORS,
    Position,
    Side,
    Tops,
    Way,
    along_line,
    in_column,
    nearest_on,
    off_guide,
    on_way,
    round_circle,
)
from unkelt.lettering.ink_line import ink_spans, with_ink_at
from unkelt.lettering.setting import capital_share, set_lettering
from unkelt.messages import say
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Item, Lettering, Outline, Sheet, Stand
from unkelt.sheet.naming import meant_in
from unkelt.steps.around import line_in
from unkelt.steps.grip import Grip, Handle, Handles, InHand, written_mm
from unkelt.steps.lettering import saying, set_again
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step
from unkelt.units import parse_length

USUAL_MM = 100.0
SPREAD = 0.25
"""The radius that is proposed to a text that is too long for the usual one, as a share of its letters' sizes: it then
takes about half of the circle.
"""
ROUND_MM = 0.01
"""A guide whose box is as wide as it is high, within so much, is taken for a circle."""

FLATTENED = 0.26
"""Slanted letters are refused where their height off the line falls below this share: at 75° of slope."""

Shape = Literal["circle", "path", "straight", "column"]
After = Literal["stays", "cut", "removed"]


def _handles(held: InHand) -> Handles:
    """The place of the text on its line, the distance at the far side of the letters, and a circle's centre."""
    text = held.chosen[0]
    if not isinstance(text, Lettering) or (way := _way(text, held)) is None or (foot := _foot(way, held)) is None:
        return Handles()
    x, y, normal = foot
    reach = _reach(text, held)
    tip = Handle("away", x + reach * normal[0], y + reach * normal[1], "the distance from the line", stem=(x, y))
    if held["shape"] == "circle":
        centre = circle_of(text, held.workshop, held["radius"], held["around"] or 0.0, held["x"], held["y"])
        rim = Handle("rim", x, y, "radius, and where on the circle")
        return Handles((Handle("centre", *centre, "the circle's centre"), rim, tip), way.path)
    return Handles((Handle("along", x, y, "the place along the line"), tip), way.path)


def _way(text: Lettering, held: InHand) -> Way | None:
    """The line that the text is to follow; None while there is none."""
    if held["shape"] == "circle" and held["radius"] > 0:
        around = held["around"] or 0.0
        centre = circle_of(text, held.workshop, held["radius"], around, held["x"], held["y"])
        return round_circle(centre, held["radius"], around, held["tops"], held["position"])
    if held["shape"] != "path" or not held["path"]:
        return None
    outline = held.sheet.find(meant_in("set-on-guide", held.sheet, held["path"]))
    if not isinstance(outline, Outline) or not len(outline.path):
        return None
    near = _place_of(held["near"]) if held["near"] else None
    return along_line(outline.path, held["tops"], held["position"], held["around"], near)


def _foot(way: Way, held: InHand) -> tuple[float, float, tuple[float, float]] | None:
    """Where on the line the text is placed, and the way to the letters' tops there."""
    along = Along.of(way.path)
    at = along.at(min(max(way.at_mm + held["along"], 0.0), along.length))
    return (at[0], at[1], (math.sin(at[2]), -math.cos(at[2]))) if at else None


def _reach(text: Lettering, held: InHand) -> float:
    """How far the far side of the letters lies off the line, to their tops' side."""
    lies = 1 if _towards_tops(held["tops"], held["side"]) else -1
    return lies * (held["away"] + _capitals(text, held.workshop))


def _dragged(held: InHand, handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
    text = held.chosen[0]
    if handle.name == "centre":
        return {"x": written_mm(to[0]), "y": written_mm(to[1])}
    if not isinstance(text, Lettering) or (way := _way(text, held)) is None or (foot := _foot(way, held)) is None:
        return {}
    if handle.name == "along":
        return {"along": written_mm(nearest_on(Along.of(way.path), to) - way.at_mm)}
    if handle.name == "away":
        x, y, normal = foot
        off = (to[0] - x) * normal[0] + (to[1] - y) * normal[1]
        lies = 1 if _towards_tops(held["tops"], held["side"]) else -1
        return {"away": written_mm(lies * off - _capitals(text, held.workshop))}
    x, y = circle_of(text, held.workshop, held["radius"], held["around"] or 0.0, held["x"], held["y"])
    around = math.degrees(math.atan2(to[0] - x, y - to[1])) % 360
    radius = written_mm(math.hypot(to[0] - x, to[1] - y))
    return {"radius": radius, "around": f"{round(around, 1) % 360:g}", "x": written_mm(x), "y": written_mm(y)}


def _pointed(held: InHand, at: tuple[float, float]) -> dict[str, str]:
    """A click on the line that is followed already, or on an open one, says where the text is to be."""
    return {"near": ", ".join(written_mm(value) for value in at), "along": "0 mm"} if held["path"] else {}


def _same_circle(sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """Where another text stands on a circle: below on the same one, in the same band."""
    ids = {item.id for item in chosen}
    for text in reversed(sheet.letterings()):
        box = bounds(text.guide.path.transformed(text.placement)) if text.guide and text.id not in ids else None
        if box is not None and text.guide and text.guide.path.closed.all() and _round(box):
            x, y, radius = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2, (box[2] - box[0]) / 2
            place = {"radius": written_mm(radius), "x": written_mm(x), "y": written_mm(y)}
            return {**place, "around": "180", "tops": "inward", "side": "outside"}
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
    "letters turn with the line, stand upright, or slant along it with upright stems; in a column, turned by a quarter "
    "or stacked",
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
    float | None,
    "where on the line, seen from the middle: 0 is the top, 90 the right, 180 the bottom; without it, the top of a "
    "closed line, and the start, centre or end of an open one",
    "angle",
    Field("Place on it", when=("shape", "circle", "path")),
]
NearOption = Annotated[
    str,
    "a place such as “40 mm, 25 mm”: the text is set where the line lies nearest to it",
    Field("Placed near", when=("shape", "path")),
]
TopsOption = Annotated[
    Tops,
    "where the letters' tops point; inward reads the right way round at the bottom. On an open line outward is up",
    Field("Tops point", first=True, when=("shape", "circle", "path")),
]
SideOption = Annotated[
    Side,
    "on which side of the line the letters lie: usually where their tops point; above an open line is outside",
    Field("Letters lie", first=True, when=("shape", "circle", "path")),
]
PositionOption = Annotated[
    Position,
    "which part of the text's ink lies there: its start, centre or end; straight or down the page, which part stays "
    "where it is",
    Field("Part placed"),
]
PathOption = Annotated[
    str, "the outline to follow", Pictured("items"), Field("Line", first=True, when=("shape", "path"))
]
AlongOption = Annotated[float, "shift along the line", Field("Shift along", when=("shape", "circle", "path"))]
AwayOption = Annotated[
    float,
    "distance between line and letters, to the side where they lie; negative puts them across it",
    Field("Distance", first=True, when=("shape", "circle", "path")),
]
LineOption = Annotated[
    After,
    "what becomes of the line: it stays as it is, is cut as a line of its own, or is taken out",
    Field("The line itself", when=("shape", "path")),
]


@step(
    "set-on-guide",
    "Set on a circle or path",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    likely=On.TEXT,
    redraws=Reason.LETTERING,
    grip=Grip(_handles, _dragged, pointed=_pointed),
    hints=_same_circle,
)
def set_on_guide(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    shape: ShapeOption = "circle",
    path: PathOption = "",
    radius: RadiusOption = USUAL_MM,
    tops: TopsOption = "outward",
    side: SideOption = "usual",
    away: AwayOption = 0.0,
    letters: LettersOption = "turned",
    position: PositionOption = "centre",
    around: AroundOption = None,
    near: NearOption = "",
    along: AlongOption = 0.0,
    x: XOption = None,
    y: YOption = None,
    line: LineOption = "stays",
) -> Outcome:
    """Sets live text on a circle, on an outline of the sheet, down the page, or straight again. Letters keep their
    shapes, unless you ask for slanted ones.

    The ink is placed: the space after the last letter doesn't count. On a closed line the text goes on past the
    line's own start. Refused if letters find no room. The evidence says how many neighbouring letters collide on a
    bend that didn't collide before.
    """
    if shape == "circle" and radius <= 0:
        raise StepRefused("set-on-guide", "the radius must be greater than zero")
    guide = sheet.find(path) if shape == "path" else None
    if shape == "path" and not (isinstance(guide, Outline) and len(guide.path)):
        raise StepRefused(
            "set-on-guide", say("“{path}” is no outline of this sheet", path=path) if path else "no outline is named"
        )
    place = _place_of(near) if near else None

    def change(lettering: Lettering) -> Lettering:
        if shape == "straight":
            return _straight(lettering, workshop, position)
        if shape == "column":
            return _column(lettering, workshop, letters == "upright", position)
        if shape == "path":
            assert isinstance(guide, Outline)
            way, source = along_line(guide.path, tops, position, around, place), guide.id
        else:
            centre = circle_of(lettering, workshop, radius, around or 0.0, x, y)
            way, source = round_circle(centre, radius, around or 0.0, tops, position), ""
        lift = _lift(lettering, workshop, away, tops, side)
        text = on_way(lettering, replace(way, at_mm=way.at_mm + along), position, lift, source, letters)
        assert text.guide is not None
        return with_ink_at(text, text.guide.offset_mm, workshop.shelf)

    outcome = set_again("set-on-guide", sheet, items, workshop, change, keep_ink=False)
    texts = [new for name in outcome.items if isinstance(new := outcome.sheet.find(name), Lettering) and new.guide]
    if letters == "slanted" and any(_flattened(text, workshop) for text in texts):
        raise StepRefused("set-on-guide", "the line is too steep for slanted letters; let them turn or stand upright")
    outcome = saying(outcome, letters_that_collide=sum(_collisions(new, workshop) for new in texts))
    return _with_line(outcome, guide, line, workshop) if isinstance(guide, Outline) else outcome


def _place_of(near: str) -> tuple[float, float]:
    """A place of the sheet as it is written. Raises StepRefused."""
    try:
        x, y = (parse_length(part) for part in near.split(","))
    except (LengthError, ValueError) as problem:
        raise StepRefused("set-on-guide", say("“{near}” is no place such as “40 mm, 25 mm”", near=near)) from problem
    return x, y


def _lift(lettering: Lettering, workshop: Workshop, away: float, tops: Tops, side: Side) -> float:
    """How far the baseline lies off the line towards the tops: letters on the other side hang by their capitals."""
    return away if _towards_tops(tops, side) else -away - _capitals(lettering, workshop)


def _towards_tops(tops: Tops, side: Side) -> bool:
    """Whether letters lie on the side of the line where their tops point."""
    return side == "usual" or (side == "outside") == (tops == "outward")


def _flattened(text: Lettering, workshop: Workshop) -> bool:
    """Whether a slanted letter is all but a line: its stems lie along its feet."""
    return any(abs(glyph.up[1]) < FLATTENED for glyph in set_lettering(text, workshop.shelf).glyphs if glyph.has_ink)


def _with_line(outcome: Outcome, guide: Outline, after: After, workshop: Workshop) -> Outcome:
    """What becomes of the line that the text follows."""
    if after == "stays":
        return outcome
    if after == "removed":
        sheet = outcome.sheet.replaced({guide.id: ()})
        gone = going(Reason.GUIDE, [guide], workshop.ticket, workshop.shelf)
        return replace(outcome, sheet=sheet, items=(*outcome.items, guide.id), changes=(*outcome.changes, *gone))
    if not any(operation is Operation.CUT for operation in workshop.ticket.key.values()):
        raise StepRefused(
            "set-on-guide", "the ticket's key names no colour for cutting, so nothing would tell the line from a guide"
        )
    cut = replace(guide, look=line_in("set-on-guide", Operation.CUT, "", workshop))
    sheet = outcome.sheet.replaced({guide.id: (cut,)})
    return replace(outcome, sheet=sheet, items=(*outcome.items, guide.id))


def _straight(lettering: Lettering, workshop: Workshop, position: Position) -> Lettering:
    """On a straight line again, the start, middle or end of its ink where that of its baseline was."""
    x, y = _part(lettering, workshop, position)
    held = replace(lettering, anchor=ANCHORS[position])
    spans = ink_spans(off_guide(held, (x, y)), workshop.shelf)
    return off_guide(held, (2 * x - spans[0].at(held.anchor) if spans else x, y))


def _column(lettering: Lettering, workshop: Workshop, upright: bool, position: Position) -> Lettering:
    """Down the page, the start, middle or end of its ink where that of its baseline was."""
    x, y = _part(lettering, workshop, position)
    anchor = ANCHORS[position]
    spans = ink_spans(replace(in_column(lettering, (x, y), upright), anchor=anchor), workshop.shelf)
    at = x, 2 * y - spans[0].at(anchor) if spans else y
    return replace(in_column(lettering, at, upright), anchor=anchor)


def _part(lettering: Lettering, workshop: Workshop, position: Position) -> tuple[float, float]:
    """Where the start, middle or end of its ink is on a straight line, else of its baseline; in its own axes."""
    if lettering.guide is None and not lettering.vertical and (spans := ink_spans(lettering, workshop.shelf)):
        return spans[0].at(ANCHORS[position]), _start(lettering, workshop)[1]
    if position == "start":
        return _start(lettering, workshop)
    x, y = lettering.placement.inverse().transformPoint(_middle(lettering, workshop))
    if position == "centre":
        return float(x), float(y)
    start = _start(lettering, workshop)
    return float(2 * x - start[0]), float(2 * y - start[1])


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
