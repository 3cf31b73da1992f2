"""What would go wrong as a machine cuts imported bodies: lines cut twice, cuts through other material, pieces that
fall.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
import shapely.ops
from numpy.typing import NDArray

from unkelt.geometry.flatten import polylines
from unkelt.geometry.path import Floats, Path, concat
from unkelt.geometry.region import counters, pieces, region
from unkelt.job.ticket import Ticket
from unkelt.proof.imported import Body
from unkelt.sheet.appearance import Appearance, Operation

MOST_SAMPLES = 1_000_000
"""On a line of kilometres, which no machine cuts, the samples lie further apart."""

SPACING_MM = 0.25
"""How closely the lines are sampled when looking for stretches that are cut twice."""


SHORT_MM = 0.05
"""Cuts into another body's material that go no deeper are rounding."""


@dataclass(frozen=True, slots=True)
class Mishaps:
    """Lines (p, 2) that are cut again, lines through what another body fills, and rings (p, 2) of pieces that fall."""

    twice: tuple[Floats, ...] = ()
    through: tuple[Floats, ...] = ()
    falling: tuple[Floats, ...] = ()


def mishaps(bodies: Sequence[Body], ticket: Ticket) -> Mishaps:
    """What would go wrong. Pieces fall from a sheet that a beam or jet cuts; film stays on its backing."""
    chord = ticket.tolerance.chord_mm / 2
    cut = [
        body
        for body in bodies
        if ticket.operation(Appearance(fill=body.fill, stroke=body.stroke)) in (Operation.CUT, None)
    ]
    twice: list[Floats] = []
    for whole, again in _repeated([body.path for body in cut], ticket.tolerance.same_shape_mm, chord):
        edges = np.flatnonzero(np.diff(np.concatenate([[False], again, [False]]).astype(int)))
        twice += [
            shapely.get_coordinates(shapely.ops.substring(whole, a / len(again), b / len(again), normalized=True))
            for a, b in edges.reshape(-1, 2).tolist()
        ]
    falling = [] if ticket.machine.backed else _falling(cut, chord, ticket.tolerance.sliver_mm2)
    return Mishaps(tuple(twice), tuple(_through(cut, chord)), tuple(falling))


def _through(cut: Sequence[Body], chord_mm: float) -> Iterator[Floats]:
    """Stretches of one body's lines in what another fills."""
    filled = [body for body in cut if body.fill]
    if len(filled) < 2:
        return
    areas = np.array([region(body.path, body.even_odd, chord_mm).buffer(-SHORT_MM) for body in filled], object)
    edges = shapely.boundary([region(body.path, body.even_odd, chord_mm) for body in filled])
    for line, area in zip(*shapely.STRtree(areas).query(edges, predicate="intersects").tolist(), strict=True):
        if line != area:
            within = shapely.line_merge(shapely.intersection(edges[line], areas[area]))
            for part in shapely.get_parts(within):
                if part.geom_type == "LineString":
                    yield shapely.get_coordinates(part)


def _falling(cut: Sequence[Body], chord_mm: float, sliver_mm2: float) -> list[Floats]:
    """Pieces that lie in a counter and are held by nothing: they go where the counter's waste goes."""
    whole = shapely.unary_union([region(body.path, body.even_odd, chord_mm) for body in cut])
    parts = np.array(pieces(whole, sliver_mm2), object)
    holes = counters(whole, sliver_mm2)
    if not holes or len(parts) < 2:
        return []
    inner, _ = shapely.STRtree(holes).query(parts, predicate="within")
    return [shapely.get_coordinates(parts[index].exterior) for index in np.unique(inner)]


def cut_twice_mm(paths: Sequence[Path], within_mm: float, chord_mm: float) -> float:
    """Length of all stretches that run along a line cut before, nearer than `within_mm`; each is counted once.

    Lines are sampled; a stretch must be at least three samples long, so that lines which only cross don't count.
    """
    return sum(
        float(np.count_nonzero(again)) / len(again) * whole.length
        for whole, again in _repeated(paths, within_mm, chord_mm)
    )


def _repeated(
    paths: Sequence[Path], within_mm: float, chord_mm: float
) -> Iterator[tuple[shapely.LineString, NDArray[np.bool_]]]:
    """Each line that runs near one cut before it, and which of its samples run along one."""
    lines = polylines(concat(paths), chord_mm)
    if len(lines) < 2:
        return
    whole = shapely.linestrings(np.concatenate(lines), indices=np.repeat(np.arange(len(lines)), list(map(len, lines))))
    shapely.prepare(whole)
    line, other = shapely.STRtree(whole).query(whole, predicate="dwithin", distance=within_mm)
    before = other < line
    involved = np.unique(np.concatenate([line[before], other[before]]))
    if not len(involved):
        return
    edges = np.concatenate([np.stack([lines[index][:-1], lines[index][1:]], axis=1) for index in involved])
    edge_owner = np.repeat(involved, [len(lines[index]) - 1 for index in involved])
    tree = shapely.STRtree(shapely.linestrings(edges))
    for owner in np.unique(line[before]).tolist():
        count = max(3, min(MOST_SAMPLES, math.ceil(whole[owner].length / SPACING_MM)))
        samples = shapely.line_interpolate_point(whole[owner], (np.arange(count) + 0.5) / count, normalized=True)
        hit, edge = tree.query(samples, predicate="dwithin", distance=within_mm)
        again = np.zeros(count, bool)
        again[hit[edge_owner[edge] < owner]] = True
        runs = np.convolve(again, np.ones(3), mode="same") >= 3
        again &= np.convolve(runs, np.ones(3), mode="same") > 0
        yield whole[owner], again
