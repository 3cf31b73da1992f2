"""Subpaths that are there again, in the same outline or in another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from unkelt.geometry.cache import TopicOfObjects
from unkelt.geometry.distance import repeated_subpaths
from unkelt.geometry.path import Path, concat
from unkelt.job.ticket import Ticket
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline


@dataclass(frozen=True, slots=True)
class Repeat:
    """Subpaths `indices` of outline `again_id` repeat subpaths `originals` of `first_id`, at most `apart_mm` away."""

    first_id: str
    again_id: str
    originals: tuple[int, ...]
    indices: tuple[int, ...]
    again: tuple[Path, ...]
    apart_mm: float


_REPEATS: TopicOfObjects[list[Repeat]] = TopicOfObjects("repeated outlines", 8)


def repeats(outlines: Sequence[Outline], within_mm: float) -> list[Repeat]:
    """All repeats among outlines, one record for each pair of outlines. The earlier one counts as the first.

    Several checks ask about the same outlines, and they are looked through once.
    """
    return _REPEATS.get(lambda: _repeats(outlines, within_mm), *outlines, also=within_mm) if outlines else []


def _repeats(outlines: Sequence[Outline], within_mm: float) -> list[Repeat]:
    counts = [len(outline.path) for outline in outlines]
    owner = np.repeat(np.arange(len(outlines)), counts)
    inner = np.concatenate([np.arange(count) for count in counts])
    together = concat([outline.path for outline in outlines])
    pairs: dict[tuple[int, int], list[tuple[int, int, float]]] = {}
    for first, again, gap in repeated_subpaths(together, within_mm):
        own = int(inner[first]), int(inner[again]), gap
        pairs.setdefault((int(owner[first]), int(owner[again])), []).append(own)
    return [
        Repeat(
            outlines[first].id,
            outlines[again].id,
            tuple(index for index, _, _ in found),
            tuple(index for _, index, _ in found),
            tuple(outlines[again].path.subpath(index) for _, index, _ in found),
            max(gap for _, _, gap in found),
        )
        for (first, again), found in pairs.items()
    ]


def repeats_by_material(outlines: Sequence[Outline], ticket: Ticket) -> list[Repeat]:
    """Repeats that would be cut, scored or engraved twice and of which one can go without a trace: those of one
    material, painted alike, or a line along the edge of a fill. The fill counts as the first, wherever it lies.
    """
    found: list[Repeat] = []
    told: set[tuple[str, str, tuple[int, ...]]] = set()
    for alike in ticket.by_material(outlines).values():
        working = [each for each in alike if ticket.operation(each.look) is not Operation.LEAVE]
        families = {each.id: ticket.family(each.look) for each in working}
        ordered = sorted(working, key=lambda each: each.look.fill is None)
        for repeat in repeats(ordered, ticket.tolerance.same_shape_mm):
            first, again = families[repeat.first_id], families[repeat.again_id]
            key = (repeat.first_id, repeat.again_id, repeat.indices)
            if key not in told and (first == again or (again.fill is None and again.pen is None)):
                told.add(key)
                found.append(repeat)
    return found


def copies(outlines: Sequence[Outline], within_mm: float) -> dict[str, str]:
    """Outlines that are whole copies of an earlier one, by id, each with the id of that."""
    found: dict[str, int] = {}
    first: dict[str, str] = {}
    for repeat in repeats(outlines, within_mm):
        if repeat.first_id != repeat.again_id:
            found[repeat.again_id] = found.get(repeat.again_id, 0) + len(repeat.indices)
            first.setdefault(repeat.again_id, repeat.first_id)
    return {
        outline.id: first[outline.id]
        for outline in outlines
        if len(outline.path) and found.get(outline.id, 0) >= len(outline.path)
    }


def without_copies(outlines: Sequence[Outline], within_mm: float) -> list[Outline]:
    """The outlines without those that are whole copies of an earlier one."""
    again = copies(outlines, within_mm)
    return [outline for outline in outlines if outline.id not in again]
