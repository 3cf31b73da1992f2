"""Nodes where a curve runs level or plumb, as type designers place them."""

from __future__ import annotations

import numpy as np

from unkelt.geometry.measure import quadratic_roots
from unkelt.geometry.path import CUBIC, LINE, Bools, Path
from unkelt.geometry.reduce.spans import Complex

LEVEL_DEG = 0.5
"""A node's direction this near an axis is meant to lie along it."""

END_SHARE = 1e-3
"""Nearer to a segment's end than this share of its parameter, the node there will do."""


def with_level_nodes(path: Path) -> Path:
    """One subpath with a node wherever one of its curves turns back in x or in y; the curves themselves stay."""
    cubics = path.cubics()
    d = np.diff(cubics, axis=1)
    roots = quadratic_roots(d[:, 0] - 2 * d[:, 1] + d[:, 2], d[:, 1] - d[:, 0], d[:, 0]).reshape(len(d), 4)
    inner = (roots > END_SHARE) & (roots < 1 - END_SHARE) & (path.degrees != LINE)[:, None]
    if not inner.any():
        return path
    points, degrees = [], []
    for index, (segment, degree) in enumerate(zip(path.points, path.degrees, strict=True)):
        cuts = np.unique(roots[index][inner[index]])
        if not len(cuts):
            points.append(segment)
            degrees.append(degree)
            continue
        rest, done = cubics[index], 0.0
        for cut in cuts:
            t = (cut - done) / (1 - done)
            ab, bc, cd = rest[:-1] + (rest[1:] - rest[:-1]) * t
            abc, bcd = ab + (bc - ab) * t, bc + (cd - bc) * t
            middle = abc + (bcd - abc) * t
            points.append(np.stack([rest[0], ab, abc, middle]))
            rest, done = np.stack([middle, bcd, cd, rest[3]]), float(cut)
        points.append(rest)
        degrees += [CUBIC] * (len(cuts) + 1)
    return Path(np.array(points), np.array(degrees, np.uint8), path.starts, path.closed)


def level_nodes(path: Path, nodes: Complex, out_of: Complex, corner: Bools, least_mm: float) -> tuple[Bools, Complex]:
    """(n,) which starts of one subpath's segments are smooth nodes where it runs level or plumb, and the direction
    there.

    Left out where the curve rises or falls by no more than `least_mm` to the stop before or after: nobody draws a node
    for that. `nodes` and `out_of` (n + 1,) are those of `path`.
    """
    n = len(path.points)
    line = path.degrees == LINE
    straight = line & np.roll(line, 1)
    step, before = np.diff(nodes), np.roll(np.diff(nodes), 1)
    kept, way = np.zeros(n, bool), np.zeros(n, np.complex128)
    slack = np.sin(np.radians(LEVEL_DEG))
    for axis, part in ((1.0, np.imag), (1j, np.real)):
        along = (out_of[:n] * np.conj(axis)).real
        turns = np.where(straight, part(before) * part(step) < 0, np.abs(part(out_of[:n])) < slack)
        here = turns & ~corner & ~kept & (np.abs(along) > 0.7)
        kept |= here
        way[here] = np.sign(along[here]) * axis
    stops = np.flatnonzero(corner | kept)
    if len(stops) < 2:
        return kept, way
    for position, stop in enumerate(stops.tolist()):
        if kept[stop]:
            part = np.real if abs(way[stop].real) < 0.5 else np.imag
            beside = nodes[[stops[position - 1], stops[(position + 1) % len(stops)]]]
            kept[stop] = bool((np.abs(part(beside - nodes[stop])) > least_mm).all())
    return kept, way
