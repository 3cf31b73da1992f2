"""`place.mirror`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.sheet.model import Sheet
from unkelt.survey.check import Workshop, check
from unkelt.survey.finding import Finding, Level


@check("place.mirror")
def place_mirror(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The ticket says whether the sheet is to be mirrored, and it isn't so: film cut from the wrong side reads backwards."""
    wanted = workshop.ticket.mirrored
    if wanted is None or wanted == sheet.mirrored or not sheet.items:
        return
    yield Finding(
        code="place.mirror",
        level=Level.WARN,
        items=(),
        box=sheet.drawn_box(),
        value=None,
        unit=None,
        headline="Not mirrored, as the ticket asks" if wanted else "Mirrored, which the ticket doesn't want",
        detail="it would read backwards once it is in place",
        message="Film that is cut from behind reads backwards on the machine; this one would read backwards in its place.",
        steps=("mirror",),
    )
