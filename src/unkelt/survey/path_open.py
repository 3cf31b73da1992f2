"""`path.open`"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from unkelt.anatomy.chains import Chain, chains
from unkelt.anatomy.left_guides import guides
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import Box, bounds, join_boxes, subpath_bounds
from unkelt.geometry.path import Path
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Operation, has_visible_stroke
from unkelt.sheet.model import Outline, Sheet
from unkelt.sheet.naming import called
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("path.open")
def path_open(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A tool lifts at an open end, and the part stays attached there."""
    ticket = workshop.ticket
    outlines = [outline for outline in sheet.outlines() if _may_be_broken(outline, workshop)]
    if not outlines:
        return
    left_over = {left.outline.id for left in guides(sheet, ticket) if not left.cut}  # a matter of path.guide
    outlines = [outline for outline in outlines if outline.id not in left_over]
    several = [chain for chain in chains(outlines, ticket.tolerance.joint_mm) if len(chain.links) > 1]
    in_chains = {link.place for chain in several for link in chain.links}
    at_first: dict[int, list[Chain]] = {}
    for chain in several:
        at_first.setdefault(min(chain.outlines), []).append(chain)
    neighbours: _Neighbours | None = None
    for number, outline in enumerate(outlines):
        for chain in at_first.get(number, ()):
            yield _fragments(chain, outlines, workshop)
        boxes = subpath_bounds(outline.path)
        drawn = (boxes[:, 2:] > boxes[:, :2]).any(axis=1)  # lone points are scraps
        alone = [
            index for index in np.flatnonzero(~outline.path.closed & drawn).tolist() if (number, index) not in in_chains
        ]
        if alone:
            neighbours = neighbours or _Neighbours(sheet, workshop)
            alone = [index for index in alone if not neighbours.hold(outline, index)]
        if alone:
            yield _single(outline, alone, workshop)


def _may_be_broken(outline: Outline, workshop: Workshop) -> bool:
    """Whether it has an open subpath that is cut, and isn't a stroke whose outline will be closed."""
    ticket = workshop.ticket
    if outline.path.closed.all() or ticket.operation(outline.look) not in (Operation.CUT, None):
        return False
    hairline, keyed = ticket.machine.hairline_mm, bool(ticket.key)
    return outline.look.fill is not None or not has_visible_stroke(outline.look, hairline, keyed)


def _single(outline: Outline, indices: list[int], workshop: Workshop) -> Finding:
    """Subpaths of one outline that join with nothing but their own other end."""
    tolerance = workshop.ticket.tolerance
    marks = [_between_ends(outline.path.subpath(index)) for index in indices]
    widest = float(outline.path.end_gaps_mm()[indices].max())
    joinable = widest <= tolerance.joint_mm
    meeting = widest <= tolerance.engine_noise_mm
    # A stroke with its ends far apart and no key to say it is cut may be meant as a line.
    meant = outline.look.fill is None and not joinable and not workshop.ticket.key
    return Finding(
        code="path.open",
        level=Level.WARN if meant or meeting else Level.HOLD,
        items=(outline.id,),
        box=join_boxes(marks),
        value=widest,
        unit="mm",
        headline=say_count("An open subpath", "{count} open subpaths", len(indices)),
        detail="its ends meet without being closed" if meeting else say("ends {widest:.2f} mm apart", widest=widest),
        message="Its ends meet but the subpath is not closed. Importing software may leave it unfilled or take it "
        "for a line."
        if meeting
        else say(
            "The tool lifts {widest:.2f} mm before its starting point, and the part stays attached there.",
            widest=widest,
        ),
        case="near" if joinable else "apart",
        marks=tuple(marks),
    )


def _fragments(chain: Chain, outlines: Sequence[Outline], workshop: Workshop) -> Finding:
    """Several subpaths that make one shape."""
    parts = [outlines[number].path.subpath(index) for number, index in (link.place for link in chain.links)]
    ids = tuple(outlines[number].id for number in chain.outlines)
    widest, count = chain.widest_mm, len(parts)
    meeting = widest <= workshop.ticket.tolerance.engine_noise_mm
    shape = "one closed shape" if chain.closes else "one line"
    where = (
        say(" of {listed}", listed=", ".join(called(outlines[number]) for number in chain.outlines))
        if len(ids) > 1
        else ""
    )
    return Finding(
        code="path.open",
        level=Level.WARN if meeting else Level.HOLD,
        items=ids,
        box=join_boxes([box for part in parts if (box := bounds(part))]),
        value=widest,
        unit="mm",
        headline=say("{count} open subpaths make {shape}", count=count, shape=shape),
        detail="their ends meet without being joined"
        if meeting
        else say("ends up to {widest:.2f} mm apart", widest=widest),
        message=say(
            "{count} open subpaths{where} make {shape}, but aren't joined: the tool lifts at each of their ends.",
            count=count,
            where=where,
            shape=shape,
        ),
        case="parts",
        marks=tuple(_between_ends(part) for part in parts),
    )


class _Neighbours:
    """The lines of a sheet, to ask whether an open subpath ends on others of its operation."""

    def __init__(self, sheet: Sheet, workshop: Workshop) -> None:
        self.workshop, self.within = workshop, workshop.ticket.tolerance.same_shape_mm
        self.outlines = [outline for outline in sheet.outlines() if len(outline.path)]
        self.tree = shapely.STRtree([lines(outline.path, self.within / 2) for outline in self.outlines])

    def hold(self, outline: Outline, index: int) -> bool:
        """Whether both ends lie on other lines of the same material: a part that shares its edge with a neighbour. One
        that ends where it began doesn't, whatever else goes through that place.
        """
        part = outline.path.subpath(index).points
        if np.hypot(*(part[0, 0] - part[-1, 3])) <= self.within:
            return False
        ends = shapely.points([part[0, 0], part[-1, 3]])
        end, other = self.tree.query(ends, predicate="dwithin", distance=self.within)
        materials = set(self.workshop.ticket.materials_of(outline.look))
        held = {
            at
            for at, found in zip(end.tolist(), other.tolist(), strict=True)
            if self.outlines[found] is not outline
            and materials & set(self.workshop.ticket.materials_of(self.outlines[found].look))
        }
        return len(held) == 2


def _between_ends(part: Path) -> Box:
    ends = np.array([part.points[0, 0], part.points[-1, 3]])
    (x0, y0), (x1, y1) = ends.min(axis=0).tolist(), ends.max(axis=0).tolist()
    return x0, y0, x1, y1
