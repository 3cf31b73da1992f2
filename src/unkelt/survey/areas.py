"""What several checks ask of an outline: the area it fills, at the precision that findings are measured with."""

from __future__ import annotations

import shapely

from unkelt.geometry.measure import Box
from unkelt.geometry.region import region
from unkelt.job.ticket import Ticket
from unkelt.sheet.model import Outline


def filled_area(outline: Outline, ticket: Ticket) -> shapely.Geometry:
    """By the outline's own fill rule, flattened to half the ticket's chord tolerance."""
    return region(outline.path, outline.look.even_odd, ticket.tolerance.chord_mm / 2)


def box_of(shape: shapely.Geometry) -> Box:
    """The box of an area."""
    x0, y0, x1, y1 = map(float, shape.bounds)
    return x0, y0, x1, y1
