"""Open ends that belong together: subpaths that make one shape when their ends are joined."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from unkelt.geometry.near import pairs_within
from unkelt.geometry.path import LINE, Floats, Path
from unkelt.sheet.model import Outline

Place = tuple[int, int]
"""An outline's index in the sequence, and one of its subpaths."""

SAME_PLACES = 3
"""Gaps that agree to so many places, in mm, are the same."""


@dataclass(frozen=True, slots=True)
class Link:
    """A subpath of a chain, which way round it runs there, and how far its end lies from the next one's start (mm)."""

    place: Place
    backwards: bool
    gap_mm: float


@dataclass(frozen=True, slots=True)
class Chain:
    """Subpaths in order. In a closed chain the last joins the first; in an open one its last gap means nothing."""

    links: tuple[Link, ...]
    closes: bool

    @property
    def widest_mm(self) -> float:
        """Between ends that belong together."""
        gaps = [link.gap_mm for link in self.links]
        return max(gaps if self.closes else gaps[:-1], default=0.0)

    @property
    def outlines(self) -> tuple[int, ...]:
        """The numbers of the outlines that its subpaths are of."""
        return tuple(dict.fromkeys(link.place[0] for link in self.links))


def chains(outlines: Sequence[Outline], reach_mm: float) -> list[Chain]:
    """Chains of open subpaths whose ends lie within reach of each other; alike painted ones only, nearest ends first.

    A subpath that joins with nothing is no chain; one whose own two ends meet is a chain of one, even where a copy of
    it ends in the same place.
    """
    places = [
        (number, int(index))
        for number, outline in enumerate(outlines)
        for index in np.flatnonzero(~outline.path.closed)
        if np.ptp(outline.path.subpath(int(index)).points, axis=(0, 1)).any()
    ]
    if not places:
        return []
    ends = np.concatenate([_ends(outlines[number].path)[index] for number, index in places])  # 2k start, 2k + 1 end
    pairs = pairs_within(ends, reach_mm)
    apart = np.hypot(*(ends[pairs[:, 0]] - ends[pairs[:, 1]]).T)
    partner: dict[int, tuple[int, float]] = {}
    others = pairs[:, 0] // 2 != pairs[:, 1] // 2
    for k in np.lexsort((pairs[:, 1], pairs[:, 0], others, apart.round(SAME_PLACES))).tolist():
        a, b = (int(end) for end in pairs[k])
        alike = outlines[places[a // 2][0]].look.painted == outlines[places[b // 2][0]].look.painted
        lone = a // 2 == b // 2 and len(outlines[places[a // 2][0]].path.subpath(places[a // 2][1]).points) == 1
        if alike and not lone and a not in partner and b not in partner:
            partner[a], partner[b] = (b, float(apart[k])), (a, float(apart[k]))
    return list(_walked(places, partner))


def joined(chain: Chain, outlines: Sequence[Outline]) -> Path:
    """The chain as one subpath: neighbouring ends moved to the middle between them, nothing else."""
    parts = []
    for link in chain.links:
        number, index = link.place
        part = outlines[number].path.subpath(index)
        parts.append(part.reversed() if link.backwards else part)
    points = np.concatenate([part.points for part in parts])
    degrees = np.concatenate([part.degrees for part in parts])
    last = np.cumsum([len(part.points) for part in parts]) - 1
    first = np.concatenate([[0], last[:-1] + 1])
    count = len(parts) if chain.closes else len(parts) - 1
    for k in range(count):
        a, b = last[k], first[(k + 1) % len(parts)]
        middle = (points[a, 3] + points[b, 0]) / 2
        points[a, 3] = points[b, 0] = middle
        if degrees[a] == LINE:
            points[a, 2] = middle
        if degrees[b] == LINE:
            points[b, 1] = middle
    return Path(points, degrees, np.zeros(1, np.intp), np.array([chain.closes]))


def _walked(places: list[Place], partner: dict[int, tuple[int, float]]) -> Iterator[Chain]:
    seen: set[int] = set()
    # Chains that have a loose end first, from that end; what is then left closes.
    starts = [end for end in range(2 * len(places)) if end not in partner] + list(range(0, 2 * len(places), 2))
    for start in starts:
        if start // 2 in seen:
            continue
        links: list[Link] = []
        end, closes = start, False
        while True:
            seen.add(end // 2)
            out = end ^ 1
            following, gap = partner.get(out, (None, 0.0))
            links.append(Link(places[end // 2], bool(end % 2), gap))
            if following is None:
                break
            if following // 2 in seen:
                closes = following == start
                break
            end = following
        if closes or len(links) > 1:
            yield Chain(tuple(links), closes)


def _ends(path: Path) -> Floats:
    """(s, 2, 2): first and last node of each subpath."""
    return np.stack([path.points[path.starts, 0], path.points[path.stops - 1, 3]], axis=1)
