"""`overlap.gap`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.anatomy.joints import missed_joints
from unkelt.anatomy.words import Word, words
from unkelt.geometry.measure import join_boxes
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("overlap.gap", may_hold=False)
def overlap_gap(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Pieces that should join nearly touch. The word comes apart there, or the tool burns through."""
    in_words = words(sheet)
    known = {item_id for word in in_words for item_id in word.ids}
    singles = [
        Word((outline,), outline.id)
        for outline in sheet.outlines()
        if outline.id not in known and len(outline.path) > 1
    ]
    for word in (*in_words, *singles):
        found = missed_joints(word.outlines, workshop.ticket)
        if not found:
            continue
        marks = tuple(missed.box for missed in found)
        widest = max(found, key=lambda missed: missed.gap_mm)
        touching = widest.gap_mm <= workshop.ticket.tolerance.engine_noise_mm
        yield Finding(
            code="overlap.gap",
            level=Level.WARN,
            items=tuple(dict.fromkeys(item for missed in found for item in missed.items)),
            box=join_boxes(list(marks)),
            value=widest.gap_mm,
            unit="mm",
            headline=say_count("A joint missed", "{count} joints missed", len(found)),
            detail="they touch without overlapping" if touching else say("{gap_mm:.2f} mm apart", gap_mm=widest.gap_mm),
            message="Two pieces touch in a single point. Nothing holds them together."
            if touching
            else say(
                "Two pieces that should join are {gap_mm:.2f} mm apart. The strip between them tears or burns away, "
                "and nothing holds them together.",
                gap_mm=widest.gap_mm,
            ),
            marks=marks,
        )
