"""`place.off-page`, `place.page-loose`, `place.bed`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level

LOOSE = 10.0
"""A page of more than so many times the drawing's area is not fitted to it."""


@check("place.off-page", "place.page-loose", "place.bed")
def place(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The drawing lies outside its page, on a far larger page, or doesn't fit on the machine's bed."""
    box = sheet.drawn_box()
    if box is None:
        return
    x0, y0, x1, y1 = box
    width, height = x1 - x0, y1 - y0
    page_width, page_height = sheet.page_mm
    ids = tuple(item.id for item in sheet.walk() if isinstance(item, Outline))
    over = max(-x0, -y0, x1 - page_width, y1 - page_height)
    if over > workshop.ticket.tolerance.chord_mm:
        yield Finding(
            "place.off-page",
            Level.HOLD,
            ids,
            box,
            over,
            "mm",
            say("{over:.1f} mm lie outside the page", over=over),
            say("the page is {page_width:.0f} × {page_height:.0f} mm", page_width=page_width, page_height=page_height),
            "Some importing software cuts this part off at the page. Other software moves everything to fit.",
        )
    elif width * height > 0 and page_width * page_height > LOOSE * width * height:
        yield Finding(
            "place.page-loose",
            Level.NOTE,
            ids,
            box,
            page_width,
            "mm",
            "The page is much larger than the drawing",
            say(
                "{page_width:.0f} × {page_height:.0f} mm for {width:.0f} × {height:.0f}",
                page_width=page_width,
                page_height=page_height,
                width=width,
                height=height,
            ),
            "This is no fault. A page that fits the drawing is easier to place on the material.",
        )
    bed = workshop.ticket.machine.bed_mm
    if bed and not any(width <= a and height <= b for a, b in (bed, bed[::-1])):
        yield Finding(
            "place.bed",
            Level.HOLD,
            ids,
            box,
            width,
            "mm",
            "Larger than the machine's bed",
            say(
                "{width:.0f} × {height:.0f} mm on {bed:.0f} × {bed_2:.0f}",
                width=width,
                height=height,
                bed=bed[0],
                bed_2=bed[1],
            ),
            "The sheet doesn't fit on the bed in either direction. A part of it would not be cut.",
            choice=True,
        )
