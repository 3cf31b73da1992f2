"""`size.off-ticket`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.extent import measured_box
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("size.off-ticket")
def size_off_ticket(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The drawing does not have the size in the ticket. Unkelt checks this when all text is outlines."""
    ticket = workshop.ticket
    box = measured_box(sheet, ticket)
    if box is None or sheet.letterings():
        return
    for wanted, actual, word in (
        (ticket.width_mm, box[2] - box[0], "wide"),
        (ticket.height_mm, box[3] - box[1], "high"),
    ):
        if wanted is not None and abs(actual - wanted) > ticket.size_tolerance_mm:
            yield Finding(
                code="size.off-ticket",
                level=Level.HOLD,
                items=tuple(outline.id for outline in sheet.outlines()),
                box=box,
                value=actual,
                unit="mm",
                headline=say(
                    "{what} is {actual:.2f} mm {word}", what=ticket.size_of.capitalize(), actual=actual, word=word
                ),
                detail=say(
                    "ticket wants {wanted:.2f} ± {size_tolerance_mm:.2f} mm",
                    wanted=wanted,
                    size_tolerance_mm=ticket.size_tolerance_mm,
                ),
                message=say(
                    "The ticket asks for {wanted:.2f} ± {size_tolerance_mm:.2f} mm. The machine would cut it "
                    "{actual:.2f} mm too {value}.",
                    wanted=wanted,
                    size_tolerance_mm=ticket.size_tolerance_mm,
                    actual=abs(actual - wanted),
                    value=say("large") if actual > wanted else say("small"),
                ),
            )
