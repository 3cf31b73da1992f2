"""`nodes.excess`"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.mergeable import mergeable_nodes
from unkelt.geometry.path import concat
from unkelt.geometry.reduce import reduce_many
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet
from unkelt.sheet.words import words
from unkelt.survey.check import Workshop, check
from unkelt.survey.finding import Finding, Level
from unkelt.tolerance import Tolerance

CAUTION = 0.35
"""The quick look may miss some of the nodes that could go; the search is asked when it sees this share of enough."""


@check("nodes.excess")
def nodes_excess(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """More nodes than the shape needs at the ticket's tolerance: each costs the machine time and a mark on the edge."""
    tolerance = workshop.ticket.tolerance
    word_of = {item_id: word.ids for word in words(sheet) for item_id in word.ids}
    excess: dict[tuple[str, ...], list[tuple[Outline, int]]] = {}
    asked = [
        outline
        for outline in sheet.outlines()
        if workshop.ticket.operation(outline.look) is not Operation.LEAVE
        and outline.path.node_count >= tolerance.excess_nodes
    ]
    asked = [outline for outline, worth in zip(asked, _worth_asking(asked, tolerance), strict=True) if worth]
    reduced = reduce_many([outline.path for outline in asked], tolerance.chord_mm)
    for outline, fewer in zip(asked, reduced, strict=True):
        now, needed = outline.path.node_count, fewer.path.node_count
        if now - needed >= max(tolerance.excess_nodes, tolerance.excess_share * now):
            excess.setdefault(word_of.get(outline.id, (outline.id,)), []).append((outline, needed))
    for found in excess.values():  # one finding a word: its letters were made the same way
        now = sum(outline.path.node_count for outline, _ in found)
        needed = sum(count for _, count in found)
        marks = tuple(box for outline, _ in found if (box := bounds(outline.path)))
        seconds = (now - needed) * workshop.ticket.machine.node_s
        yield Finding(
            code="nodes.excess",
            level=Level.WARN,
            items=tuple(outline.id for outline, _ in found),
            box=join_boxes(list(marks)),
            value=float(now),
            unit="nodes",
            headline=f"{now} nodes; {needed} are enough",
            detail=f"at {tolerance.chord_mm:g} mm; about {seconds:.1f} s saved",
            message=f"The machine slows at every node: {now - needed} of them, about {seconds:.1f} s, make no "
            f"difference of more than {tolerance.chord_mm:g} mm.",
            steps=("reduce-nodes",),
            marks=marks,
            focus=_nodes_of(found[0][0]),
        )


def _worth_asking(outlines: Sequence[Outline], tolerance: Tolerance) -> list[bool]:
    """Whether so many nodes could go one by one that enough of them may be excess: what the search then has to find."""
    paths = [outline.path for outline in outlines]
    owner = np.repeat(np.arange(len(paths)), [len(path.points) for path in paths])
    could_go = np.bincount(owner, mergeable_nodes(concat(paths), tolerance.chord_mm), minlength=len(paths))
    nodes = np.array([path.node_count for path in paths])
    return list(could_go >= CAUTION * np.maximum(tolerance.excess_nodes, tolerance.excess_share * nodes))


def _nodes_of(outline: Outline, count: int = 24) -> Box:
    """The place of an outline's first nodes: near enough to see them singly."""
    nodes = outline.path.points[:count, 3]
    return (*map(float, np.min(nodes, axis=0)), *map(float, np.max(nodes, axis=0)))  # type: ignore[return-value]
