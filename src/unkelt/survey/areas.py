"""What several checks ask of an outline: the area it fills, at the precision that findings are measured with."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from unkelt.geometry.measure import Box
from unkelt.geometry.region import regions
from unkelt.job.ticket import Ticket
from unkelt.sheet.model import Outline


def filled_area(outline: Outline, ticket: Ticket) -> shapely.Geometry:
    """By the outline's own fill rule, flattened to half the ticket's chord tolerance."""
    return filled_areas([outline], ticket)[0]


def filled_areas(outlines: Sequence[Outline], ticket: Ticket) -> list[shapely.Geometry]:
    """`filled_area` of many, found in one go."""
    return regions([(each.path, each.look.even_odd) for each in outlines], ticket.tolerance.chord_mm / 2)


def box_of(shape: shapely.Geometry) -> Box:
    """The box of an area."""
    x0, y0, x1, y1 = map(float, shape.bounds)
    return x0, y0, x1, y1
