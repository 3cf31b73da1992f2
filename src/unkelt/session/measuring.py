"""Measuring on the table: places that snap to what is drawn, and what lies between two of them or around one."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.distance import distances
from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import bounds
from unkelt.geometry.region import region
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.session.reading import MM, Unit
from unkelt.sheet.model import Outline, Sheet

CHORD_MM = 0.005
DIRECTIONS = 180


@dataclass(frozen=True, slots=True)
class Place:
    """A place on the sheet in mm, and what it snapped to: "node", "line" or nothing."""

    x: float
    y: float
    on: str = ""


def snapped(sheet: Sheet, x: float, y: float, reach_mm: float, but: Collection[str] = ()) -> Place:
    """The nearest node within reach; else the nearest place on a line; else the place itself. Outlines in `but` don't
    count.
    """
    best: tuple[float, Place] | None = None
    node: tuple[float, Place] | None = None
    for outline in _near(sheet, x, y, reach_mm):
        if outline.id in but:
            continue
        nodes = np.concatenate([outline.path.points[:, 0], outline.path.points[:, 3]])
        off = np.hypot(*(nodes - (x, y)).T)
        at = int(off.argmin())
        if off[at] <= reach_mm and (node is None or off[at] < node[0]):
            node = float(off[at]), Place(float(nodes[at, 0]), float(nodes[at, 1]), "node")
        vertices, owner = flatten(outline.path, CHORD_MM)
        same = owner[1:] == owner[:-1]
        start, along = vertices[:-1][same], np.diff(vertices, axis=0)[same]
        square = np.maximum((along**2).sum(axis=1), 1e-300)
        share = np.clip((((x, y) - start) * along).sum(axis=1) / square, 0, 1)
        feet = start + share[:, None] * along
        away = np.hypot(*(feet - (x, y)).T)
        at = int(away.argmin())
        if away[at] <= reach_mm and (best is None or away[at] < best[0]):
            best = float(away[at]), Place(float(feet[at, 0]), float(feet[at, 1]), "line")
    if node is not None:
        return node[1]
    return best[1] if best is not None else Place(x, y)


def between(a: Place, b: Place, unit: Unit = MM) -> list[str]:
    """Distance, both ways and angle from one place to another, for people."""
    dx, dy = b.x - a.x, b.y - a.y
    angle = math.degrees(math.atan2(-dy, dx)) % 360 + 0.0
    return [
        unit.say(math.hypot(dx, dy), 1),
        say(
            "{say} across · {say_2} down · {angle:.1f}°",
            say=unit.say(abs(dx), 1, bare=True),
            say_2=unit.say(abs(dy), 1, bare=True),
            angle=angle,
        ),
    ]


def around(sheet: Sheet, workshop: Workshop, place: Place, unit: Unit = MM) -> list[str]:
    """How thick the material is at a place, or how wide the room between material: the shortest way through it from
    edge to edge.
    """
    chord = workshop.ticket.tolerance.chord_mm / 2
    filled = [o for o in sheet.outlines() if len(o.path) and (o.look.fill is not None or o.path.closed.all())]
    shapes = [region(o.path, o.look.even_odd or o.look.fill is None, chord) for o in filled]
    whole = shapely.union_all(shapes) if shapes else shapely.MultiPolygon()
    if whole.is_empty:
        return []
    inside = bool(whole.contains(shapely.Point(place.x, place.y)))
    edges = shapely.get_coordinates(shapely.get_parts(shapely.boundary(whole)), return_index=True)
    vertices, owner = edges
    same = owner[1:] == owner[:-1]
    start, along = vertices[:-1][same] - (place.x, place.y), np.diff(vertices, axis=0)[same]
    shortest = math.inf
    for turn in np.linspace(0, math.pi, DIRECTIONS, endpoint=False):
        way = np.array([math.cos(turn), math.sin(turn)])
        cross = way[0] * along[:, 1] - way[1] * along[:, 0]
        with np.errstate(divide="ignore", invalid="ignore"):
            reach = (start[:, 0] * along[:, 1] - start[:, 1] * along[:, 0]) / cross
            share = (start[:, 0] * way[1] - start[:, 1] * way[0]) / cross
        hits = reach[(share >= 0) & (share <= 1) & np.isfinite(reach)]
        ahead, behind = hits[hits > 0], -hits[hits < 0]
        if len(ahead) and len(behind):
            shortest = min(shortest, float(ahead.min() + behind.min()))
    nearest = float(distances(np.zeros((1, 2)), start, start + along)[0])
    what = "material" if inside else "gap"
    lines = [f"{what} {unit.say(shortest, 1)}"] if math.isfinite(shortest) else []
    return [*lines, say("nearest edge {say}", say=unit.say(nearest, 1))]


def _near(sheet: Sheet, x: float, y: float, reach_mm: float) -> list[Outline]:
    found = []
    for outline in sheet.outlines():
        box = bounds(outline.path)
        if box and box[0] - reach_mm <= x <= box[2] + reach_mm and box[1] - reach_mm <= y <= box[3] + reach_mm:
            found.append(outline)
    return found
