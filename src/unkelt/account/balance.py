"""Two sheets compared, colour by colour: what went and what came that nobody declared.

Items that are the same on both sheets are left out of it, so that a step costs no more than what it changed. The rest
is gathered in clusters that lie apart. In each cluster the visible area of every material is compared (what opaque
paints of other materials cover is taken off), the area that it has in all, and its lines. A difference counts where it
lies further than the tolerance from what both sheets have, and outside of all that was declared.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from unkelt.account.changes import STILL, Change, Moves, after_moves
from unkelt.account.painting import Layer, Painted, line_areas, look_ahead, painted, reach
from unkelt.account.same import same_items
from unkelt.geometry.distance import departure, line_distance
from unkelt.geometry.measure import Box
from unkelt.geometry.region import clusters, parts, together, unlike
from unkelt.job.ticket import Ticket
from unkelt.lettering.faces import Shelf
from unkelt.messages import say
from unkelt.sharing import in_two
from unkelt.sheet.model import Group, Item, Outline, Sheet

CHORD_SHARE = 0.1
"""Chord error of the polylines that are compared, as a share of the chord tolerance."""

LEAST_MM2 = 1e-4
"""What is left of a difference when all that lies near an edge is taken off counts from this area: 0.01 × 0.01 mm."""

CORNER = 10
"""New edges inside an area count from so many times the distance that an edge may move."""

SLIT_MM = 1e-5
"""Edges nearer to each other than twice this touch: files write no finer numbers, and where butt ends meet at a curve,
one of two drawings of them has a slit of some nanometres.
"""

FEW = 32
"""So many areas are united without looking for copies among them."""

LEAST_MM = 0.02
"""The same for lines: shorter ends are rounding."""

WORTH_A_COPY = 300
"""From so many changed segments on, two processes compare."""


@dataclass(frozen=True, slots=True)
class Imbalance:
    """So much (`unit` mm² or mm) of a material is gone, or came, in a box on the sheet, and no change declares it."""

    material: str
    lost: bool
    amount: float
    unit: str
    box: Box

    def words(self, *, done: bool = False) -> str:
        """For people: "84.2 mm² of #d22f27 would be lost at 120, 45 mm"; of what is `done`, that it was."""
        x, y = (self.box[0] + self.box[2]) / 2, (self.box[1] + self.box[3]) / 2
        verb = "lost" if self.lost else "added"
        amount = f"{self.amount:.{1 if self.amount >= 1 else 3}f}" if self.amount >= 5e-4 else "less than 0.001"
        return say(
            "{amount} {unit} of {material} {value} {verb} at {x:.0f}, {y:.0f} mm",
            amount=amount,
            unit=self.unit,
            material=self.material,
            value=say("was") if done else say("would be"),
            verb=verb,
            x=x,
            y=y,
        )


@dataclass(frozen=True, slots=True)
class Account:
    """What both sheets are looked at with: the ticket and the faces, and how far a line may have moved (mm)."""

    ticket: Ticket
    shelf: Shelf
    moved_mm: float

    @property
    def chord_mm(self) -> float:
        """How far lines may be from the curves they are drawn for."""
        return self.ticket.tolerance.chord_mm * CHORD_SHARE

    @property
    def within_mm(self) -> float:
        """How far from an edge a difference may lie: what a line may move, and what two flattenings hide."""
        return self.moved_mm + 2 * self.chord_mm


def unexplained(
    before: Sheet, after: Sheet, account: Account, changes: Sequence[Change] = (), moves: Moves = STILL
) -> tuple[Imbalance, ...]:
    """What went or came between two sheets that no change declares, the largest first; none where the account balances.

    `moves` say how things were moved in between; changes lie where they lie on the second sheet. Raises GeometryRefused
    where a stroke's dashes are without number.
    """
    old, new = _listed(after_moves(before, moves)), _listed(after)
    same = same_items(old, new)
    known = set(same.values())
    gone = [item for place, item in enumerate(old) if place not in same]
    come = [item for place, item in enumerate(new) if place not in known]
    if not gone and not come:
        return ()
    look_ahead([*gone, *come], account.shelf, account.chord_mm)
    groups = list(_clusters(_Placed.of(old, same, new, account), gone, come))
    found = in_two(
        lambda some: [list(cluster.compared(account, changes)) for cluster in some],
        groups,
        [cluster.segments for cluster in groups],
        WORTH_A_COPY,
        parts=16,
    )
    return tuple(sorted(itertools.chain.from_iterable(found), key=lambda each: -each.amount))


def _listed(sheet: Sheet) -> list[Item]:
    """All items but groups, in paint order."""
    return [item for item in sheet.walk() if not isinstance(item, Group)]


# what lies together

Order = tuple[int | None, int | None]
"""The place of an item in the paint order of either sheet, None where it isn't there."""


@dataclass(frozen=True)
class _Placed:
    """The items of both sheets, with the place of each in the paint order of both, None where it isn't there; and its
    box.
    """

    items: list[Item]
    orders: list[Order]
    boxes: list[Box | None]

    @classmethod
    def of(cls, old: Sequence[Item], same: dict[int, int], new: Sequence[Item], account: Account) -> _Placed:
        back = {after: before for before, after in same.items()}
        items = [item for place, item in enumerate(old) if place not in same]
        orders: list[Order] = [(place, None) for place in range(len(old)) if place not in same]
        items += new
        orders += [(back.get(place), place) for place in range(len(new))]
        return cls(items, orders, [reach(item, account.shelf) for item in items])


@dataclass(frozen=True)
class _Cluster:
    """Items that went, came or stayed near each other, with their places in the paint order before and after."""

    changed: list[tuple[Item, Order]]
    around: list[tuple[Item, Order]]

    @property
    def segments(self) -> int:
        """How many segments the changed outlines have."""
        return sum(len(item.path.points) for item, _ in self.changed if isinstance(item, Outline))

    def compared(self, account: Account, changes: Sequence[Change]) -> Iterator[Imbalance]:
        """What isn't the same. First the changed items are compared with each other and with what lies between them,
        which mostly settles it: what lies beneath or above all of them, before and after, is seen of or covers both
        alike.
        """

        found = list(_differences(self._first(account), account, changes, every=True))
        if found:  # and nowhere else
            all_of_them = self._painted([*self.changed, *self.around], account)
            there = _around([each.box for each in found], CORNER * account.within_mm)
            yield from _differences([(_cut(seen, there), order) for seen, order in all_of_them], account, changes)

    def _painted(self, items: Sequence[tuple[Item, Order]], account: Account) -> list[tuple[Painted, Order]]:
        seen = painted([item for item, _ in items], account.ticket, account.shelf, account.chord_mm)
        return [(each, order) for each, (_, order) in zip(seen, items, strict=True)]

    def _first(self, account: Account) -> list[tuple[Painted, Order]]:
        """What changed, and what stayed and lies neither beneath nor above all of that; without the latter where all is
        of one material.
        """
        seen = self._painted([*self.changed, *self._between()], account)
        materials = {material for each, _ in seen for material in _materials(each)}
        return seen if len(materials) > 1 else seen[: len(self.changed)]

    def _between(self) -> list[tuple[Item, Order]]:
        """What stayed and lies neither beneath nor above everything that changed."""
        places = [[at for _, order in self.changed if (at := order[side]) is not None] for side in (0, 1)]
        lowest, highest = ([pick(each) if each else None for each in places] for pick in (min, max))

        def beneath(order: Order) -> bool:
            return all(edge is None or (at is not None and at < edge) for at, edge in zip(order, lowest, strict=True))

        def above(order: Order) -> bool:
            return all(edge is None or (at is not None and at > edge) for at, edge in zip(order, highest, strict=True))

        return [each for each in self.around if not beneath(each[1]) and not above(each[1])]


def _around(boxes: Sequence[Box], room_mm: float) -> shapely.Geometry:
    """The area of boxes, and of some room around each."""
    low, high = np.split(np.array(boxes), 2, axis=1)
    return shapely.union_all(shapely.box(*(low - room_mm).T, *(high + room_mm).T))


def _cut(seen: Painted, there: shapely.Geometry) -> Painted:
    """What is painted, its layers only as far as they lie in an area."""

    def cut(layer: Layer) -> Layer:
        parts = shapely.get_parts(shapely.intersection(layer.area, there))
        return replace(layer, area=together([part for part in parts if part.geom_type == "Polygon"]))

    return replace(seen, layers=tuple(map(cut, seen.layers)))


def _clusters(placed: _Placed, gone: Sequence[Item], come: Sequence[Item]) -> Iterator[_Cluster]:
    changed_ids = {id(item) for item in (*gone, *come)}
    shown = [index for index, box in enumerate(placed.boxes) if box is not None]
    boxes = shapely.box(*np.array([placed.boxes[index] for index in shown]).reshape(-1, 4).T)
    is_changed = np.array([id(placed.items[index]) in changed_ids for index in shown], bool)
    changed, stayed = np.flatnonzero(is_changed), np.flatnonzero(~is_changed)
    tree = shapely.STRtree(boxes[stayed]) if len(stayed) else None
    # Copies have one box, and there may be thousands of them.
    alike, which = np.unique(shapely.bounds(boxes[changed]), axis=0, return_inverse=True)
    groups = clusters(shapely.box(*alike.T)) if len(changed) else []
    order = np.argsort(which.ravel(), kind="stable")
    edges = np.searchsorted(which.ravel()[order], np.arange(len(alike) + 1))
    for group in groups:
        members = changed[np.sort(np.concatenate([order[edges[k] : edges[k + 1]] for k in group]))]
        near = np.unique(tree.query(boxes[members], predicate="intersects")[1]) if tree is not None else stayed
        yield _Cluster(
            [(placed.items[shown[k]], placed.orders[shown[k]]) for k in members.tolist()],
            [(placed.items[shown[k]], placed.orders[shown[k]]) for k in stayed[near].tolist()],
        )


def _materials(seen: Painted) -> set[str]:
    return {layer.material for layer in seen.layers} | {material for material, _ in (*seen.lines, *seen.edges)}


# what differs


def _differences(
    items: Sequence[tuple[Painted, Order]], account: Account, changes: Sequence[Change], *, every: bool = False
) -> Iterator[Imbalance]:
    """Of a material that is seen to be gone, or to have come, what else of it went or came is told only for `every`."""
    sides = [_stacked([(seen, order[side]) for seen, order in items]) for side in (0, 1)]
    several = len({layer.material for side in sides for layer in side}) > 1
    told: set[tuple[str, bool]] = set()
    # Edges are compared in all only: what covers them moves.
    for areas in (_visible, _in_all) if several else (_in_all,):
        before, after = (areas(side) for side in sides)
        for material in dict.fromkeys([*before, *after]):
            a, b = (side.get(material, shapely.MultiPolygon()) for side in (before, after))
            pair = _Unlike.of(a, b, account.within_mm)
            parted = _seen_apart if areas is _visible else _areas_apart
            for apart, lost in zip(parted(pair, account.within_mm), (True, False), strict=True):
                found = list(_left_over(apart, material, lost, changes, account.within_mm))
                if found and (every or (material, lost) not in told):  # what is seen to be gone is gone in all, too
                    told.add((material, lost))
                    yield from found
            if areas is _in_all and (every or not told & {(material, True), (material, False)}):
                # What goes and what comes has edges either way.
                both = [replace(change, loses=True, gains=True) for change in changes]
                within = account.within_mm
                yield from _left_over(_cut_into(pair, within), material, False, both, within, CORNER * within)
    there = [[seen for seen, order in items if order[side] is not None] for side in (0, 1)]
    drawn = [line_areas([line for each in side for line in each.lines], account.chord_mm) for side in there]
    yield from _lines_apart(drawn, drawn, account, changes)
    opened = [line_areas([line for each in side for line in each.left_open], account.chord_mm) for side in there]
    if opened[0] or opened[1]:  # an open subpath may become closed, or a closed one open, as long as its line stays
        edges = [line_areas([line for each in side for line in each.edges], account.chord_mm) for side in there]
        yield from _lines_apart(opened, edges, account, changes)


Lines = dict[str, shapely.Geometry]
"""Lines by material."""


def _lines_apart(
    drawn: Sequence[Lines], to_be_found_in: Sequence[Lines], account: Account, changes: Sequence[Change]
) -> Iterator[Imbalance]:
    """Lines of either side that lie on none of the other's."""
    for side, lost in ((0, True), (1, False)):
        for material, lines in drawn[side].items():
            other = to_be_found_in[1 - side].get(material, shapely.MultiLineString())
            apart = _line_beyond(lines, other, account.within_mm)
            yield from _left_over(apart, material, lost, changes, account.within_mm)


def _stacked(items: Sequence[tuple[Painted, int | None]]) -> list[Layer]:
    """The layers of one side, from below upwards."""
    there = [(place, seen) for seen, place in items if place is not None]
    return [layer for _, each in sorted(there, key=lambda pair: pair[0]) for layer in each.layers]


def _in_all(layers: Sequence[Layer]) -> dict[str, shapely.Geometry]:
    """The area of each material, covered or not."""
    grouped: dict[str, list[shapely.Geometry]] = {}
    for layer in layers:
        grouped.setdefault(layer.material, []).append(layer.area)
    return {material: _united(areas) for material, areas in grouped.items()}


def _visible(layers: Sequence[Layer]) -> dict[str, shapely.Geometry]:
    """The area of each material that no opaque layer of another one covers."""
    grouped: dict[str, list[shapely.Geometry]] = {}
    tree = shapely.STRtree([layer.area for layer in layers])
    for place, layer in enumerate(layers):
        above = [
            layers[k].area
            for k in tree.query(layer.area, predicate="intersects").tolist()
            if k > place and layers[k].opaque and layers[k].material != layer.material
        ]
        left = shapely.difference(layer.area, _united(above)) if above else layer.area
        grouped.setdefault(layer.material, []).append(left)
    return {material: _united(areas) for material, areas in grouped.items()}


def _seen_apart(pair: _Unlike, within_mm: float) -> tuple[shapely.Geometry, shapely.Geometry]:
    """What is only seen of the first and what is only seen of the second, but for what lies within a distance of the
    edges: where an edge moved by no more than that, a hair of what lies beneath may come or go.
    """
    if pair.agree:
        return NOTHING
    lost, come = shapely.difference(pair.one, pair.other), shapely.difference(pair.other, pair.one)
    return _wide(lost, within_mm), _wide(come, within_mm)


def _wide(area: shapely.Geometry, within_mm: float) -> shapely.Geometry:
    """The parts of an area that aren't a hair along its own edge."""
    parts = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon" and part.area > LEAST_MM2]
    if not parts:
        return shapely.MultiPolygon()
    cores = shapely.buffer(parts, -within_mm, quad_segs=4)
    there = ~shapely.is_empty(cores)
    whole = shapely.intersection(np.array(parts)[there], shapely.buffer(cores[there], 1.1 * within_mm, quad_segs=4))
    return together([part for part in shapely.get_parts(whole) if part.geom_type == "Polygon"])


def _united(areas: Sequence[shapely.Geometry]) -> shapely.Geometry:
    """The union of areas; of many that are the same to the last bit, one is enough."""
    if len(areas) > FEW:
        areas = list(dict(zip(shapely.to_wkb(areas).tolist(), areas, strict=True)).values())
    return areas[0] if len(areas) == 1 else shapely.union_all(areas)


@dataclass(frozen=True, slots=True)
class _Unlike:
    """What of two areas the other hasn't to the last bit. `agree` says that no edge of either lies further than a
    distance from the other's: then all that differs is how they are drawn.
    """

    one: shapely.Geometry
    other: shapely.Geometry
    agree: bool

    @classmethod
    def of(cls, a: shapely.Geometry, b: shapely.Geometry, within_mm: float) -> _Unlike:
        one, other, _ = unlike(a, b)
        return cls(one, other, (one.is_empty and other.is_empty) or _agree(one, other, within_mm))


NOTHING = shapely.MultiPolygon(), shapely.MultiPolygon()


def _areas_apart(pair: _Unlike, within_mm: float) -> tuple[shapely.Geometry, shapely.Geometry]:
    """What only the first has and what only the second has, further than a distance from the other's edge."""
    if pair.agree:
        return NOTHING
    return _beyond(pair.one, pair.other, within_mm), _beyond(pair.other, pair.one, within_mm)


def _cut_into(pair: _Unlike, within_mm: float) -> shapely.Geometry:
    """The edges that only the second area has, further than a distance from the first's: a cut into what was whole, too
    narrow to be an area, is one all the same. Ends no longer than some such distances are corners that came to lie
    otherwise.
    """
    if pair.agree or pair.one.is_empty or pair.other.is_empty:
        return shapely.MultiLineString()
    edges_before = pair.one.boundary
    beyond = _line_beyond(pair.other.boundary, edges_before, within_mm)
    if not beyond.is_empty:
        wider = shapely.buffer(pair.other, SLIT_MM, join_style="mitre")
        beyond = _line_beyond(shapely.buffer(wider, -SLIT_MM, join_style="mitre").boundary, edges_before, within_mm)
    edges = shapely.get_parts(shapely.line_merge(beyond))
    return shapely.union_all([edge for edge in edges if edge.length > CORNER * within_mm])


def _agree(a: shapely.Geometry, b: shapely.Geometry, within_mm: float) -> bool:
    """Whether two areas have as many pieces and counters, and all of their edges within a distance of each other's.

    What an area fills follows from its edges: outside is paper, and every edge parts paper from ink.
    """
    (pieces, _, holes, _), (others, _, other_holes, _) = parts([a], 0.0), parts([b], 0.0)
    if len(pieces) != len(others) or len(holes) != len(other_holes) or not len(pieces):
        return False
    length = float(shapely.length(a) + shapely.length(b))
    return abs(a.area - b.area) <= within_mm * length and line_distance(a, b, within_mm) <= within_mm


def _beyond(a: shapely.Geometry, b: shapely.Geometry, within_mm: float) -> shapely.Geometry:
    """What of an area lies further than a distance from another one."""
    if b.is_empty:
        return a
    only = shapely.difference(a, b)
    far = [part for part in shapely.get_parts(only) if part.geom_type == "Polygon" and part.area > LEAST_MM2]
    if not far:
        return shapely.MultiPolygon()
    x0, y0, x1, y1 = shapely.total_bounds(far)
    room = 2 * within_mm
    near = shapely.clip_by_rect(b, x0 - room, y0 - room, x1 + room, y1 + room)
    return shapely.difference(together(far), near.buffer(within_mm, quad_segs=4))


def _line_beyond(a: shapely.Geometry, b: shapely.Geometry, within_mm: float) -> shapely.Geometry:
    """What of some lines lies further than a distance from others."""
    if a.is_empty or b.is_empty or departure(a, b, within_mm) <= within_mm:
        return shapely.MultiLineString() if a.is_empty or not b.is_empty else a
    return shapely.difference(a, b.buffer(within_mm, quad_segs=4))


def _left_over(
    shape: shapely.Geometry,
    material: str,
    lost: bool,
    changes: Iterable[Change],
    within_mm: float,
    least_mm: float = LEAST_MM,
) -> Iterator[Imbalance]:
    """What of a difference no change explains, piece by piece near each other as one; lines count from a length on.

    A material that goes lets others be seen beneath it, and one that comes hides them: so a change of one explains the
    opposite of another.
    """
    explained = [
        change.where
        for change in changes
        if (change.speaks_of(material) and (change.loses if lost else change.gains))
        or ((not change.materials or change.materials != (material,)) and (change.gains if lost else change.loses))
    ]
    if shape.is_empty:
        return
    x0, y0, x1, y1 = shape.bounds
    around = shapely.box(x0 - within_mm, y0 - within_mm, x1 + within_mm, y1 + within_mm)
    near = [explained[k] for k in shapely.STRtree(explained).query(around).tolist()]  # most lie elsewhere
    left = shape
    if near:
        left = shapely.difference(shape, shapely.union_all(shapely.buffer(near, within_mm, quad_segs=4)))
    measure: Callable[[shapely.Geometry], float] = shapely.area if shape.area > 0 else shapely.length
    least, unit = (LEAST_MM2, "mm²") if shape.area > 0 else (least_mm, "mm")
    pieces = [part for part in shapely.get_parts(left) if measure(part) > least]
    for group in clusters(pieces, 1.0):
        amount = float(sum(measure(pieces[k]) for k in group))
        x0, y0, x1, y1 = map(float, shapely.total_bounds([pieces[k] for k in group]))
        yield Imbalance(material, lost, amount, unit, (x0, y0, x1, y1))
