"""Where material, or the room between material, is thinner than a given width.

By morphological opening (J. Serra, Image Analysis and Mathematical Morphology, 1982): what a disc of that width can't
reach is too thin. A corner is never reached either, so what is lost there only counts when it is longer than a taper is
that a tool follows well.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from unkelt.geometry.alike import place_free
from unkelt.geometry.cache import Topic
from unkelt.geometry.measure import Box
from unkelt.geometry.near import pairs_within

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

    `precision_mm` is how far the area's own boundary may be off: nothing thinner by less is reported. What was found is
    remembered for the same area elsewhere.
    """
    if area.is_empty:
        return []
    corners, ring = shapely.get_coordinates(shapely.get_rings(shapely.get_parts(area)), return_index=True)
    x, y = corners[0].tolist()
    found = _FOUND.get(
        (place_free(corners), np.bincount(ring).tobytes(), width_mm, precision_mm),
        lambda: tuple(_moved(thin, -x, -y) for thin in _thin_parts(area, width_mm, precision_mm)),
    )
    return [_moved(thin, x, y) for thin in found]


_FOUND: Topic[tuple[Thin, ...]] = Topic("thin parts of a shape", 20_000)


def _moved(thin: Thin, x: float, y: float) -> Thin:
    x0, y0, x1, y1 = thin.box
    return Thin((x0 + x, y0 + y, x1 + x, y1 + y), thin.width_mm)


def _thin_parts(area: shapely.Geometry, width_mm: float, precision_mm: float) -> list[Thin]:
    radius = (width_mm - precision_mm) / 2
    if radius <= 0 or area.is_empty or _surely_wide(area, radius):
        return []
    eroded = area.buffer(-radius, quad_segs=ARC)
    opened = eroded.buffer(radius, quad_segs=ARC)
    # The disc is a polygon, inside its circle by radius (1 - cos(π / 4 ARC)): what it misses by that is no finding.
    slack = radius * 0.02 + precision_mm
    lost = shapely.get_parts(area.difference(opened.buffer(slack)))
    return [_thin(area, part, width_mm) for part in lost if _counts(part, opened, width_mm, slack)]


REACH = 1.1
"""Points on both sides of a thin part lie no farther from each other than so many times its width, however they fall.
"""

FACING = -0.6
"""Cosine between the normals of two sides that may be those of a thin part: a corner of more than 53° is none."""


BEND = 2.4
"""Two sides that meet round less than so many widths of boundary close a corner: a lobe beyond a neck has more."""


COARSE_STEP = 2.0
"""The first look takes points this many widths apart; only areas that it can't clear are looked at closely."""


def suspects(areas: Sequence[shapely.Geometry], width_mm: float) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Which of many areas may be thinner somewhere than `width_mm`, and which may leave less than that between sides,
    of their own or each other's: a quick look that misses none.

    Points along the boundaries whose inner normals oppose each other and that lie so near, across the material or
    across the room, but not round a mere corner.
    """
    listed = np.asarray(areas, object)
    # A point of each side lies within a step of the thin place; coarse normals only tell that the sides don't run one
    # way.
    reach, bend = REACH * width_mm + COARSE_STEP * width_mm, BEND * width_mm
    thin, slit = _facing(listed, COARSE_STEP * width_mm, reach, bend, 0.5, 0.0)
    close = np.union1d(thin, slit)
    if not len(close):
        return close, close
    thin, slit = _facing(listed[close], width_mm / 2.5, REACH * width_mm, bend, FACING, 0.3)
    return close[thin], close[slit]


def _facing(
    areas: NDArray[np.object_], step_mm: float, reach_mm: float, bend_mm: float, facing: float, straight: float
) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    points, normals, owner, ring, along = _boundary(areas, step_mm)
    if not len(points):
        return np.zeros(0, np.intp), np.zeros(0, np.intp)
    pairs = pairs_within(points, reach_mm)
    one, other = pairs[:, 0], pairs[:, 1]
    opposed = (normals[one] * normals[other]).sum(axis=1) < facing
    one, other = one[opposed], other[opposed]
    total = np.zeros(int(ring.max()) + 1)
    np.maximum.at(total, ring, along)
    round_it = np.abs(along[one] - along[other])
    round_it = np.minimum(round_it, total[ring[one]] - round_it)
    apart = (ring[one] != ring[other]) | (round_it > bend_mm)
    one, other = one[apart], other[apart]
    across = points[other] - points[one]
    far = np.maximum(np.linalg.norm(across, axis=1), 1e-9)
    inward = (across * normals[one]).sum(axis=1) / far
    outward_too = (across * normals[other]).sum(axis=1) / far
    if straight:
        thin = (inward > straight) & (outward_too < -straight) & (owner[one] == owner[other])
        slit = (inward < -straight) & (outward_too > straight)
    else:
        thin, slit = owner[one] == owner[other], np.ones(len(one), bool)
    return np.unique(owner[one[thin]]), np.unique(np.concatenate([owner[one[slit]], owner[other[slit]]]))


Boundary = tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.intp], NDArray[np.intp], NDArray[np.float64]]


def _boundary(areas: NDArray[np.object_], step_mm: float) -> Boundary:
    """Points along the boundaries no farther apart than a step, with inner normals, the area and the ring each belongs
    to, and how far along that ring.
    """
    parts, owner = shapely.get_parts(areas, return_index=True)
    # Rings with the material on their left, as coordinates that count upward have it.
    rings, ring_part = shapely.get_rings(shapely.orient_polygons(parts), return_index=True)
    vertices, ring = shapely.get_coordinates(rings, return_index=True)
    same = ring[1:] == ring[:-1]
    start, edges, ring = vertices[:-1][same], np.diff(vertices, axis=0)[same], ring[:-1][same]
    length = np.linalg.norm(edges, axis=1)
    counts = np.maximum(1, np.ceil(length / step_mm)).astype(np.intp)
    edge = np.repeat(np.arange(len(counts)), counts)
    share = (np.arange(len(edge)) - np.repeat(np.cumsum(counts) - counts, counts) + 0.5) / counts[edge]
    way = edges / np.maximum(length, 1e-12)[:, None]
    inner = np.stack([-way[:, 1], way[:, 0]], axis=1)
    before = np.cumsum(length) - length
    along = before[edge] + share * length[edge]
    along -= before[np.searchsorted(ring, ring)][edge]
    # Of many short edges, one point each step is enough.
    number = np.floor(along / step_mm)
    kept = np.concatenate([[True], (np.diff(number) != 0) | (np.diff(ring[edge]) != 0)]) if len(edge) else edge > 0
    edge, share, along = edge[kept], share[kept], along[kept]
    return start[edge] + share[:, None] * edges[edge], inner[edge], owner[ring_part[ring]][edge], ring[edge], along


def _surely_wide(area: shapely.Geometry, radius: float) -> bool:
    """Whether a coarse look, with a simpler shape and a smaller disc, leaves nothing behind but corners: most
    shapes.
    """
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
