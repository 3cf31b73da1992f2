"""`nodes.excess`"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np

from unkelt.anatomy.words import words
from unkelt.geometry.alike import shape_key
from unkelt.geometry.cache import Topic
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.path import Ints, Path, concat
from unkelt.geometry.reduce.mergeable import mergeable_nodes
from unkelt.geometry.reduce.reduce import reduce_many
from unkelt.job.budget import RESERVE, Budget
from unkelt.job.workshop import Workshop
from unkelt.language import grouped
from unkelt.messages import say
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level

CAUTION = 0.35
"""The quick look may miss some of the nodes that could go; the search is asked when it sees this share of enough."""


@check("nodes.excess", may_hold=False)
def nodes_excess(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The shape has more nodes than it needs at the ticket's tolerance. Each node costs time and marks the edge."""
    tolerance = workshop.ticket.tolerance
    word_of = {item_id: ids for ids in (word.ids for word in words(sheet)) for item_id in ids}
    excess: dict[tuple[str, ...], list[tuple[Outline, int]]] = {}
    asked = [
        outline
        for outline in sheet.outlines()
        if workshop.ticket.operation(outline.look) is not Operation.LEAVE
        and outline.path.node_count >= tolerance.excess_nodes
    ]
    budget = Budget(sheet, workshop.ticket)
    allowed = [budget.left_mm(outline.moved_mm, RESERVE) for outline in asked]  # as `reduce-nodes` has it
    could_go = _could_go(asked, allowed)
    nodes = np.array([outline.path.node_count for outline in asked])
    worth = could_go >= CAUTION * np.maximum(tolerance.excess_nodes, tolerance.excess_share * nodes)
    allowed = [left for left, worthy in zip(allowed, worth, strict=True) if worthy]
    asked = [outline for outline, worthy in zip(asked, worth, strict=True) if worthy]
    counts, estimated = _needed([outline.path for outline in asked], could_go[worth], allowed)
    about = "about " if estimated else ""
    for outline, needed in zip(asked, counts, strict=True):
        now = outline.path.node_count
        if now - needed >= max(tolerance.excess_nodes, tolerance.excess_share * now):
            excess.setdefault(word_of.get(outline.id, (outline.id,)), []).append((outline, needed))
    whole = {outline.id: outline.path.node_count for outline in sheet.outlines()}
    for word, found in excess.items():  # one finding a word: its letters were made the same way
        nodes_of_word = sum(whole.get(item_id, 0) for item_id in word)
        gone = sum(outline.path.node_count - needed for outline, needed in found)
        if gone < tolerance.excess_share * nodes_of_word:
            # A word counts as one, bound or not; but a letter of which half can go stands out of any.
            found = [(outline, needed) for outline, needed in found if needed <= outline.path.node_count / 2]
        if not found:
            continue
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
            headline=say(
                "{now} nodes; {about}{needed} are enough", now=grouped(now), about=about, needed=grouped(needed)
            ),
            detail=say("at {chord_mm:g} mm; about {seconds:.1f} s saved", chord_mm=tolerance.chord_mm, seconds=seconds),
            message=say(
                "The machine slows down at every node. Without {about}{now} of these nodes the line changes by at most "
                "{chord_mm:g} mm and the job saves about {seconds:.1f} s.",
                about=about,
                now=now - needed,
                seconds=seconds,
                chord_mm=tolerance.chord_mm,
            ),
            marks=marks,
            focus=_nodes_of(found[0][0]),
        )


LARGE = 50_000
"""On sheets with more segments every third node is looked at, and stands for three."""


def _could_go(outlines: Sequence[Outline], allowed_mm: Sequence[float]) -> Ints:
    """(o,) how many nodes of each could go one by one within its tolerance: what the search then has to find."""
    every = 3 if sum(len(outline.path.points) for outline in outlines) > LARGE else 1
    result = np.zeros(len(outlines), np.intp)
    for tolerance in dict.fromkeys(allowed_mm):
        members = [index for index, allowed in enumerate(allowed_mm) if allowed == tolerance]
        paths = [outlines[index].path for index in members]
        owner = np.repeat(np.arange(len(paths)), [len(path.points) for path in paths])
        found = mergeable_nodes(concat(paths), tolerance, every)
        result[members] = every * np.bincount(owner, found, minlength=len(paths)).astype(np.intp)
    return result


SEARCHED, SAMPLED = 6_000, 1_000
"""On sheets with more segments than the first to ask about, the search is made for the second, and the rest is
estimated from what it finds.
"""


_COUNTED: Topic[int] = Topic("nodes that a shape needs", 20_000)


def _needed(paths: list[Path], could_go: Ints, allowed_mm: Sequence[float]) -> tuple[list[int], bool]:
    """How many nodes each path needs within its tolerance, and whether some of that is an estimate.

    The search is made once for paths that are the same but for their place, as the letters of a long text are.
    """
    lead: dict[tuple[bytes, float], int] = {}
    same = [lead.setdefault((shape_key(path), allowed_mm[index]), index) for index, path in enumerate(paths)]
    leads = sorted(set(same))
    segments = np.array([len(paths[index].points) for index in leads])
    share = math.ceil(segments.sum() / SAMPLED) if segments.sum() > SEARCHED else 1
    searched = leads[::share]
    counts = _COUNTED.get_many(
        [(shape_key(paths[index]), allowed_mm[index]) for index in searched],
        lambda new: _searched([paths[searched[k]] for k in new], [allowed_mm[searched[k]] for k in new]),
    )
    needed = dict(zip(searched, counts, strict=True))
    left = [index for index in leads if index not in needed]
    needed |= dict(zip(left, _estimated(paths, could_go, searched, counts, left), strict=True))
    return [needed[index] for index in same], share > 1


def _estimated(
    paths: Sequence[Path], could_go: Ints, searched: Sequence[int], counts: Sequence[int], asked: Sequence[int]
) -> list[int]:
    """How many nodes paths need, after others of the same sheet, whose counts are known.

    By least squares: so much of all nodes goes, and so much of those that could go one by one. A subpath keeps two.
    """
    if not asked:
        return []
    nodes = np.array([path.node_count for path in paths])
    seen = np.stack([nodes, could_go], axis=1).astype(float)
    shares = np.linalg.lstsq(seen[searched], nodes[searched] - np.array(counts, float), rcond=None)[0]
    fewest = np.minimum([2 * len(path) for path in paths], nodes)
    return np.clip(np.round(nodes - seen @ shares), fewest, nodes).astype(int)[asked].tolist()


def _searched(paths: Sequence[Path], allowed_mm: Sequence[float]) -> list[int]:
    """The node counts that the certified search comes to."""
    counts = [0] * len(paths)
    for tolerance in dict.fromkeys(allowed_mm):
        members = [index for index, allowed in enumerate(allowed_mm) if allowed == tolerance]
        found = reduce_many([paths[index] for index in members], tolerance)
        for index, reduced in zip(members, found, strict=True):
            counts[index] = reduced.path.node_count
    return counts


def _nodes_of(outline: Outline, count: int = 24) -> Box:
    """The place of an outline's first nodes: near enough to see them singly."""
    nodes = outline.path.points[:count, 3]
    return (*map(float, np.min(nodes, axis=0)), *map(float, np.max(nodes, axis=0)))  # type: ignore[return-value]
