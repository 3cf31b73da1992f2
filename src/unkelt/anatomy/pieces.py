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
class Falling:
    """A counter that drops out of a sheet that letters are cut from: the island of sheet in it, the letter around it,
    what of the sheet lies around that letter, and all other sheet and letters (areas in mm).
    """

    outline: Outline
    island: shapely.Geometry
    letter: shapely.Polygon
    around: shapely.Geometry
    others: shapely.Geometry


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece of material: its area (mm), the outlines that it is made of, the largest first, and the one in whose
    opening it lies loose, if any.
    """

    area: shapely.Geometry
    outlines: tuple[Outline, ...]
    loose_in: Outline | None = None


@dataclass(frozen=True, slots=True)
class Pieces:
    """How many pieces of material there are, which lie loose in another's opening, and each of them."""

    count: int
    loose: tuple[Loose, ...]
    all: tuple[Piece, ...] = ()


def pieces_of(sheet: Sheet, ticket: Ticket) -> Pieces:
    """The pieces of all that is cut, material by material: connected areas of what is filled.

    A line without a fill bounds material only where its outline has openings of its own, as a frame of two lines has.
    """
    loose, every = list[Loose](), list[Piece]()
    for outlines in ticket.by_material(sheet.outlines()).values():
        cut = [o for o in outlines if ticket.operation(o.look) in (Operation.CUT, None) and bounds_material(o, ticket)]
        shapes = regions(
            [(o.path.select(o.path.closed), o.look.even_odd or o.look.fill is None) for o in cut],
            ticket.tolerance.chord_mm / 2,
        )
        solid, owner, holes, hole_of = parts(shapes, ticket.tolerance.sliver_mm2)
        groups = clusters(solid)
        group_of = {place: number for number, group in enumerate(groups) for place in group}
        frames: dict[int, list[int]] = {}
        hole, piece = shapely.STRtree(solid).query(holes, predicate="contains") if len(solid) else ((), ())
        for at, inside in zip(map(int, hole), map(int, piece), strict=True):
            around = int(hole_of[at])
            held = {group_of[k] for k in range(len(solid)) if owner[k] == around}
            if group_of[inside] not in held and owner[inside] != around:
                frames.setdefault(around, []).append(inside)
        in_frame = {group_of[place]: around for around, inner in frames.items() for place in inner}
        for number, group in enumerate(groups):
            largest = sorted(group, key=lambda place: -float(shapely.area(solid[place])))
            names = tuple(cut[k] for k in dict.fromkeys(int(owner[place]) for place in largest))
            frame = cut[in_frame[number]] if number in in_frame else None
            every.append(Piece(shapely.union_all(solid[group]), names, frame))
        for around, inner in frames.items():
            named = tuple(cut[k] for k in sorted({int(owner[place]) for place in inner}))
            loose.append(Loose(cut[around], named, tuple(solid[sorted(set(inner))].tolist())))
    return Pieces(len(every), tuple(loose), tuple(every))


def coming_loose(sheet: Sheet, ticket: Ticket) -> list[shapely.Geometry]:
    """What nothing holds: pieces loose in an opening, pieces beyond as many as the ticket says (the smallest), and
    counters where the sheet is to stay whole. A backing holds all of it.
    """
    if ticket.machine.backed:
        return []
    found = pieces_of(sheet, ticket)
    loose = [piece.area for piece in found.all if piece.loose_in is not None]
    if ticket.pieces is not None and found.count > ticket.pieces:
        by_size = sorted(found.all, key=lambda piece: -float(piece.area.area))
        loose += [piece.area for piece in by_size[ticket.pieces :] if piece.loose_in is None]
    return loose + ([each.island for each in falling_counters(sheet, ticket)] if ticket.sheet_stays else [])


def bounds_material(outline: Outline, ticket: Ticket) -> bool:
    """Whether what an outline encloses is material: it is filled, or a cut line with openings of its own."""
    closed = int(outline.path.closed.sum())
    if outline.look.fill_paint is not None:
        return closed > 0
    return is_cut_line(outline, ticket) and closed > 1


def falling_counters(sheet: Sheet, ticket: Ticket) -> list[Falling]:
    """Where the sheet itself is the work and what is filled is cut out of it: the islands of sheet that nothing holds,
    material by material.
    """
    found: list[Falling] = []
    for outlines in ticket.by_material(sheet.outlines()).values():
        cut = [outline for outline in outlines if _is_cut(outline, ticket) and bounds_material(outline, ticket)]
        if not cut:
            continue
        shapes = regions([(o.path.select(o.path.closed), _even_odd(o)) for o in cut], ticket.tolerance.chord_mm / 4)
        whole = shapely.union_all(shapes)
        if whole.is_empty:
            continue
        x0, y0, x1, y1 = whole.bounds
        reach = max(x1 - x0, y1 - y0, 1.0)
        left = shapely.get_parts(shapely.box(x0 - reach, y0 - reach, x1 + reach, y1 + reach).difference(whole))
        left = left[shapely.area(left) > ticket.tolerance.sliver_mm2]
        outside = max(range(len(left)), key=lambda k: left[k].area)
        letters = shapely.get_parts(whole)
        for at, island in enumerate(left):
            if at == outside:
                continue
            letter = next((each for each in letters if _around(island, each)), None)
            if letter is None:
                continue
            outer = shapely.get_exterior_ring(letter)
            near = [k for k in range(len(left)) if k != at and left[k].distance(outer) < NEAR_MM]
            held = next((k for k in near if not _around(left[k], letter)), outside)
            rest = [
                *(left[k] for k in range(len(left)) if k not in (at, held)),
                *(e for e in letters if e is not letter),
            ]
            owner = max(range(len(cut)), key=lambda k: shapes[k].boundary.intersection(island.buffer(NEAR_MM)).length)
            found.append(Falling(cut[owner], island, letter, left[held], shapely.union_all(rest)))
    return found


NEAR_MM = 1e-6


def _around(island: shapely.Geometry, letter: shapely.Polygon) -> bool:
    """Whether an island lies in one of a letter's holes, and fills it up to that edge."""
    inside = shapely.Polygon(letter.exterior).covers(island)
    return bool(inside and island.exterior.distance(letter) < NEAR_MM)


def material_regions(sheet: Sheet, ticket: Ticket, like: Outline) -> shapely.Geometry:
    """All that is cut of the materials of an outline, as one area."""
    own = set(ticket.materials_of(like.look))
    cut = [o for o in sheet.outlines() if own & set(ticket.materials_of(o.look)) and _is_cut(o, ticket)]
    cut = [outline for outline in cut if bounds_material(outline, ticket)]
    shapes = regions([(o.path.select(o.path.closed), _even_odd(o)) for o in cut], ticket.tolerance.chord_mm / 4)
    return shapely.union_all(shapes)


def _is_cut(outline: Outline, ticket: Ticket) -> bool:
    return ticket.operation(outline.look) in (Operation.CUT, None)


def _even_odd(outline: Outline) -> bool:
    return outline.look.even_odd or outline.look.fill is None
