"""Changes made of items: what goes with items that a step takes away, and what comes with those that it makes."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from unkelt.account.changes import Change, Reason
from unkelt.account.painting import painted
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import lengths
from unkelt.geometry.path import Path, concat
from unkelt.job.ticket import Ticket
from unkelt.lettering.faces import Shelf
from unkelt.sheet.model import Item

CHORD_SHARE = 0.1
"""Chord error of the areas, as a share of the chord tolerance."""

THIN_MM = 1e-3
"""How far to either side the area of a line reaches; whoever compares adds the tolerance."""


def going(reason: Reason, items: Sequence[Item], ticket: Ticket, shelf: Shelf) -> tuple[Change, ...]:
    """What is painted and drawn of some items may go."""
    return _of_items(reason, items, ticket, shelf, loses=True)


def coming(reason: Reason, items: Sequence[Item], ticket: Ticket, shelf: Shelf) -> tuple[Change, ...]:
    """What is painted and drawn of some items may come."""
    return _of_items(reason, items, ticket, shelf, loses=False)


def redrawn(
    reason: Reason, before: Sequence[Item], after: Sequence[Item], ticket: Ticket, shelf: Shelf
) -> tuple[Change, ...]:
    """Some items take the place of others: what was seen of those may go, and what is seen of these may come."""
    return going(reason, before, ticket, shelf) + coming(reason, after, ticket, shelf)


def _of_items(
    reason: Reason, items: Sequence[Item], ticket: Ticket, shelf: Shelf, *, loses: bool
) -> tuple[Change, ...]:
    seen = painted(items, ticket, shelf, ticket.tolerance.chord_mm * CHORD_SHARE)
    areas: dict[str, list[shapely.Geometry]] = {}
    drawn: dict[str, list[Path]] = {}
    for each in seen:
        for layer in each.layers:
            areas.setdefault(layer.material, []).append(layer.area)
        for material, path in (*each.lines, *each.left_open):
            drawn.setdefault(material, []).append(path)
    changes = []
    for material, parts in areas.items():
        where = shapely.union_all(parts)
        changes.append(Change(reason, where, (material,), float(where.area), "mm²", loses, not loses))
    for material, paths in drawn.items():
        changes += [of_lines(reason, paths, (material,), ticket, loses=loses)]
    return tuple(changes)


def of_lines(
    reason: Reason, paths: Sequence[Path], materials: tuple[str, ...], ticket: Ticket, *, loses: bool = True
) -> Change:
    """Lines that may go, or may come, with their length."""
    chord = ticket.tolerance.chord_mm * CHORD_SHARE
    drawn = shapely.get_parts(lines(concat(paths), chord))
    unlike = list(dict(zip(shapely.to_wkb(drawn).tolist(), drawn, strict=True)).values())
    where = shapely.union_all(shapely.buffer(unlike, THIN_MM, quad_segs=1))
    length = float(lengths(concat(paths)).sum())
    return Change(reason, where, materials, length, "mm", loses, not loses)


def within(
    reason: Reason,
    where: shapely.Geometry,
    materials: Sequence[str] = (),
    *,
    amount: float | None = None,
    unit: str = "mm²",
) -> Change:
    """Anything of some materials may go or come within an area."""
    return Change(reason, where, tuple(materials), float(where.area) if amount is None else amount, unit, True, True)
