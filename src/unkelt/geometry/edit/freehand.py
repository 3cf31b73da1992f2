"""A line that a hand drew, smoothed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from unkelt.geometry.path import Floats, Path, PathBuilder

LEAST_MM, SHARE = 0.5, 0.01
"""How far the smooth line may lie from where the hand went: so many millimetres, or that share of its length, whichever
is more."""

DEGREE = 3
ROUNDS = 20
"""How often less smoothing is tried, each time by half."""


def smoothed(places: Sequence[tuple[float, float]]) -> Path:
    """An open path of cubics through the first and the last place (mm), near all others.

    A smoothing spline (P. Dierckx, Curve and Surface Fitting with Splines, 1993; scipy's `splprep`), smoothed as far as
    every place lies within `LEAST_MM`, or within `SHARE` of the length. Fewer than four places apart from each other
    are joined by straight lines. Raises ValueError where there are fewer than two.
    """
    points = np.array([p for n, p in enumerate(places) if n == 0 or p != places[n - 1]], dtype=float)
    if len(points) < 2:
        raise ValueError("a line needs two places or more")
    builder = PathBuilder()
    builder.move_to(*points[0])
    if len(points) < 4:
        for x, y in points[1:]:
            builder.line_to(x, y)
        return builder.path()
    length = float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
    allowed = max(LEAST_MM, SHARE * length)
    for cubic in _spline(points, allowed):
        builder.cubic_to(*cubic[1], *cubic[2], *cubic[3])
    return builder.path()


def _spline(points: Floats, allowed_mm: float) -> Floats:
    """(k, 4, 2) the cubics of the smoothest spline that lies near enough."""
    weights = np.ones(len(points))
    weights[[0, -1]] = 1e3  # the ends stay
    spread = len(points) * (allowed_mm / 2) ** 2
    for attempt in range(ROUNDS + 1):
        (knots, across, down), where = _fitted(points, weights, spread if attempt < ROUNDS else 0.0)
        curve = scipy.interpolate.BSpline(knots, np.stack([across, down], 1), DEGREE)
        if np.linalg.norm(curve(where) - points, axis=1).max() <= allowed_mm:
            break
        spread /= 2
    ends = np.unique(knots)
    at, slopes, steps = curve(ends), curve.derivative()(ends), np.diff(ends)[:, None]
    cubics = np.stack([at[:-1], at[:-1] + slopes[:-1] * steps / 3, at[1:] - slopes[1:] * steps / 3, at[1:]], 1)
    cubics[0, 0], cubics[-1, 3] = points[0], points[-1]
    return np.asarray(cubics)


def _fitted(points: Floats, weights: Floats, spread: float) -> tuple[tuple[Floats, Floats, Floats], Floats]:
    """Knots, the coefficients of either axis, and the parameters of the places."""
    # with all of its output it says how it went there, and warns nobody
    ((knots, coefficients, _), where), *_ = scipy.interpolate.splprep(
        points.T, w=weights, s=spread, k=DEGREE, full_output=1, quiet=1
    )
    across, down = np.asarray(coefficients, float)
    return (np.asarray(knots, float), across, down), np.asarray(where, float)
