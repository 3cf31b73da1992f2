"""How much is seen of each material on a sheet: the account of ink in figures, before and after."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.account.declare import CHORD_SHARE
from unkelt.account.painting import painted
from unkelt.geometry.measure import lengths
from unkelt.job.ticket import Ticket
from unkelt.lettering.faces import Shelf
from unkelt.sheet.model import Group, Sheet


@dataclass(frozen=True, slots=True)
class Ink:
    """The area that is seen in a material (mm²), and the length of the lines without width in it (mm)."""

    area_mm2: float = 0.0
    line_mm: float = 0.0


def ink_of(sheet: Sheet, ticket: Ticket, shelf: Shelf) -> dict[str, Ink]:
    """The ink of each material, in the order in which they first appear: what opaque paint of another lies on is not
    seen. Raises GeometryRefused for dashes without number.
    """
    items = [item for item in sheet.walk() if not isinstance(item, Group)]
    seen = painted(items, ticket, shelf, ticket.tolerance.chord_mm * CHORD_SHARE)
    layers = [layer for each in seen for layer in each.layers]
    lines: dict[str, float] = {}
    for each in seen:
        for material, path in each.lines:
            lines[material] = lines.get(material, 0.0) + float(lengths(path).sum())
    areas: dict[str, shapely.Geometry] = {}
    above = shapely.GeometryCollection()
    for layer in reversed(layers):
        areas[layer.material] = shapely.union(
            areas.get(layer.material, shapely.GeometryCollection()), shapely.difference(layer.area, above)
        )
        above = shapely.union(above, layer.area) if layer.opaque else above
    order = dict.fromkeys([*(layer.material for layer in layers), *lines])
    return {
        name: Ink(float(np.nan_to_num(shapely.area(areas[name]))) if name in areas else 0.0, lines.get(name, 0.0))
        for name in order
    }
