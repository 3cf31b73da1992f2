"""Exact measures of paths: bounds, signed area, length."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from unkelt.geometry.path import QUAD, Floats, Path, concat, once_each

Box = tuple[float, float, float, float]
"""x0, y0, x1, y1 in mm."""


def evaluate(cubics: Floats, t: Floats) -> Floats:
    """Points of cubics (n, 4, 2) at parameters (n, k): (n, k, 2)."""
    u = 1 - t
    weights = np.stack([u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t], axis=-1)
    return weights @ cubics


def points_at(cubics: Floats, t: Floats) -> Floats:
    """Points of cubics (n, 4, 2) at parameters (n, k), or (k,) the same for all: (n, k, 2). The same to the last bit
    whatever stands beside, which a product of matrices doesn't promise.
    """
    u = 1 - t
    weights = [each[..., None] for each in (u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t)]
    result: Floats = weights[0] * cubics[:, 0, None]
    for k in (1, 2, 3):
        result += weights[k] * cubics[:, k, None]
    return result


def derivative(cubics: Floats, t: Floats) -> Floats:
    """First derivatives of cubics (n, 4, 2) at parameters (n, k): (n, k, 2)."""
    u = 1 - t
    weights = np.stack([3 * u * u, 6 * u * t, 3 * t * t], axis=-1)
    return weights @ np.diff(cubics, axis=1)


def unit(vectors: Floats) -> Floats:
    """Vectors (…, 2) of length 1; those of length 0 stay."""
    norm = np.linalg.norm(vectors, axis=-1, keepdims=True)
    return np.divide(vectors, norm, out=np.zeros_like(vectors), where=norm > 0)


def end_tangents(path: Path) -> tuple[Floats, Floats]:
    """Unit tangents (n, 2) at the start and at the end of each segment, from the first handle that isn't on the
    node.
    """
    return tangents(path.points)


def tangents(points: Floats) -> tuple[Floats, Floats]:
    """`end_tangents` of segments (n, 4, 2)."""
    steps = points[:, 1:] - points[:, :1]
    back = points[:, 3:] - points[:, 2::-1]
    start, end = np.zeros((len(steps), 2)), np.zeros((len(steps), 2))
    for k in (2, 1, 0):
        start = np.where(np.any(np.abs(steps[:, k]) > 1e-12, axis=1)[:, None], steps[:, k], start)
        end = np.where(np.any(np.abs(back[:, k]) > 1e-12, axis=1)[:, None], back[:, k], end)
    return unit(start), unit(end)


def quadratic_roots(a: Floats, b: Floats, c: Floats) -> Floats:
    """Real roots of a t² + 2 b t + c, (…, 2), NaN where there is none.

    The form q = -(b + sign(b) √(b² - a c)) loses no digits (W. H. Press et al., Numerical Recipes, section 5.6).
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        q = -(b + np.copysign(np.sqrt(b * b - a * c), b))
        roots = np.stack([q / a, c / q], axis=-1)
    return np.where(np.isfinite(roots), roots, np.nan)


def segment_bounds(path: Path) -> Floats:
    """(n, 2, 2): least and greatest x, y of each segment, exact from the roots of the derivative."""
    cubics = path.cubics()
    low = np.minimum(cubics[:, 0], cubics[:, 3])
    high = np.maximum(cubics[:, 0], cubics[:, 3])
    # Only where a handle leaves the box of the nodes can the curve leave it.
    outside = ((cubics[:, 1:3] < low[:, None]) | (cubics[:, 1:3] > high[:, None])).any(axis=(1, 2))
    if outside.any():
        bent = cubics[outside]
        d = np.diff(bent, axis=1)
        t = quadratic_roots(d[:, 0] - 2 * d[:, 1] + d[:, 2], d[:, 1] - d[:, 0], d[:, 0])  # (m, 2 axes, 2 roots)
        t = np.where((t > 0) & (t < 1), t, 0.0)
        at = np.stack([evaluate(bent, t[:, axis])[:, :, axis] for axis in (0, 1)], axis=-1)  # (m, 2 roots, 2 axes)
        low[outside] = np.minimum(low[outside], at.min(axis=1))
        high[outside] = np.maximum(high[outside], at.max(axis=1))
    return np.stack([low, high], axis=1)


def bounds(path: Path) -> Box | None:
    """The exact box of the curves, None for an empty path."""
    if not len(path.points):
        return None
    return path.once(_bounds)


def _bounds(path: Path) -> Box:
    boxes = subpath_bounds(path)
    x0, y0 = boxes[:, :2].min(axis=0).tolist()
    x1, y1 = boxes[:, 2:].max(axis=0).tolist()
    return x0, y0, x1, y1


def subpath_bounds(path: Path) -> Floats:
    """(s, 4): the exact box of each subpath."""
    return path.once(_subpath_bounds)


def _subpath_bounds(path: Path) -> Floats:
    if not len(path):
        return np.zeros((0, 4))
    boxes = segment_bounds(path)
    low = np.minimum.reduceat(boxes[:, 0], path.starts)
    high = np.maximum.reduceat(boxes[:, 1], path.starts)
    found = np.concatenate([low, high], axis=1)
    found.setflags(write=False)
    return found


def find_boxes(paths: Sequence[Path]) -> None:
    """Finds the boxes of many paths together, which is quicker than one by one when `bounds` and `subpath_bounds` are
    asked for them.
    """
    once_each(paths, _subpath_bounds, _subpath_bounds_of)


def _subpath_bounds_of(paths: Sequence[Path]) -> list[Floats]:
    return np.split(subpath_bounds(concat(paths)), np.cumsum([len(path) for path in paths])[:-1])


def join_boxes(boxes: list[Box]) -> Box | None:
    """The box around all boxes."""
    if len(boxes) <= 1:
        return boxes[0] if boxes else None
    array = np.array(boxes)
    return (*map(float, array[:, :2].min(axis=0)), *map(float, array[:, 2:].max(axis=0)))  # type: ignore[return-value]


def signed_areas(path: Path) -> Floats:
    """(s,) area of each subpath in mm², positive when it runs counter-clockwise as seen (y down).

    Exact for lines and Béziers by Green's theorem, ½∮(y dx - x dy); the closed form of a cubic's part beyond its chord
    is 3/20 [x1(-y2 - y3) + x2(y1 - 2 y3) + x3(y1 + 2 y2)] with P0 at the origin. An open subpath is closed by a chord.
    """
    if not len(path):
        return np.zeros(0)
    c = path.points  # a line with its ends for handles encloses no more than its chord either
    if (path.degrees == QUAD).any():
        c = path.cubics()
    origin = np.repeat(c[path.starts, 0], path.counts, axis=0)  # near the curve, so that far-off sheets keep digits
    first, last = c[:, 0] - origin, c[:, 3] - origin
    (x1, y1), (x2, y2), (x3, y3) = ((c[:, k] - c[:, 0]).T for k in (1, 2, 3))
    beyond = 0.15 * (x1 * (-y2 - y3) + x2 * (y1 - 2 * y3) + x3 * (y1 + 2 * y2))
    chords = 0.5 * (first[:, 1] * last[:, 0] - first[:, 0] * last[:, 1])
    return np.add.reduceat(chords + beyond, path.starts)


_GAUSS = [np.polynomial.legendre.leggauss(order) for order in (8, 16)]


def lengths(path: Path) -> Floats:
    """(s,) length of each subpath in mm, to 1e-9 of each segment's length.

    Gauss-Legendre with 8 and 16 points; a segment on which the two differ is halved until they agree, which at a cusp
    gains two binary digits a halving.
    """
    if not len(path):
        return np.zeros(0)
    return np.add.reduceat(segment_lengths(path), path.starts)


def segment_lengths(path: Path) -> Floats:
    """(n,) length of each segment in mm; see `lengths`."""
    total: Floats = np.linalg.norm(path.points[:, 3] - path.points[:, 0], axis=1)
    curved = np.flatnonzero(path.degrees != 1)
    total[curved] = 0
    owner, pieces = curved, path.cubics()[curved]
    scale = np.abs(np.diff(pieces, axis=1)).sum(axis=(1, 2))
    for _ in range(24):
        if not len(owner):
            break
        coarse, fine = (_speeds(pieces, (x + 1) / 2) @ w / 2 for x, w in _GAUSS)
        done = np.abs(coarse - fine) <= 1e-11 * scale
        np.add.at(total, owner[done], fine[done])
        owner, scale, pieces = owner[~done], scale[~done], pieces[~done]
        owner, scale = np.tile(owner, 2), np.tile(scale, 2)
        pieces = np.concatenate(halve(pieces))
    return total


def _speeds(cubics: Floats, t: Floats) -> Floats:
    """Length of the derivative of cubics (n, 4, 2) at the same parameters (k,) for all: (n, k)."""
    u = 1 - t
    weights = np.stack([3 * u * u, 6 * u * t, 3 * t * t])
    steps = np.diff(cubics, axis=1)
    return np.hypot(steps[:, :, 0] @ weights, steps[:, :, 1] @ weights)


def part(cubic: Floats, t0: float, t1: float) -> Floats:
    """The stretch t0 … t1 of a cubic (4, 2) as a cubic: its blossom at (t0, t0, t0), (t0, t0, t1) … (R. Goldman)."""
    result = np.empty((4, 2))
    for k in range(4):
        row = cubic
        for t in (t1,) * k + (t0,) * (3 - k):
            row = row[:-1] + (row[1:] - row[:-1]) * t
        result[k] = row[0]
    return result


def halve(cubics: Floats) -> tuple[Floats, Floats]:
    """Both halves of cubics (n, 4, 2), by de Casteljau at t = ½."""
    p01, p12, p23 = ((cubics[:, k] + cubics[:, k + 1]) / 2 for k in range(3))
    p012, p123 = (p01 + p12) / 2, (p12 + p23) / 2
    middle = (p012 + p123) / 2
    return (
        np.stack([cubics[:, 0], p01, p012, middle], axis=1),
        np.stack([middle, p123, p23, cubics[:, 3]], axis=1),
    )


def turns_between(into: Floats, out_of: Floats) -> Floats:
    """Signed angle in radians from each direction to its partner."""
    cross = into[:, 0] * out_of[:, 1] - into[:, 1] * out_of[:, 0]
    return np.arctan2(cross, (into * out_of).sum(axis=1))
