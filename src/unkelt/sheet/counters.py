"""Counters that have become solid shapes of their own, as happens when a word is taken apart to its rings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.measure import signed_areas
from unkelt.geometry.region import lying_inside, region
from unkelt.sheet.model import Outline
from unkelt.sheet.repeats import without_copies
from unkelt.sheet.ticket import Ticket

WHITE = "#ffffff"


@dataclass(frozen=True, slots=True)
class Apart:
    """An outline, the counters that lie loose on it, and everything that lies inside those."""

    body: Outline
    counters: tuple[Outline, ...]
    islands: tuple[Outline, ...] = ()


def counters_apart(outlines: Sequence[Outline], ticket: Ticket) -> list[Apart]:
    """Outlines that lie wholly within another's fill where that one should have a hole.

    A loose counter runs the other way round than what it lies on, as the rings of a letter do, or lies on top of it;
    both have one operation, or the counter is painted white to look like a hole. Shapes inside a counter are solid
    again, to any depth. A copy of the same shape, or one that touches the edge, is none.
    """
    filled = [o for o in outlines if o.look.fill is not None and o.look.visible and o.look.opacity > 0 and len(o.path)]
    filled = without_copies(filled, ticket.tolerance.same_shape_mm)
    shapes = [region(o.path, o.look.even_odd, ticket.tolerance.chord_mm / 2) for o in filled]
    around: dict[int, list[int]] = {}
    for inner, outer in lying_inside(shapes):
        if shapes[inner].area > ticket.tolerance.sliver_mm2 and shapely.contains_properly(shapes[outer], shapes[inner]):
            around.setdefault(inner, []).append(outer)
    bodies: dict[int, list[int]] = {}
    holder: dict[int, int] = {}
    for inner in sorted(around, key=lambda index: len(around[index])):
        outer = min(around[inner], key=lambda index: float(shapes[index].area))
        if outer not in holder and _was_cut_from(filled, inner, outer, ticket):
            holder[inner] = outer
            bodies.setdefault(outer, []).append(inner)
    islands: dict[int, list[int]] = {}
    for inner, outers in around.items():
        body = next((holder[outer] for outer in outers if outer in holder), None)
        if body is not None and inner not in holder:
            islands.setdefault(body, []).append(inner)
    return [
        Apart(
            filled[outer],
            tuple(filled[index] for index in inner),
            tuple(filled[index] for index in islands.get(outer, [])),
        )
        for outer, inner in sorted(bodies.items())
    ]


def _was_cut_from(outlines: Sequence[Outline], inner: int, outer: int, ticket: Ticket) -> bool:
    a, b = outlines[inner], outlines[outer]
    if a.look.fill == WHITE and b.look.fill != WHITE:
        return inner > outer
    if ticket.operation(a.look) is not ticket.operation(b.look):
        return False
    return inner > outer or _sense(a) != _sense(b)


def _sense(outline: Outline) -> bool:
    """Which way round its largest ring runs."""
    areas = signed_areas(outline.path)
    return bool(areas[np.argmax(np.abs(areas))] > 0)
