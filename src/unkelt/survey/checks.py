"""All checks, in the order of the six questions."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from unkelt.geometry.measure import find_boxes
from unkelt.geometry.region import regions
from unkelt.job.workshop import Workshop
from unkelt.progress import Progress
from unkelt.sharing import in_two
from unkelt.sheet.model import Sheet
from unkelt.survey.check import Check
from unkelt.survey.compound_counter_apart import compound_counter_apart
from unkelt.survey.compound_loose import compound_loose
from unkelt.survey.compound_winding import compound_winding
from unkelt.survey.content import content
from unkelt.survey.finding import Finding, Level
from unkelt.survey.fine import fine
from unkelt.survey.job_empty import job_empty
from unkelt.survey.line import line
from unkelt.survey.nodes_crowded import nodes_crowded
from unkelt.survey.nodes_excess import nodes_excess
from unkelt.survey.nodes_spike import nodes_spike
from unkelt.survey.overlap_gap import overlap_gap
from unkelt.survey.overlap_items import overlap_items
from unkelt.survey.overlap_self import overlap_self
from unkelt.survey.path_duplicate import path_duplicate
from unkelt.survey.path_guide import path_guide
from unkelt.survey.path_open import path_open
from unkelt.survey.path_shared_edge import path_shared_edge
from unkelt.survey.path_stray import path_stray
from unkelt.survey.piece_unheld import piece_unheld
from unkelt.survey.place import place
from unkelt.survey.place_mirror import place_mirror
from unkelt.survey.size_frame import size_frame
from unkelt.survey.size_off_ticket import size_off_ticket
from unkelt.survey.size_units import size_units
from unkelt.survey.stroke_visible import stroke_visible
from unkelt.survey.text_face_versions import text_face_versions
from unkelt.survey.text_licence import text_licence
from unkelt.survey.text_live import text_live
from unkelt.survey.text_missing import text_missing

CHECKS: tuple[Check, ...] = (
    text_live,
    text_missing,
    text_licence,
    text_face_versions,
    content,
    job_empty,
    overlap_items,
    overlap_self,
    overlap_gap,
    compound_loose,
    compound_winding,
    compound_counter_apart,
    piece_unheld,
    stroke_visible,
    path_open,
    path_duplicate,
    path_shared_edge,
    path_stray,
    path_guide,
    nodes_excess,
    nodes_crowded,
    nodes_spike,
    fine,
    size_units,
    size_off_ticket,
    size_frame,
    place,
    place_mirror,
    line,
)

WORTH_A_COPY = 2000
"""From so many segments on, two processes look."""


def survey(sheet: Sheet, workshop: Workshop, progress: Progress | None = None) -> tuple[Finding, ...]:
    """Everything that all checks find, in the order of the questions."""
    _look_once(sheet, workshop)

    looked: list[Check] = []

    def look(checks: Sequence[Check]) -> list[tuple[Finding, ...]]:
        found = []
        for check in checks:
            if progress:
                progress(len(looked) / len(CHECKS), check.what)
            found.append(tuple(check.look(sheet, workshop)))
            looked.append(check)
        return found

    segments = sum(len(outline.path.points) for outline in sheet.outlines())
    last_first = CHECKS[::-1]  # those of nodes take longest
    found = in_two(look, last_first, [segments / len(CHECKS)] * len(CHECKS), WORTH_A_COPY, parts=len(CHECKS))
    return tuple(itertools.chain.from_iterable(reversed(found)))


def holding(sheet: Sheet, workshop: Workshop) -> tuple[Finding, ...]:
    """Only what holds; nobody looks for what never does."""
    _look_once(sheet, workshop)
    looks = [check.look for check in CHECKS if check.may_hold]
    return tuple(finding for look in looks for finding in look(sheet, workshop) if finding.level is Level.HOLD)


def _look_once(sheet: Sheet, workshop: Workshop) -> None:
    """What nearly every check asks of every outline, found for all of them at once."""
    outlines = sheet.outlines()
    find_boxes([outline.path for outline in outlines])
    regions([(each.path, each.look.even_odd) for each in outlines], workshop.ticket.tolerance.chord_mm / 2)


def find_code(code: str, sheet: Sheet, workshop: Workshop) -> tuple[Finding, ...]:
    """The findings of one code only."""
    looks = [check.look for check in CHECKS if code in check.codes]
    _look_once(sheet, workshop)
    return tuple(finding for look in looks for finding in look(sheet, workshop) if finding.code == code)
