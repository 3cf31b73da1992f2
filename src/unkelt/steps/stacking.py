"""Where in the paint order an outline goes that takes the place of several."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np
import shapely

from unkelt.account.painting import line_areas, painted, reach
from unkelt.geometry.measure import Box, join_boxes
from unkelt.job.workshop import Workshop
from unkelt.sheet.model import Group, Item, Outline, Sheet


class Stacking:
    """The paint order of a sheet, asked for one group of outlines after another."""

    def __init__(self, sheet: Sheet, workshop: Workshop) -> None:
        self.workshop = workshop
        self.items = [item for item in sheet.walk() if not isinstance(item, Group)]
        self.place = {item.id: number for number, item in enumerate(self.items)}
        self._boxes: dict[str, Box | None] = {}

    def lead(self, members: Sequence[Outline], shapes: Sequence[shapely.Geometry]) -> Outline | None:
        """The member in whose place all of them may lie as one without covering or uncovering anything of another
        material: the lowest if it may be, else the topmost; None where neither will do.

        `shapes` are the areas of the members.
        """
        ordered = sorted(zip(members, shapes, strict=True), key=lambda pair: self.place[pair[0].id])
        between = self._between(ordered[0][0], ordered[-1][0], {member.id for member in members})
        if not between:
            return ordered[0][0]
        sliver = self.workshop.ticket.tolerance.sliver_mm2
        own = set(self.workshop.ticket.materials_of(members[0].look))
        places, areas = np.array([self.place[member.id] for member, _ in ordered]), [area for _, area in ordered]
        tree = shapely.STRtree(areas)
        lowest = topmost = True
        for item in between:
            if isinstance(item, Outline) and set(self.workshop.ticket.materials_of(item.look)) <= own:
                continue
            shape = self._seen(item)
            near = tree.query(shape)
            met = near[shapely.area(shapely.intersection(shape, tree.geometries[near])) > sliver]
            above = places[met] > self.place[item.id]
            lowest, topmost = lowest and not above.any(), topmost and bool(above.all())
            if not (lowest or topmost):
                return None
        return ordered[0][0] if lowest else ordered[-1][0]

    def _seen(self, item: Item) -> shapely.Geometry:
        """The area of all that is seen of an item, lines as wide as a hairline."""
        ticket = self.workshop.ticket
        chord = ticket.tolerance.chord_mm / 10
        [seen] = painted([item], ticket, self.workshop.shelf, chord)
        drawn = line_areas(seen.lines, chord).values()
        thin = [line.buffer(ticket.machine.hairline_mm / 2, quad_segs=1) for line in drawn]
        return shapely.union_all([*(layer.area for layer in seen.layers), *thin])

    def _between(self, first: Outline, last: Outline, members: Collection[str]) -> list[Item]:
        """What is painted after the first and before the last, within the box around all of them."""
        inner = self.items[self.place[first.id] + 1 : self.place[last.id]]
        others = [item for item in inner if item.id not in members]
        if not others:
            return []
        whole = join_boxes([box for name in members if (box := self._reach(self.items[self.place[name]]))])
        return [item for item in others if whole and (box := self._reach(item)) and _meet(whole, box)]

    def _reach(self, item: Item) -> Box | None:
        if item.id not in self._boxes:
            self._boxes[item.id] = reach(item, self.workshop.shelf)
        return self._boxes[item.id]


def _meet(a: Box, b: Box) -> bool:
    return a[0] <= b[2] and b[0] <= a[2] and a[1] <= b[3] and b[1] <= a[3]
