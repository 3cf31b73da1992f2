"""What a closed ring looks like, whatever its place, size, turn, start or noding: its moments, and what stays of
them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from unkelt.geometry.measure import derivative, evaluate
from unkelt.geometry.path import Floats, Path

Complexes = NDArray[np.complex128]

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)
"""Exact up to degree 15; the highest moment here integrates a polynomial of degree 14."""

QUIET = 1e-3
"""A third moment smaller than this is noise, and its direction says nothing."""


@dataclass(frozen=True, slots=True)
class RingShapes:
    """For r rings: `area` (r,) in mm², `centre` (r,) complex in mm, `second` and `third` (r,) the central moments
    c20/c00² and c21/c00^2.5, which turn twice and once with the ring, and `marks` (r, 8), which nothing turns.
    """

    area: Floats
    centre: Complexes
    second: Complexes
    third: Complexes
    marks: Floats


def ring_shapes(path: Path) -> RingShapes:
    """The shapes of a path's subpaths, exact for Béziers; an open one counts as closed by a chord.

    Complex moments c_pq = ∬ z^p z̄^q dA, by Green's theorem (1/(2i(q+1))) ∮ z^p z̄^(q+1) dz, about the centroid; a turn
    by θ multiplies c_pq by e^{iθ(p-q)} (J. Flusser, "On the independence of rotation moment invariants", 2000). The
    marks are c11/c00², |c20|/c00², |c21|/c00^2.5, |c30|/c00^2.5, and the phases of c20 and c30 against that of c21,
    damped where c21 is too small to have one. A reflected ring has the conjugate phases; a ring without area has none
    of all this: NaN.
    """
    cubics = path.cubics()
    chords = path.end_gaps_mm() > 0
    if chords.any():  # an open subpath: its chord as one more segment
        starts = path.points[path.starts[chords], 0]
        ends = path.points[path.stops[chords] - 1, 3]
        added = np.stack([ends, ends + (starts - ends) / 3, ends + 2 * (starts - ends) / 3, starts], axis=1)
        cubics = np.concatenate([cubics, added])
    owner = np.concatenate([np.repeat(np.arange(len(path)), path.counts), np.flatnonzero(chords)])
    t = (_NODES + 1) / 2
    places, speeds = evaluate(cubics, t[None, :]), derivative(cubics, t[None, :])
    origin = path.points[path.starts, 0] @ np.array([1, 1j])
    z, dz = places @ np.array([1, 1j]), speeds @ np.array([1, 1j]) * (_WEIGHTS / 2)

    def moment(z: Complexes, p: int, q: int) -> Complexes:
        values = (z**p * z.conj() ** (q + 1) * dz).sum(axis=1) / (2j * (q + 1))
        total = np.zeros(len(path), complex)
        np.add.at(total, owner, values)
        return total

    z = z - origin[owner, None]
    area = moment(z, 0, 0).real
    sign, size = np.sign(area), np.where(area == 0, np.nan, np.abs(area))
    with np.errstate(invalid="ignore"):  # a ring without area
        centre = moment(z, 1, 0) * sign / size
        z = z - centre[owner, None]
        c11, c20 = moment(z, 1, 1).real * sign / size**2, moment(z, 2, 0) * sign / size**2
        c21, c30 = moment(z, 2, 1) * sign / size**2.5, moment(z, 3, 0) * sign / size**2.5
        turn2, turn3 = (c21.conj() ** k / (np.abs(c21) ** k + QUIET**k) for k in (2, 3))
    one, other = c20 * turn2, c30 * turn3
    marks = np.stack([c11, abs(c20), abs(c21), abs(c30), one.real, one.imag, other.real, other.imag], axis=1)
    return RingShapes(np.abs(area), centre + origin, c20, c21, marks)


def mirrored_marks(marks: Floats) -> Floats:
    """The marks of the same rings seen in a mirror."""
    result = marks.copy()
    result[:, [5, 7]] *= -1
    return result


def segment_marks(path: Path) -> tuple[Complexes, Complexes]:
    """(n, 2) the handles of each segment's cubic seen from its start, with its end at 1, as complex numbers; and (n, 2)
    its start and end in mm. They stay under moves, turns and scaling. Lines and closed loops have none: NaN.
    """
    cubic = path.cubics() @ np.array([1, 1j])
    chord = cubic[:, 3] - cubic[:, 0]
    plain = (path.degrees != 1) & (chord != 0)
    handles = np.full((len(chord), 2), np.nan, complex)
    handles[plain] = (cubic[plain, 1:3] - cubic[plain, :1]) / chord[plain, None]
    return handles, cubic[:, [0, 3]]
