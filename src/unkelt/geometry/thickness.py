"""Where material, or the room between material, is thinner than a given width.

By morphological opening (J. Serra, Image Analysis and Mathematical Morphology, 1982): what a disc of that width can't
reach is too thin. A corner is never reached either, so what is lost there only counts when it is longer than a taper is
that a tool follows well.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.measure import Box

TAPER = 3.0
"""What is left over is thin when it reaches this many widths out. A corner of angle a loses ½ (1/sin(a/2) - 1) widths:
sharper than 16° is thin, blunter is a corner."""

CORNER = 0.3
"""A disc of width w misses less than this times w² in the corners at both ends of a stroke: 0.054 in a right angle."""

COARSE = 0.05
"""How coarse, as a share of the disc's radius, the first look is."""

ARC = 16
"""Segments in a quarter circle of the discs."""


@dataclass(frozen=True, slots=True)
class Thin:
    """A place thinner than was asked for: where, and how wide it is there, in mm."""

    box: Box
    width_mm: float


def thin_parts(area: shapely.Geometry, width_mm: float, precision_mm: float) -> list[Thin]:
    """The places where an area is thinner than `width_mm`, each with its least width.

    `precision_mm` is how far the area's own boundary may be off: nothing thinner by less is reported.
    """
    radius = (width_mm - precision_mm) / 2
    if radius <= 0 or area.is_empty or _surely_wide(area, radius):
        return []
    eroded = area.buffer(-radius, quad_segs=ARC)
    opened = eroded.buffer(radius, quad_segs=ARC)
    # The disc is a polygon, inside its circle by radius (1 - cos(π / 4 ARC)): what it misses by that is no finding.
    slack = radius * 0.02 + precision_mm
    lost = shapely.get_parts(area.difference(opened.buffer(slack)))
    return [_thin(area, part, width_mm) for part in lost if _counts(part, opened, width_mm, slack)]


def _surely_wide(area: shapely.Geometry, radius: float) -> bool:
    """Whether a coarse look, with a simpler shape and a smaller disc, leaves nothing behind but corners: most shapes."""
    simple = area.simplify(COARSE * radius)
    opened = simple.buffer(-radius, quad_segs=4).buffer(radius * (1 + 2 * COARSE), quad_segs=4)
    lost = shapely.get_parts(simple.difference(opened))
    boxes = shapely.bounds(lost)
    return bool(len(lost) == 0 or lost[0].is_empty or np.hypot(*(boxes[:, 2:] - boxes[:, :2]).T).max() < radius)


def _counts(part: shapely.Geometry, opened: shapely.Geometry, width_mm: float, slack: float) -> bool:
    if part.geom_type != "Polygon" or part.area <= 1e-9:
        return False
    anchors = [each for each in shapely.get_parts(part.buffer(2 * slack).intersection(opened)) if not each.is_empty]
    if len(anchors) != 1:
        return True  # a bridge between thicker parts, or something thin all over
    reach = shapely.hausdorff_distance(part.exterior, anchors[0])
    return bool(reach >= TAPER * width_mm)


def _thin(area: shapely.Geometry, part: shapely.Geometry, width_mm: float) -> Thin:
    """The least width, found by halving: the widest disc that still reaches all of the part but its corners."""
    x0, y0, x1, y1 = map(float, part.bounds)
    around = area.intersection(part.buffer(3 * width_mm, quad_segs=2))
    low, high = 0.0, width_mm
    for _ in range(8):
        middle = (low + high) / 2
        opened = around.buffer(-middle / 2, quad_segs=ARC).buffer(middle / 2, quad_segs=ARC)
        missed = part.difference(opened.buffer(middle * 0.02)).area
        low, high = (middle, high) if missed <= CORNER * middle * middle else (low, middle)
    return Thin((x0, y0, x1, y1), (low + high) / 2)
