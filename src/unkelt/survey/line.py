"""`line.colour-unknown`, `line.colour-near`, `line.width`, `line.mixed`"""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from unkelt.geometry.measure import bounds, join_boxes
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.appearance import Operation, has_visible_stroke
from unkelt.sheet.model import Outline, Sheet
from unkelt.sheet.near_colour import nearest_colour
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("line.colour-unknown", "line.colour-near", "line.width", "line.mixed")
def line(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Each line must say what it is for: by a colour of the key, by a hairline for a cut, and by one paint only."""
    ticket = workshop.ticket
    strange: dict[str, list[Outline]] = {}
    wide: list[Outline] = []
    mixed: list[Outline] = []
    for outline in sheet.outlines():
        look = outline.look
        if not look.shown:
            continue
        if ticket.key and look.colour and look.colour not in ticket.key:
            strange.setdefault(look.colour, []).append(outline)
        cut = bool(ticket.key) and ticket.operation(look) is Operation.CUT
        if cut and look.fill is None and look.stroke and look.stroke_width_mm > ticket.machine.hairline_mm * 1.001:
            wide.append(outline)
        thick = has_visible_stroke(look, ticket.machine.hairline_mm, bool(ticket.key))
        # Thickness of the fill's own colour is a matter of stroke.visible: made outline, it is one with the fill.
        one_shape = thick and look.fill == look.stroke
        same_job = bool(ticket.key) and ticket.key.get(look.fill or "") == ticket.key.get(look.stroke or "")
        if look.fill and look.stroke and not one_shape and not same_job:
            mixed.append(outline)
    yield from _strange(strange, ticket)
    if wide:
        widest = max(outline.look.stroke_width_mm for outline in wide)
        yield _finding(
            "line.width",
            Level.HOLD,
            wide,
            say("A cut line {widest:.2f} mm wide", widest=widest),
            say("a hairline is {hairline_mm:.2f} mm", hairline_mm=ticket.machine.hairline_mm),
            "Many machines cut only hairlines. They engrave a wider line, or cut it along both sides.",
            widest,
        )
    if mixed:
        yield _finding(
            "line.mixed",
            Level.WARN,
            mixed,
            "Both fill and stroke are painted",
            "which one decides the operation?",
            "Importing software takes the fill or the stroke for the operation. A cut line may be engraved.",
            choice=True,
        )


def _strange(strange: Mapping[str, list[Outline]], ticket: Ticket) -> Iterator[Finding]:
    """Colours that the key doesn't have."""
    for colour, outlines in strange.items():
        near = nearest_colour(colour, ticket.key)
        if near:
            yield _finding(
                "line.colour-near",
                Level.WARN,
                outlines,
                say("{colour} is almost {near}", colour=colour, near=near),
                say("the key has {near} for {value}", near=near, value=ticket.key[near].value),
                "A machine compares colours exactly. For the machine this is a different colour, without an operation.",
            )
        else:
            yield _finding(
                "line.colour-unknown",
                Level.HOLD,
                outlines,
                say("{colour} is not in the ticket's key", colour=colour),
                say("the key knows {listed}", listed=", ".join(ticket.key)),
                "The machine has no operation for this colour. It leaves these lines out, or stops.",
                choice=True,
            )


def _finding(
    code: str,
    level: Level,
    outlines: list[Outline],
    headline: str,
    detail: str,
    message: str,
    value: float | None = None,
    choice: bool = False,
) -> Finding:
    marks = tuple(box for outline in outlines if (box := bounds(outline.path)))
    ids = tuple(outline.id for outline in outlines)
    unit = "outlines" if value is None else "mm"
    return Finding(
        code,
        level,
        ids,
        join_boxes(list(marks)),
        float(len(ids)) if value is None else value,
        unit,
        headline,
        detail,
        message,
        marks=marks,
        choice=choice,
    )
