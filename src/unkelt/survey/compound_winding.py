"""`compound.winding`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.geometry.measure import bounds
from unkelt.geometry.nesting import ring_nesting
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("compound.winding")
def compound_winding(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The fill rule decides which rings are holes. Another program may fill the counters."""
    for outline in sheet.outlines():
        if outline.look.fill is None or len(outline.path) < 2:
            continue
        nesting = ring_nesting(outline.path, workshop.ticket.tolerance.chord_mm / 2).nesting
        if nesting is None or nesting.rules_agree():
            continue
        drawn, other = ("even-odd", "nonzero") if outline.look.even_odd else ("nonzero", "even-odd")
        wrong = sum((nesting.windings() != 0) != (nesting.depths() % 2 == 0))
        yield Finding(
            code="compound.winding",
            level=Level.HOLD,
            items=(outline.id,),
            box=bounds(outline.path),
            value=float(wrong),
            unit="rings",
            headline=say_count("{count} ring depends on the fill rule", "{count} rings depend on the fill rule", wrong),
            detail=say("it is drawn by the {drawn} rule", drawn=drawn),
            message=say(
                "It is drawn by the {drawn} rule; software that fills by the {other} rule makes holes solid, or "
                "solids holes.",
                drawn=drawn,
                other=other,
            ),
            case="even-odd" if outline.look.even_odd else "nonzero",
        )
