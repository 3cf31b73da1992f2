"""`path.open`"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from unkelt.geometry.measure import Box, join_boxes
from unkelt.sheet.appearance import Operation, has_visible_stroke
from unkelt.sheet.model import Sheet
from unkelt.survey.check import Workshop, check
from unkelt.survey.finding import Finding, Level


@check("path.open")
def path_open(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A tool lifts at an open end, and the part stays attached there."""
    ticket = workshop.ticket
    for outline in sheet.outlines():
        operation = ticket.operation(outline.look)
        if operation not in (Operation.CUT, None):
            continue
        if outline.look.fill is None and has_visible_stroke(outline.look, ticket.machine.hairline_mm, bool(ticket.key)):
            continue  # its outline will be closed
        gaps = outline.path.end_gaps_mm()
        drawn = np.array([bool(np.ptp(part.points, axis=(0, 1)).any()) for part in outline.path.subpaths()], bool)
        open_ones = np.flatnonzero(~outline.path.closed & drawn)
        if not len(open_ones):
            continue
        widest = float(gaps[open_ones].max())
        joinable = widest <= ticket.tolerance.joint_mm
        meeting = widest <= ticket.tolerance.engine_noise_mm
        # A stroke with its ends far apart and no key to say it is cut may be meant as a line.
        meant = outline.look.fill is None and not joinable and not ticket.key
        marks: list[Box] = []
        for index in open_ones:
            part = outline.path.subpath(int(index)).points
            ends = np.array([part[0, 0], part[-1, 3]])
            (x0, y0), (x1, y1) = ends.min(axis=0).tolist(), ends.max(axis=0).tolist()
            marks.append((x0, y0, x1, y1))
        yield Finding(
            code="path.open",
            level=Level.WARN if meant or meeting else Level.HOLD,
            items=(outline.id,),
            box=join_boxes(marks),
            value=widest,
            unit="mm",
            headline="An open subpath" if len(open_ones) == 1 else f"{len(open_ones)} open subpaths",
            detail="its ends meet without being closed" if meeting else f"ends {widest:.2f} mm apart",
            message="Its ends meet, but it is not closed: importing may leave it unfilled, or take it for a line."
            if meeting
            else f"The tool lifts {widest:.2f} mm short of where it began, and the part stays attached there.",
            steps=("join-ends", "close-subpath") if joinable else ("close-subpath",),
            marks=tuple(marks),
        )
