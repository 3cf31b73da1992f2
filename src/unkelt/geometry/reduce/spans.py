"""Spans of cubics and the polylines they follow, many at once: where they are, and where points lie on them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from unkelt.geometry.path import Bools, Floats, Ints

Complex = NDArray[np.complex128]
"""Points and vectors as x + iy: half the work of pairs."""

Array = TypeVar("Array", Floats, Complex)


def as_complex(points: Floats) -> Complex:
    """(…,) of pairs (…, 2), a copy."""
    return points[..., 0] + 1j * points[..., 1]


def as_pairs(points: Complex) -> Floats:
    """(…, 2), a copy."""
    return np.stack([points.real, points.imag], axis=-1)


GRID_MM = 2.0**-30
"""A power of two: up to 8 km of polylines, multiples of it are told apart and added without an error."""


def on_grid(lengths_mm: Floats) -> Floats:
    """Lengths as multiples of `GRID_MM`."""
    return np.asarray(np.round(lengths_mm / GRID_MM) * GRID_MM)


@dataclass(frozen=True, slots=True)
class Polylines:
    """Polylines laid end to end: vertices (v,), and how far along each of them lies, in mm, counted on through all.

    Lengths are multiples of `GRID_MM`, so that no sum of them is rounded: what is found of a polyline is the same to
    the last bit whatever others are laid beside it.
    """

    z: Complex
    s: Floats

    @classmethod
    def of(cls, parts: Sequence[Floats]) -> tuple[Polylines, Ints]:
        """Also the number of each part's first vertex. Between parts lies a gap that no run may cross."""
        firsts = np.cumsum([0, *map(len, parts)])
        z = as_complex(np.concatenate(parts)) if len(parts) else np.zeros(0, np.complex128)
        steps = on_grid(np.abs(np.diff(z, prepend=z[:1])))
        steps[firsts[1:-1]] = 1.0
        return cls(z, np.cumsum(steps)), firsts[:-1]

    def at(self, s: Floats) -> Complex:
        """Points so far along."""
        edge = np.clip(np.searchsorted(self.s, s, "right") - 1, 0, len(self.s) - 2)
        length = self.s[edge + 1] - self.s[edge]
        share = np.clip((s - self.s[edge]) / np.where(length > 0, length, 1), 0, 1)
        return np.asarray(self.z[edge] + share * (self.z[edge + 1] - self.z[edge]))


@dataclass(frozen=True, slots=True)
class Spans:
    """b runs of m cubics each: nodes and unit directions (b, m + 1), handle lengths after and before nodes (b, m)."""

    nodes: Complex
    ways: Complex
    after: Floats
    before: Floats

    def take(self, rows: Ints | Bools | slice) -> Spans:
        """Those that are named, or for which an array (n,) is true."""
        return Spans(self.nodes[rows], self.ways[rows], self.after[rows], self.before[rows])

    def put(self, rows: Ints | slice, others: Spans) -> None:
        """In place: `others` instead of these rows."""
        self.nodes[rows], self.ways[rows] = others.nodes, others.ways
        self.after[rows], self.before[rows] = others.after, others.before

    def curves(self) -> Complex:
        """(b, m, 4) nodes and handles."""
        made = np.empty((*self.after.shape, 4), np.complex128)
        made[..., 0], made[..., 3] = self.nodes[:, :-1], self.nodes[:, 1:]
        np.add(made[..., 0], self.after * self.ways[:, :-1], out=made[..., 1])
        np.subtract(made[..., 3], self.before * self.ways[:, 1:], out=made[..., 2])
        return made


def together(runs: Sequence[Spans]) -> Spans:
    """Spans of as many cubics each, one after the other."""
    return Spans(*(np.concatenate([getattr(each, field.name) for each in runs]) for field in fields(Spans)))


def places_at(curves: Complex, t: Floats) -> tuple[Complex, Complex, Complex, Ints, Floats]:
    """Points, first and second derivatives of runs (b, m, 4) at parameters (b, k) from 0 to m, which cubic it is and
    its own parameter.
    """
    m = curves.shape[1]
    which = np.minimum(t.astype(np.intp), m - 1) if m > 1 else np.zeros((1, 1), np.intp)
    u = t - which if m > 1 else t
    c0, c1, c2, c3 = curves[..., 0], curves[..., 1], curves[..., 2], curves[..., 3]
    first = 3 * (c1 - c0)
    second = 3 * (c2 - c1) - first
    powers = c0, first, second, c3 - c0 - first - second  # c0 + first u + second u² + third u³
    c0, first, second, third = (own_of(each, which) for each in powers)
    by = u.astype(np.complex128)
    third_by = third * by
    point = ((third_by + second) * by + first) * by + c0
    slope = (3 * third_by + 2 * second) * by + first
    return point, slope, 6 * third_by + 2 * second, which, u


def own_of(each: Array, which: Ints) -> Array:
    """(b, k) of what each cubic of a run has (b, m), that of the cubic which a place is on; (b, 1) of single cubics."""
    return each if each.shape[1] == 1 else each[np.arange(len(each))[:, None], which]


def newton(away: Complex, slope: Complex, bend: Complex) -> Floats:
    """The step of a foot's parameter, no longer than a fifth."""
    speed2 = (slope * slope.conj()).real
    below = np.maximum(speed2 + (away * bend.conj()).real, 0.3 * speed2) + 1e-300
    return within(-(away * slope.conj()).real / below, -0.2, 0.2)


def within(values: NDArray[Any], least: float, most: float) -> Floats:
    """As `numpy.clip`, which takes three times as long for small arrays."""
    return np.asarray(np.minimum(np.maximum(values, least), most))


def foot_on(lines: Polylines, s: Floats, points: Complex) -> Floats:
    """How far along the polyline the place nearest to each point is, near a first guess."""
    for _ in range(3):
        edge = np.clip(np.searchsorted(lines.s, s, "right") - 1, 0, len(lines.s) - 2)
        along = lines.z[edge + 1] - lines.z[edge]
        square = np.maximum((along * along.conj()).real, 1e-300)
        share = ((points - lines.z[edge]) * along.conj()).real / square
        # Beyond the edge's end: a hair into the next one, which then has its turn.
        s = lines.s[edge] + on_grid(np.clip(share, -1e-6, 1 + 1e-6) * np.abs(along))
    return s


def vertices(lines: Polylines, spans: Floats) -> tuple[Ints, Floats, Complex]:
    """For each span its start, the vertices within and its end, flat: whose they are, how far along, and the points."""
    first = np.searchsorted(lines.s, spans[:, 0], "right")
    last = np.maximum(np.searchsorted(lines.s, spans[:, 1], "left"), first)
    counts = last - first + 2
    stops = np.cumsum(counts)
    owner = np.repeat(np.arange(len(spans)), counts)
    index = np.arange(len(owner)) - np.repeat(stops - counts, counts) + np.repeat(first, counts) - 1
    index = np.clip(index, 0, len(lines.z) - 1)
    places, points = lines.s[index], lines.z[index]
    for edge, which in ((stops - counts, 0), (stops - 1, 1)):
        places[edge], points[edge] = spans[:, which], lines.at(spans[:, which])
    return owner, places, points
