"""`size.units`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.extent import measured_box
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.messages import listed, say
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level

PER_INCH = (96, 90, 72)
"""What files are drawn with: CSS's pixels, and two scales that were usual before and still arrive."""

UNEVEN = 1e-3
"""Scales that differ by more than this share make circles oval by more than 1 mm in 1 m."""


@check("size.units")
def size_units(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The physical size is not certain: no units, contradicting evidence, or an uneven scale."""
    scale, ticket = sheet.source.scale, workshop.ticket
    box = measured_box(sheet, ticket)
    width = box[2] - box[0] if box else sheet.page_mm[0]
    fitting = _fitting(sheet, ticket)
    if not size_is_certain(sheet, ticket):
        choices = listed(", ", (say("{width:.1f} mm at {n}", width=width * 96 / n, n=n) for n in PER_INCH))
        if sheet.source.kind != "SVG":
            units = (("mm", 1.0), ("in", 25.4), ("cm", 10.0))
            choices = listed(", ", (say("{width:.1f} mm as {name}", width=width * f, name=name) for name, f in units))
        evidence = scale.evidence or (
            say("at {fitting} units to the inch it has the ticket's size", fitting=fitting) if fitting else ""
        )
        yield Finding(
            code="size.units",
            level=Level.HOLD,
            items=(),
            box=box,
            value=width,
            unit="mm",
            headline="The physical size is not certain",
            detail=say("units as written: {units}", units=sheet.source.units),
            message=say(
                "The file doesn't say how large its units are; the drawing is {choices}.",
                choices=listed("; ", filter(None, (choices, evidence))),
            ),
        )
    if abs(scale.uneven - 1) > UNEVEN:
        yield Finding(
            code="size.units",
            level=Level.HOLD,
            items=(),
            box=box,
            value=scale.uneven,
            unit="ratio",
            headline="The scale is uneven",
            detail=say("height to width {uneven:.4f}", uneven=scale.uneven),
            message=say(
                "Width and height of the page scale differently, by {uneven:.4f}: round shapes come out oval.",
                uneven=scale.uneven,
            ),
        )


def size_is_certain(sheet: Sheet, ticket: Ticket) -> bool:
    """Whether the file says how large it is, and the ticket doesn't speak against that."""
    scale = sheet.source.scale
    if not scale.sure:
        return False
    told = scale.evidence != "" or sheet.source.units not in ("none", "px")
    return told or _fitting(sheet, ticket) in (None, 96)


def _fitting(sheet: Sheet, ticket: Ticket) -> int | None:
    """The units to the inch at which an SVG file's drawing has the size that the ticket wants, if it has at any."""
    if sheet.source.kind != "SVG":
        return None
    box = measured_box(sheet, ticket)
    width, height = (box[2] - box[0], box[3] - box[1]) if box else sheet.page_mm
    return _fits_ticket(width, height, ticket)


def _fits_ticket(width: float, height: float, ticket: Ticket) -> int | None:
    """The units to the inch at which the drawing has the size that the ticket wants, if it has at any."""
    for per_inch in PER_INCH:
        for wanted, actual in ((ticket.width_mm, width), (ticket.height_mm, height)):
            if wanted is not None and abs(actual * 96 / per_inch - wanted) <= ticket.size_tolerance_mm:
                return per_inch
    return None
