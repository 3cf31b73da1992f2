"""`join-ends` and `close-subpath`: two ways to close what was left open."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Annotated

import numpy as np

from unkelt.errors import StepRefused
from unkelt.geometry.path import LINE, Path, closed_by_line, concat
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.step import Outcome, step, targets
from unkelt.survey.check import Workshop


@step("join-ends", "Join the ends", cures=("path.open",), safe=True)
def join_ends(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    limit: Annotated[float | None, "ends further apart than this stay open; without it, the standard 0.2 mm"] = None,
) -> Outcome:
    """Closes open subpaths whose two ends were meant to meet, by moving both ends to the middle between them.

    Guarantee: no end moves by more than half the limit, and nothing else moves.
    """
    reach = workshop.ticket.tolerance.joint_mm if limit is None else limit
    return _close("join-ends", sheet, items, reach, _met)


@step("close-subpath", "Close with a line", cures=("path.open",))
def close_subpath(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Closes open subpaths with a straight line from the last node to the first. Nothing that is there moves."""
    return _close("close-subpath", sheet, items, float("inf"), closed_by_line)


def _close(name: str, sheet: Sheet, items: tuple[str, ...], reach_mm: float, closed: Callable[[Path], Path]) -> Outcome:
    chosen: list[Outline] = targets(name, sheet, items, Outline)
    changes: dict[str, tuple[Item, ...]] = {}
    count, widest = 0, 0.0
    for outline in chosen:
        gaps = outline.path.end_gaps_mm()
        open_ones = ~outline.path.closed & (outline.path.counts > 1) & (gaps <= reach_mm)
        if not open_ones.any():
            continue
        parts = [
            closed(part) if is_open else part for part, is_open in zip(outline.path.subpaths(), open_ones, strict=True)
        ]
        changes[outline.id] = (replace(outline, path=concat(parts)),)
        count += int(open_ones.sum())
        widest = max(widest, float(gaps[open_ones].max()))
    if not count:
        within = "" if reach_mm == float("inf") else f" with ends within {reach_mm:g} mm"
        raise StepRefused(name, f"there is no open subpath{within}")
    moved = widest / 2 if name == "join-ends" else 0.0
    evidence = {"subpaths_closed": count, "widest_gap_mm": round(widest, 5), "max_deviation_mm": round(moved, 5)}
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _met(path: Path) -> Path:
    points = path.points.copy()
    middle = (points[0, 0] + points[-1, 3]) / 2
    points[0, 0] = points[-1, 3] = middle
    for index, row in ((0, 1), (-1, 2)):
        if path.degrees[index] == LINE:
            points[index, row] = middle
    return Path(points, path.degrees, path.starts, np.array([True]))
