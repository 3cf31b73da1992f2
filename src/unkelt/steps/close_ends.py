"""`join-ends` and `close-subpath`: two ways to close what was left open."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np
import shapely

from unkelt.account.changes import Change, Reason
from unkelt.account.declare import of_lines, within
from unkelt.anatomy.chains import Chain, Link, chains, joined
from unkelt.errors import NothingToDo
from unkelt.geometry.flatten import lines
from unkelt.geometry.path import Path, closed_by_line, concat
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Item, Outline, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Joined(Evidence):
    """Subpaths closed and joined, over the widest gap (mm)."""

    subpaths_closed: int
    subpaths_joined: int | None = None
    widest_gap_mm: float

    def caption(self) -> str:
        return say_count("{count} subpath closed", "{count} subpaths closed", self.subpaths_closed)


@step(
    "join-ends",
    "Join the ends",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    lines="open",
    likely=On.OUTLINES,
    safe=True,
    by_length=True,
    keeps_lines=False,
)
def join_ends(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    limit: Annotated[
        float | None,
        "ends further apart than this stay open; without it, the standard 0.2 mm",
        Field("Largest gap", first=True),
    ] = None,
) -> Outcome:
    """Joins open ends that should meet, the nearest first: of one subpath, or of several that make one shape.

    Both ends move to the point halfway between them. Parts of several outlines become part of the first. Guarantee:
    no end moves by more than half the limit, and nothing else moves.
    """
    reach = workshop.ticket.tolerance.joint_mm if limit is None else limit
    chosen: list[Outline] = targets("join-ends", sheet, items, Outline)
    found = chains(chosen, reach)
    if not found:
        raise NothingToDo("join-ends", say("there are no open ends within {reach:g} mm of each other", reach=reach))
    taken: dict[int, set[int]] = {}
    replaced: dict[tuple[int, int], Path] = {}
    for chain in found:
        for link in chain.links:
            taken.setdefault(link.place[0], set()).add(link.place[1])
        replaced[min(link.place for link in chain.links)] = joined(chain, chosen)
    changes: dict[str, tuple[Item, ...]] = {}
    for number, gone in taken.items():
        outline = chosen[number]
        parts = [
            replaced.get((number, index), part)
            for index, part in enumerate(outline.path.subpaths())
            if index not in gone or (number, index) in replaced
        ]
        changes[outline.id] = (replace(outline, path=concat(parts)),) if parts else ()
    widest = max(chain.widest_mm for chain in found)
    evidence = Joined(
        subpaths_closed=sum(chain.closes for chain in found),
        subpaths_joined=sum(len(chain.links) for chain in found),
        widest_gap_mm=round(widest, 5),
        max_deviation_mm=round(widest / 2, 5),
    )
    declared = [change for chain in found for change in _declared(chain, chosen, workshop)]
    return Outcome(sheet.replaced(changes), tuple(changes), evidence, tuple(declared))


def _declared(chain: Chain, outlines: Sequence[Outline], workshop: Workshop) -> Iterator[Change]:
    """Around each joint, as far as its ends' own segments reach, lines move by up to half the gap. What was an open
    line of a fill is its edge afterwards.
    """
    ticket = workshop.ticket
    for link in chain.links:
        outline = outlines[link.place[0]]
        if outline.look.fill is not None and outline.look.stroke is None:
            part = outline.path.subpath(link.place[1])
            yield replace(
                of_lines(Reason.JOINED, [part], ticket.materials_of(outline.look), ticket), amount=link.gap_mm
            )
    count = len(chain.links) if chain.closes else len(chain.links) - 1
    for number, link in enumerate(chain.links[:count]):
        following = chain.links[(number + 1) % len(chain.links)]
        ends = [_end_segment(link, outlines, last=True), _end_segment(following, outlines, last=False)]
        where = shapely.union_all([lines(end, ticket.tolerance.chord_mm).buffer(link.gap_mm + 1e-3) for end in ends])
        materials = ticket.materials_of(outlines[link.place[0]].look)
        yield within(Reason.JOINED, where, materials, amount=link.gap_mm, unit="mm")


def _end_segment(link: Link, outlines: Sequence[Outline], *, last: bool) -> Path:
    """The segment at one end of a subpath, as the chain runs through it."""
    path = outlines[link.place[0]].path.subpath(link.place[1])
    at = -1 if last != link.backwards else 0
    segment = path.points[at][None]
    return Path(segment, path.degrees[[at]], np.zeros(1, np.intp), np.zeros(1, bool))


@step(
    "close-subpath",
    "Close with a line",
    on=On.OUTLINES,
    purpose=Purpose.CLEAN,
    lines="open",
    likely=On.OUTLINES,
    redraws=Reason.JOINED,
)
def close_subpath(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:  # every step has one
    """Closes open subpaths with a straight line from the last node to the first. Nothing else moves."""
    chosen: list[Outline] = targets("close-subpath", sheet, items, Outline)
    changes: dict[str, tuple[Item, ...]] = {}
    count, widest = 0, 0.0
    for outline in chosen:
        gaps = outline.path.end_gaps_mm()
        open_ones = ~outline.path.closed & (outline.path.counts > 1)
        if not open_ones.any():
            continue
        parts = [
            closed_by_line(part) if is_open else part
            for part, is_open in zip(outline.path.subpaths(), open_ones, strict=True)
        ]
        changes[outline.id] = (replace(outline, path=concat(parts)),)
        count += int(open_ones.sum())
        widest = max(widest, float(gaps[open_ones].max()))
    if not count:
        raise NothingToDo("close-subpath", "there is no open subpath")
    evidence = Joined(subpaths_closed=count, widest_gap_mm=round(widest, 5), max_deviation_mm=0.0)
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)
