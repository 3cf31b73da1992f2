"""Nodes edited by hand, one edit at a time. Nodes are named by subpath and number, both counted from 1: “2:7”.

What an edit doesn't touch stays to the last bit. A node taken out leaves its two segments as the one that holds their
shape best (geometry/reduce/fit.py).
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import end_tangents, halve, part, unit
from unkelt.geometry.path import CUBIC, LINE, QUAD, Floats, Ints, Path, concat
from unkelt.geometry.reduce.fit import fit_segments
from unkelt.messages import say

SMOOTH_COS = 0.9998
"""Handles that leave a node this nearly straight on are moved together."""


@dataclass(slots=True)
class _Subpath:
    """One subpath taken apart: its segments as cubics with the degree they were, changed in place."""

    points: list[Floats]
    degrees: list[int]
    closed: bool

    @classmethod
    def of(cls, path: Path) -> _Subpath:
        return cls([each.copy() for each in path.points], path.degrees.tolist(), bool(path.closed[0]))

    def path(self) -> Path:
        degrees = np.array(self.degrees, np.uint8)
        return Path(np.array(self.points), degrees, np.zeros(1, np.intp), np.array([self.closed]))

    @property
    def nodes(self) -> int:
        return len(self.points) + (0 if self.closed else 1)

    def into(self, node: int) -> int | None:
        """The segment that ends at a node, counted from 0."""
        if node > 0:
            return node - 1
        return len(self.points) - 1 if self.closed else None

    def out_of(self, node: int) -> int | None:
        return node if node < len(self.points) else None

    def place(self, node: int) -> Floats:
        out = self.out_of(node)
        return self.points[out][0] if out is not None else self.points[-1][3]

    def set_segment(self, index: int, cubic: Floats, degree: int) -> None:
        self.points[index], self.degrees[index] = cubic, degree

    def raised(self, index: int) -> Floats:
        """A segment as a cubic that may be changed."""
        if self.degrees[index] != CUBIC:
            self.points[index] = self.path().cubics()[index].copy()
            self.degrees[index] = CUBIC
        return self.points[index]


def nodes_named(path: Path, text: str) -> Ints:
    """The segments that start at the nodes of “1:4, 2:7”, counted from 0 over the whole path. Raises ValueError."""
    found = []
    for part_ in filter(None, re.split(r"[,;\s]+", text)):
        subpath, node = _named(path, part_)
        found.append(int(path.starts[subpath]) + node % int(path.counts[subpath]))
    return np.array(found, np.intp)


def _named(path: Path, text: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d+):(\d+)", text)
    if not match:
        raise ValueError(say("“{text}” is no node, such as “1:4”", text=text))
    subpath, node = int(match[1]) - 1, int(match[2]) - 1
    if not 0 <= subpath < len(path):
        raise ValueError(say("there is no subpath {subpath}", subpath=subpath + 1))
    if not 0 <= node < int(path.counts[subpath]) + (not path.closed[subpath]):
        raise ValueError(say("subpath {subpath} has no node {node}", subpath=subpath + 1, node=node + 1))
    return subpath, node


def node_places(path: Path) -> list[tuple[str, float, float]]:
    """The name of each node and where it is, in mm."""
    found = []
    for index in range(len(path)):
        nodes = _Subpath.of(path.subpath(index))
        for node in range(nodes.nodes):
            x, y = nodes.place(node).tolist()
            found.append((f"{index + 1}:{node + 1}", x, y))
    return found


def handle_places(path: Path, name: str) -> list[tuple[str, float, float]]:
    """The handles of a node, as “in” and “out”, where it has any that don't lie on it."""
    try:
        subpath, node = _named(path, name)
    except ValueError:
        return []
    nodes = _Subpath.of(path.subpath(subpath))
    found = []
    for way, segment, row in (("in", nodes.into(node), 2), ("out", nodes.out_of(node), 1)):
        if segment is not None and nodes.degrees[segment] != LINE:
            place = nodes.path().cubics()[segment][row]
            found.append((way, float(place[0]), float(place[1])))
    return found


Edit = Callable[[Path, list[str]], Path]


def edited(path: Path, edit: str) -> Path:
    """The path after one edit, as “move 1:4 12.5 30.2”: the words of `EDITS`, places in mm. Raises ValueError."""
    words = edit.split()
    if not words or words[0] not in EDITS:
        raise ValueError(say("“{text}” is no edit; there are: {listed}", text=edit.strip(), listed=", ".join(EDITS)))
    return EDITS[words[0]](path, words[1:])


def _changed(path: Path, index: int, change: Callable[[_Subpath], None]) -> Path:
    nodes = _Subpath.of(path.subpath(index))
    change(nodes)
    return concat([nodes.path() if at == index else path.subpath(at) for at in range(len(path))])


def _node_and_place(path: Path, words: list[str]) -> tuple[int, int, Floats]:
    if len(words) != 3:
        raise ValueError("it takes a node and a place, as “1:4 12.5 30.2”")
    subpath, node = _named(path, words[0])
    try:
        place = np.array([float(words[1]), float(words[2])])
    except ValueError:
        raise ValueError(say("“{words} {words_2}” is no place in mm", words=words[1], words_2=words[2])) from None
    if not np.isfinite(place).all() or np.abs(place).max() > 1e7:
        raise ValueError("the place lies beyond all drawing")
    return subpath, node, place


def _only_node(path: Path, words: list[str]) -> tuple[int, int]:
    if len(words) != 1:
        raise ValueError("it takes one node, as “1:4”")
    return _named(path, words[0])


def _move(path: Path, words: list[str]) -> Path:
    """A node with its handles."""
    subpath, node, place = _node_and_place(path, words)

    def change(nodes: _Subpath) -> None:
        by = place - nodes.place(node)
        for segment, end, handle in ((nodes.into(node), 3, 2), (nodes.out_of(node), 0, 1)):
            if segment is None:
                continue
            if nodes.degrees[segment] == QUAD:
                nodes.raised(segment)
            points = nodes.points[segment]
            points[end] += by
            points[handle] += by
            points[end] = place

    return _changed(path, subpath, change)


def _handle(path: Path, words: list[str], way: str) -> Path:
    """One handle of a node; where both lie straight on, the other turns with it."""
    subpath, node, place = _node_and_place(path, words)

    def change(nodes: _Subpath) -> None:
        own = nodes.into(node) if way == "in" else nodes.out_of(node)
        other = nodes.out_of(node) if way == "in" else nodes.into(node)
        if own is None:
            raise ValueError("an end of an open subpath has one handle")
        row, other_row = (2, 1) if way == "in" else (1, 2)
        at = nodes.place(node).copy()
        before = unit(nodes.raised(own)[row] - at)
        if other is not None and other != own and nodes.degrees[other] != LINE:
            opposite = nodes.raised(other)
            arm = opposite[other_row] - at
            if -float(before @ unit(arm)) > SMOOTH_COS:
                opposite[other_row] = at - unit(place - at) * np.hypot(*arm)
        nodes.raised(own)[row] = place

    return _changed(path, subpath, change)


def _take_out(path: Path, words: list[str]) -> Path:
    """A node, its two segments becoming the one that holds their shape best."""
    subpath, node = _only_node(path, words)

    def change(nodes: _Subpath) -> None:
        into, out = nodes.into(node), nodes.out_of(node)
        if into is None or out is None:  # an end of an open subpath goes with its segment
            if len(nodes.points) < 2:
                raise ValueError("nothing would be left of the subpath")
            gone = 0 if into is None else len(nodes.points) - 1
            del nodes.points[gone], nodes.degrees[gone]
            return
        if len(nodes.points) < 3:
            raise ValueError("nothing would be left of the subpath")
        whole = nodes.path()
        two = Path(whole.points[[into, out]], whole.degrees[[into, out]], np.zeros(1, np.intp), np.array([False]))
        cubic, degree = _one_for(two)
        nodes.set_segment(into, cubic, degree)
        del nodes.points[out], nodes.degrees[out]

    return _changed(path, subpath, change)


def _one_for(two: Path) -> tuple[Floats, int]:
    """The one segment that follows two best, with their outer ends and tangents; a line for two lines."""
    if (two.degrees == LINE).all():
        a, b = two.points[0, 0], two.points[1, 3]
        return np.stack([a, a, b, b]), LINE
    counts = np.full(2, 12, np.intp)
    samples, _ = flatten(two, 1.0, counts)
    start, end = end_tangents(two)
    found = fit_segments([samples], np.stack([start[0], end[1]])[None], 1e9)[0]
    if found is None:
        reach = np.linalg.norm(np.diff(samples, axis=0), axis=1).sum() / 3
        a, b = samples[0], samples[-1]
        return np.stack([a, a + start[0] * reach, b - end[1] * reach, b]), CUBIC
    return found[0].copy(), found[1]


def _add(path: Path, words: list[str]) -> Path:
    """A node in the middle of the segment after a node, or at another share of it; the curve stays."""
    if len(words) not in (1, 2):
        raise ValueError("it takes a node and, if wanted, how far to the next, as “1:4 0.25”")
    subpath, node = _named(path, words[0])
    try:
        share = float(words[1]) if len(words) == 2 else 0.5
    except ValueError:
        raise ValueError(say("“{words}” is no share between 0 and 1", words=words[1])) from None
    if not 0 < share < 1:
        raise ValueError("the share must lie between 0 and 1")

    def change(nodes: _Subpath) -> None:
        segment = nodes.out_of(node)
        if segment is None:
            raise ValueError("no segment follows an end")
        whole, degree = nodes.path().cubics()[segment], nodes.degrees[segment]
        if degree == LINE:
            a, b = whole[0], whole[3]
            middle = a + share * (b - a)
            pieces = [np.stack([a, a, middle, middle]), np.stack([middle, middle, b, b])]
        else:
            degree = CUBIC
            first, second = (part(whole, 0.0, share), part(whole, share, 1.0)) if share != 0.5 else halve(whole[None])
            pieces = [np.array(first).reshape(4, 2), np.array(second).reshape(4, 2)]
            pieces[1][0] = pieces[0][3]
        nodes.points[segment : segment + 1] = pieces
        nodes.degrees[segment : segment + 1] = [degree, degree]

    return _changed(path, subpath, change)


def _smooth(path: Path, words: list[str]) -> Path:
    """Both handles of a node on one line through it, each as long as it was."""
    subpath, node = _only_node(path, words)

    def change(nodes: _Subpath) -> None:
        into, out = nodes.into(node), nodes.out_of(node)
        if into is None or out is None or into == out:
            raise ValueError("an end of an open subpath can't be smooth")
        at = nodes.place(node)
        a, b = nodes.raised(into), nodes.raised(out)
        arms = a[2] - at, b[1] - at
        way = unit(unit(arms[1]) - unit(arms[0]))
        if not way.any():
            raise ValueError("its handles lie on each other")
        a[2], b[1] = at - way * np.hypot(*arms[0]), at + way * np.hypot(*arms[1])

    return _changed(path, subpath, change)


def _corner(path: Path, words: list[str]) -> Path:
    """Both handles of a node turned to its neighbours, a third of the way."""
    subpath, node = _only_node(path, words)

    def change(nodes: _Subpath) -> None:
        at = nodes.place(node)
        for segment, handle, far in ((nodes.into(node), 2, 0), (nodes.out_of(node), 1, 3)):
            if segment is not None and nodes.degrees[segment] != LINE:
                points = nodes.raised(segment)
                points[handle] = at + (points[far] - at) / 3

    return _changed(path, subpath, change)


def _line(path: Path, words: list[str]) -> Path:
    """The segment after a node as a straight line."""
    subpath, node = _only_node(path, words)

    def change(nodes: _Subpath) -> None:
        segment = nodes.out_of(node)
        if segment is None:
            raise ValueError("no segment follows an end")
        a, b = nodes.points[segment][0], nodes.points[segment][3]
        nodes.set_segment(segment, np.stack([a, a, b, b]), LINE)

    return _changed(path, subpath, change)


def _start(path: Path, words: list[str]) -> Path:
    """A closed subpath started at a node."""
    subpath, node = _only_node(path, words)
    if not path.closed[subpath]:
        raise ValueError("an open subpath starts at its end")

    def change(nodes: _Subpath) -> None:
        nodes.points = nodes.points[node:] + nodes.points[:node]
        nodes.degrees = nodes.degrees[node:] + nodes.degrees[:node]

    return _changed(path, subpath, change)


def _reverse(path: Path, words: list[str]) -> Path:
    """A subpath, by its number, run the other way."""
    if len(words) != 1 or not words[0].isdigit() or not 1 <= int(words[0]) <= len(path):
        raise ValueError(say("it takes a subpath from 1 to {count}", count=len(path)))
    return path.reversed(np.arange(len(path)) == int(words[0]) - 1)


def _split(path: Path, words: list[str]) -> Path:
    """A closed subpath opened at a node, an open one cut in two there."""
    subpath, node = _only_node(path, words)
    whole = path.subpath(subpath)
    if path.closed[subpath]:
        order = np.roll(np.arange(len(whole.points)), -node)
        pieces = [Path(whole.points[order], whole.degrees[order], np.zeros(1, np.intp), np.array([False]))]
    else:
        if not 0 < node < len(whole.points):
            raise ValueError("it is an end already")
        cuts = (slice(0, node), slice(node, None))
        pieces = [Path(whole.points[c], whole.degrees[c], np.zeros(1, np.intp), np.array([False])) for c in cuts]
    others = [path.subpath(at) for at in range(len(path))]
    return concat([*others[:subpath], *pieces, *others[subpath + 1 :]])


def _join(path: Path, words: list[str]) -> Path:
    """Two ends of open subpaths by a line, or on one place where they meet; an open subpath with itself is closed."""
    if len(words) != 2:
        raise ValueError("it takes two ends, as “1:1 2:5”")
    (a, a_node), (b, b_node) = _named(path, words[0]), _named(path, words[1])
    ends = []
    for subpath, node in ((a, a_node), (b, b_node)):
        if path.closed[subpath] or node not in (0, int(path.counts[subpath])):
            raise ValueError(say("“{subpath}:{node}” is no end of an open subpath", subpath=subpath + 1, node=node + 1))
        ends.append(node == 0)
    if a == b:
        if a_node == b_node:
            raise ValueError("these are the same end")
        whole = _Subpath.of(path.subpath(a))
        _bridge(whole, whole.points[0][0])
        whole.closed = True
        return concat([whole.path() if at == a else path.subpath(at) for at in range(len(path))])
    first = path.subpath(a).reversed() if ends[0] else path.subpath(a)
    second = path.subpath(b) if ends[1] else path.subpath(b).reversed()
    whole, more = _Subpath.of(first), _Subpath.of(second)
    _bridge(whole, more.points[0][0])
    whole.points += more.points
    whole.degrees += more.degrees
    rest = [path.subpath(at) for at in range(len(path)) if at not in (a, b)]
    return concat([whole.path(), *rest])


def _bridge(nodes: _Subpath, to: Floats) -> None:
    end = nodes.points[-1][3]
    if np.array_equal(end, to):
        return
    nodes.points.append(np.stack([end, end, to, to]))
    nodes.degrees.append(LINE)


EDITS: dict[str, Edit] = {
    "move": _move,
    "in": lambda path, words: _handle(path, words, "in"),
    "out": lambda path, words: _handle(path, words, "out"),
    "take-out": _take_out,
    "add": _add,
    "smooth": _smooth,
    "corner": _corner,
    "line": _line,
    "start": _start,
    "reverse": _reverse,
    "split": _split,
    "join": _join,
}
