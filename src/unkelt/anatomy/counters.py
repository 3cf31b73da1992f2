"""Counters that have become solid shapes of their own, as happens when a word is taken apart to its rings."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.anatomy.repeats import without_copies
from unkelt.anatomy.words import FEWEST_LETTERS, words
from unkelt.geometry.measure import signed_areas, subpath_bounds
from unkelt.geometry.path import Path, concat
from unkelt.geometry.region import lying_inside, regions
from unkelt.job.ticket import Ticket
from unkelt.sheet.model import Outline, Sheet

WHITE = "#ffffff"

Recognise = Callable[[Path], bool]
"""Whether some rings, together, are letters of a face at hand."""


@dataclass(frozen=True, slots=True)
class Apart:
    """An outline, the shapes that lie loose on it and may be its counters, and everything that lies inside those.

    `sure` where something says that they are counters; else they may be shapes of their own.
    """

    body: Outline
    counters: tuple[Outline, ...]
    islands: tuple[Outline, ...]
    sure: bool


def counters_apart(
    sheet: Sheet, ticket: Ticket, recognise: Recognise, outlines: Sequence[Outline] | None = None
) -> list[Apart]:
    """Outlines with shapes that lie wholly within their fill and may be holes in it; of all the sheet's, or of some.

    A shape is a counter for certain where it lies on a letter and is painted white or as the paper, or has the letter's
    own paint and runs the other way round; and where both together are recognised as a letter. A shape of the same
    paint on something else, and one that runs the same way, may be either. One in another colour is a thing of its own,
    and so is what lies on a background. Shapes inside a counter are solid again, to any depth. A copy of the same
    shape, or one that touches the edge, is none.
    """
    drawn = [o for o in (sheet.outlines() if outlines is None else outlines) if o.look.fill_paint and len(o.path)]
    filled = without_copies(drawn, ticket.tolerance.same_shape_mm)
    shapes = regions([(o.path, o.look.even_odd) for o in filled], ticket.tolerance.chord_mm / 2)
    paper = {WHITE, *_background(filled, shapes)}
    around: dict[int, list[int]] = {}
    for inner, outer in lying_inside(shapes):
        if shapes[inner].area > ticket.tolerance.sliver_mm2 and shapely.contains_properly(shapes[outer], shapes[inner]):
            around.setdefault(inner, []).append(outer)
    holder: dict[int, int] = {}
    for inner in sorted(around, key=lambda index: len(around[index])):
        outer = min(around[inner], key=lambda index: float(shapes[index].area))
        may_be = outer not in holder and _may_be_counter(filled, inner, outer, paper, ticket)
        if may_be and not _parted(filled, shapes, inner, outer, ticket):
            holder[inner] = outer
    return list(_gathered(filled, around, holder, _Letters(sheet, recognise)))


class _Letters:
    """Whether outlines of a sheet are letters: of one of its words, or recognised as such."""

    def __init__(self, sheet: Sheet, recognise: Recognise) -> None:
        self.in_words = {name for word in words(sheet) for name in word.ids}
        self.recognise = recognise

    def has_counters(self, body: Outline, inner: Sequence[Outline]) -> bool:
        """Whether shapes that lie on an outline are its counters for certain."""
        return all(self._says_so(body, each) for each in inner) or self.recognise(
            concat([body.path, *(each.path for each in inner)])
        )

    def _says_so(self, body: Outline, inner: Outline) -> bool:
        """Whether a shape is painted as the paper on a letter, or has its paint and runs the other way round."""
        is_letter = body.id in self.in_words or body.origin is not None or _may_be_a_word(body)
        return is_letter and (inner.look.fill != body.look.fill or _sense(inner) != _sense(body))


def _gathered(
    outlines: Sequence[Outline], around: Mapping[int, Sequence[int]], holder: Mapping[int, int], letters: _Letters
) -> list[Apart]:
    """By body, its counters and what lies in them."""
    bodies: dict[int, list[int]] = {}
    for inner, outer in holder.items():
        bodies.setdefault(outer, []).append(inner)
    islands: dict[int, list[int]] = {}
    for inner, outers in around.items():
        body = next((holder[outer] for outer in outers if outer in holder), None)
        if body is not None and inner not in holder:
            islands.setdefault(body, []).append(inner)
    found = []
    for outer, inside in sorted(bodies.items()):
        counters = tuple(outlines[index] for index in inside)
        held = tuple(outlines[index] for index in islands.get(outer, []))
        found.append(Apart(outlines[outer], counters, held, letters.has_counters(outlines[outer], counters)))
    return found


def _may_be_counter(outlines: Sequence[Outline], inner: int, outer: int, paper: set[str], ticket: Ticket) -> bool:
    a, b = outlines[inner].look, outlines[outer].look
    if b.fill in paper:
        return False  # a background, or a thing painted as the paper
    if a.fill in paper:
        return inner > outer
    runs_otherwise = _sense(outlines[inner]) != _sense(outlines[outer])
    return ticket.family(a) == ticket.family(b) and (inner > outer or runs_otherwise)


def _parted(
    outlines: Sequence[Outline], shapes: Sequence[shapely.Geometry], inner: int, outer: int, ticket: Ticket
) -> bool:
    """Whether something of another material lies between two shapes in the paint order: the upper one is seen on
    that.
    """
    own = set(ticket.materials_of(outlines[outer].look)) | set(ticket.materials_of(outlines[inner].look))
    low, high = sorted((inner, outer))
    between = [k for k in range(low + 1, high) if set(ticket.materials_of(outlines[k].look)) - own]
    return bool(between) and bool(shapely.intersects(shapes[inner], [shapes[k] for k in between]).any())


def _background(outlines: Sequence[Outline], shapes: Sequence[shapely.Geometry]) -> list[str]:
    """The colour of a sheet that lies beneath everything else, where there is one: it stands for the paper."""
    if len(outlines) < 3 or outlines[0].look.fill is None or shapes[0].is_empty:
        return []
    first = shapes[0]
    box = shapely.box(*first.bounds)
    is_sheet = first.area > 0.98 * box.area and shapely.covers(box, shapely.box(*shapely.total_bounds(shapes)))
    return [outlines[0].look.fill] if is_sheet else []


def _may_be_a_word(outline: Outline) -> bool:
    """Whether an outline is made of several shapes in a row, as a word is that was bound."""
    boxes = subpath_bounds(outline.path)
    x0, y0, x1, y1 = boxes[:, 0].min(), boxes[:, 1].min(), boxes[:, 2].max(), boxes[:, 3].max()
    tall = boxes[:, 3] - boxes[:, 1] > 0.4 * (y1 - y0)
    return bool(tall.sum() >= FEWEST_LETTERS and x1 - x0 > y1 - y0)


def _sense(outline: Outline) -> bool:
    """Which way round its largest ring runs."""
    areas = signed_areas(outline.path)
    return bool(areas[np.argmax(np.abs(areas))] > 0)
