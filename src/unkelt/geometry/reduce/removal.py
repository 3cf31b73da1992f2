"""Nodes taken out of smooth runs of cubics: a stretch of neighbours is fitted anew with one cubic fewer, all its nodes
and handles moving together, and taken if it is certified.

Source for the joint fit: geometry/reduce/fit.py. That a pass of removals gains a fifth on outlines that were polylines
was measured; windows of more than four cubics gained nothing more, and a beginning for each node that may go, of three,
a fiftieth.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from unkelt.geometry.path import Floats
from unkelt.geometry.reduce.fit import fit_runs
from unkelt.geometry.reduce.spans import Complex, Polylines, Spans, together

WINDOWS = (2, 3, 4)
"""So many neighbours are tried with one fewer, in this order."""

ANEW = 3
"""Of so many, each inner node may be the one to go. Of two there is but one, and of four it gains little for its time.
"""


@dataclass(frozen=True, slots=True, eq=False)
class Cubic:
    """One cubic (4,), the directions at its ends (2,), the stretch of the polyline it stands for, and the bound in mm
    on the distance between them.
    """

    curve: Complex
    ways: Complex
    start: float
    end: float
    bound: float


@dataclass(frozen=True, slots=True)
class Span:
    """Cubics joined smoothly, the directions at its ends (2,) as the source has them, and whether those may turn a
    little.
    """

    cubics: list[Cubic]
    ways: Complex
    hinged: tuple[bool, bool]


def fewer(runs: list[Span], lines: Polylines, budget_mm: float) -> None:
    """Each run, in place, with as many cubics fewer as can be found; its ends stay, and the directions there but for
    hinges.
    """
    for size in WINDOWS:
        tried: set[tuple[int, ...]] = set()
        kept: list[Cubic] = []  # so that no id is used twice
        while windows := list(_untried(runs, size, tried)):
            found = _fitted([(run, at, at + size) for run, at in windows], lines, budget_mm)
            for (run, at), better in zip(reversed(windows), reversed(found), strict=True):
                if better is not None:
                    kept += run.cubics[at : at + size]
                    run.cubics[at : at + size] = better


def _untried(runs: list[Span], size: int, tried: set[tuple[int, ...]]) -> Iterator[tuple[Span, int]]:
    """Windows that don't overlap, by run and first cubic, in order."""
    for run in runs:
        at = 0
        while at + size <= len(run.cubics):
            key = tuple(map(id, run.cubics[at : at + size]))
            if key in tried:
                at += 1
                continue
            tried.add(key)
            yield run, at
            at += size


def _fitted(places: list[tuple[Span, int, int]], lines: Polylines, budget_mm: float) -> list[list[Cubic] | None]:
    """Each window with one cubic fewer, where a fit is certified: begun with its nodes spread anew, or, if it is of
    `ANEW` and that is not certified, with each inner node in turn taken out, since where a fit ends depends on where it
    began.
    """
    windows = [run.cubics[a:b] for run, a, b in places]
    curves = np.array([[cubic.curve for cubic in window] for window in windows])  # (b, w, 4)
    ways = np.array([[window[0].ways[0], *(cubic.ways[1] for cubic in window)] for window in windows])
    hinged = np.array([[a == 0 and run.hinged[0], b == len(run.cubics) and run.hinged[1]] for run, a, b in places])
    ways[:, [0, -1]] = np.where(hinged, np.array([run.ways for run, _, _ in places]), ways[:, [0, -1]])
    bounds = np.array([[cubic.bound for cubic in window] for window in windows])
    spans = np.array([[window[0].start, window[-1].end] for window in windows])
    starts = [_spread(curves, ways, bounds / budget_mm)]
    if curves.shape[1] == ANEW:
        starts += [_without(curves, ways, node) for node in range(1, ANEW)]
    every = np.tile(np.arange(len(windows)), len(starts))
    found = fit_runs(
        lines,
        spans[every],
        curves[every][:, [0, -1], [0, 3]],
        ways[every][:, [0, -1]],
        together(starts),
        budget_mm,
        hinged[every],
    )
    new, towards = found.runs.curves(), found.runs.ways
    results: list[list[Cubic] | None] = [None] * len(windows)
    for row in np.flatnonzero(found.good).tolist():
        if results[every[row]] is not None:
            continue
        joints = found.joints[row].tolist()
        results[every[row]] = [
            Cubic(new[row, j], towards[row, j : j + 2], joints[j], joints[j + 1], float(found.bounds[row, j]))
            for j in range(new.shape[1])
        ]
    return results


def _without(curves: Complex, ways: Complex, node: int) -> Spans:
    """One inner node fewer to begin with: the handles beside it grow as far as the cubic does."""
    nodes = np.concatenate([curves[:, :, 0], curves[:, -1:, 3]], axis=1)
    chord = np.maximum(np.abs(np.diff(nodes, axis=1)), 1e-9)
    out_of = np.abs(curves[:, :, 1] - curves[:, :, 0])
    into = np.abs(curves[:, :, 3] - curves[:, :, 2])
    both = chord[:, node - 1] + chord[:, node]
    out_of[:, node - 1] *= both / chord[:, node - 1]
    into[:, node] *= both / chord[:, node]
    return Spans(
        np.delete(nodes, node, axis=1),
        np.delete(ways, node, axis=1),
        np.delete(out_of, node, axis=1),
        np.delete(into, node - 1, axis=1),
    )


def _spread(curves: Complex, ways: Complex, shares: Floats) -> Spans:
    """One cubic fewer to begin with: nodes spread so that all have as much to do, handles by the speed there.

    A cubic with its ends' directions given strays by the sixth power of its length (C. de Boor, K. Höllig, M. Sabin,
    1987), so the sixth root of the share of the budget that each uses says how much it does.
    """
    b, w, _ = curves.shape
    m = w - 1
    work = np.concatenate([np.zeros((b, 1)), np.cumsum(np.clip(shares, 1e-4, 1) ** (1 / 6), axis=1)], axis=1)
    wanted = work[:, -1:] * np.linspace(0, 1, m + 1)
    which = np.minimum((work[:, None, 1:] <= wanted[:, :, None]).sum(axis=2), w - 1)
    rows = np.arange(b)[:, None]
    per = np.diff(work, axis=1)[rows, which]
    t = np.clip((wanted - work[rows, which]) / per, 0, 1)
    c0, c1, c2, c3 = (curves[rows, which, k] for k in range(4))
    v = 1 - t
    nodes = v**3 * c0 + 3 * v * v * t * c1 + 3 * v * t * t * c2 + t**3 * c3
    slope = 3 * (v * v * (c1 - c0) + 2 * v * t * (c2 - c1) + t * t * (c3 - c2))
    speed = np.abs(slope)
    ways = np.where(speed > 1e-9, slope / np.maximum(speed, 1e-9), ways[rows, which])
    reach = speed / per * work[:, -1:] / (3 * m)
    return Spans(nodes, ways, reach[:, :-1].copy(), reach[:, 1:].copy())
