"""A quick look at which nodes could go: whether one cubic could follow both segments that meet there.

It decides nothing. It is there so that the certified search need only be asked about paths in which much could go.
"""

from __future__ import annotations

import numpy as np

from unkelt.geometry.measure import end_tangents, evaluate, unit
from unkelt.geometry.path import Bools, Floats, Ints, Path

SMOOTH_DEG = 30.0
"""A sharper turn is a corner under any reading; what is a corner in fact the search knows better."""

SLACK = 1.5
"""The quick fit's parameters are not refined: it may miss a fit that exists by this factor."""

_AT = np.array([0.25, 0.5, 0.75])


def mergeable_nodes(path: Path, tolerance_mm: float, every: int = 1) -> Bools:
    """(n,) whether the node at the end of each segment could go, by itself, within the tolerance; of `every` so many
    only the first is looked at, the others count as staying.
    """
    if not len(path):
        return np.zeros(0, bool)
    following = path.following()
    start, end = end_tangents(path)
    joint = following >= 0
    cosine = np.where(joint, (end * start[following]).sum(axis=1), -1.0)
    first = np.flatnonzero(joint & (cosine > np.cos(np.radians(SMOOTH_DEG))) & (following != np.arange(len(following))))
    first = first[first % every == 0]
    second = following[first]
    result = np.zeros(len(path.points), bool)
    if not len(first):
        return result
    cubics = path.cubics()
    t = np.broadcast_to(_AT, (len(first), 3))
    middle = path.points[first, 3][:, None]
    samples = np.concatenate([evaluate(cubics[first], t), middle, evaluate(cubics[second], t)], axis=1)
    node_into, node_out = _smoothed(path, start, end, following)
    ends = path.points[first, 0], path.points[second, 3]
    result[first] = _departure(samples, *ends, node_out[first], -node_into[second]) <= SLACK * tolerance_mm
    return result


def _smoothed(path: Path, start: Floats, end: Floats, following: Ints) -> tuple[Floats, Floats]:
    """Tangents at each segment's end and start, made one where two lines meet smoothly: a polyline's nodes lie on a
    curve.
    """
    into, out_of = end.copy(), start.copy()
    line = path.degrees == 1
    joint = np.flatnonzero((following >= 0) & line & line[following])
    joint = joint[(end[joint] * start[following[joint]]).sum(axis=1) > np.cos(np.radians(SMOOTH_DEG))]
    mean = unit(end[joint] + start[following[joint]])
    into[joint], out_of[following[joint]] = mean, mean
    return into, out_of


def _departure(samples: Floats, p0: Floats, p3: Floats, t0: Floats, t3: Floats) -> Floats:
    """(m,) how far samples (m, k, 2) lie off the cubic with these ends and tangents that fits them best.

    Least squares for the two handle lengths at chord-length parameters (P. Schneider, Graphics Gems, 1990); only the
    distance across the curve counts.
    """
    chain = np.concatenate([p0[:, None], samples, p3[:, None]], axis=1)
    run = np.cumsum(np.linalg.norm(np.diff(chain, axis=1), axis=2), axis=1)
    total = np.maximum(run[:, -1:], 1e-300)
    u = run[:, :-1] / total
    b0, b1, b2, b3 = (1 - u) ** 3, 3 * u * (1 - u) ** 2, 3 * u * u * (1 - u), u**3
    fixed = (b0 + b1)[..., None] * p0[:, None] + (b2 + b3)[..., None] * p3[:, None]
    rest = samples - fixed
    c00, c11 = (b1 * b1).sum(axis=1), (b2 * b2).sum(axis=1)
    c01 = (b1 * b2).sum(axis=1) * (t0 * t3).sum(axis=1)
    x0 = (b1 * (rest * t0[:, None]).sum(axis=2)).sum(axis=1)
    x1 = (b2 * (rest * t3[:, None]).sum(axis=2)).sum(axis=1)
    determinant = c00 * c11 - c01 * c01
    with np.errstate(divide="ignore", invalid="ignore"):
        a0, a1 = (x0 * c11 - x1 * c01) / determinant, (x1 * c00 - x0 * c01) / determinant
    usable = np.isfinite(a0) & np.isfinite(a1) & (a0 > 0) & (a1 > 0)
    third = total[:, 0] / 3
    a0, a1 = np.where(usable, a0, third)[:, None], np.where(usable, a1, third)[:, None]
    h0, h1 = p0 + a0 * t0, p3 + a1 * t3
    cubics = np.stack([p0, h0, h1, p3], axis=1)
    off = samples - evaluate(cubics, u)
    weights = np.stack([3 * (1 - u) ** 2, 6 * u * (1 - u), 3 * u * u], axis=-1)
    way = unit(weights @ np.diff(cubics, axis=1))
    return np.asarray(np.abs(off[..., 0] * way[..., 1] - off[..., 1] * way[..., 0]).max(axis=1))
