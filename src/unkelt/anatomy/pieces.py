"""Pieces of material, and which of them nothing holds: they lie in an opening of another piece and touch nothing."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from unkelt.anatomy.crossings import is_cut_line
from unkelt.geometry.region import clusters, parts, regions
from unkelt.job.ticket import Ticket
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet


@dataclass(frozen=True, slots=True)
class Loose:
    """The outline in whose openings pieces of others lie loose, those outlines, and the pieces as areas (mm)."""

    frame: Outline
    outlines: tuple[Outline, ...]
    pieces: tuple[shapely.Polygon, ...]


@dataclass(frozen=True, slots=True)
class Pieces:
    """How many pieces of material there are, and which lie loose in another's opening."""

    count: int
    loose: tuple[Loose, ...]


def pieces_of(sheet: Sheet, ticket: Ticket) -> Pieces:
    """The pieces of all that is cut, material by material: connected areas of what is filled.

    A line without a fill bounds material only where its outline has openings of its own, as a frame of two lines has.
    """
    count, loose = 0, list[Loose]()
    for outlines in ticket.by_material(sheet.outlines()).values():
        cut = [o for o in outlines if ticket.operation(o.look) in (Operation.CUT, None) and _bounds_material(o, ticket)]
        shapes = regions(
            [(o.path.select(o.path.closed), o.look.even_odd or o.look.fill is None) for o in cut],
            ticket.tolerance.chord_mm / 2,
        )
        solid, owner, holes, hole_of = parts(shapes, ticket.tolerance.sliver_mm2)
        groups = clusters(solid)
        count += len(groups)
        group_of = {place: number for number, group in enumerate(groups) for place in group}
        frames: dict[int, list[int]] = {}
        hole, piece = shapely.STRtree(solid).query(holes, predicate="contains") if len(solid) else ((), ())
        for at, inside in zip(map(int, hole), map(int, piece), strict=True):
            around = int(hole_of[at])
            held = {group_of[k] for k in range(len(solid)) if owner[k] == around}
            if group_of[inside] not in held and owner[inside] != around:
                frames.setdefault(around, []).append(inside)
        for around, inner in frames.items():
            named = tuple(cut[k] for k in sorted({int(owner[place]) for place in inner}))
            loose.append(Loose(cut[around], named, tuple(solid[sorted(set(inner))].tolist())))
    return Pieces(count, tuple(loose))


def _bounds_material(outline: Outline, ticket: Ticket) -> bool:
    closed = int(outline.path.closed.sum())
    if outline.look.fill_paint is not None:
        return closed > 0
    return is_cut_line(outline, ticket) and closed > 1
