"""`piece.unheld`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.anatomy.pieces import Falling, falling_counters, pieces_of
from unkelt.geometry.measure import join_boxes
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Sheet
from unkelt.survey.areas import box_of
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("piece.unheld")
def piece_unheld(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Nothing holds a piece, for example a letter that does not touch its frame. It falls out of the sheet."""
    ticket = workshop.ticket
    found = pieces_of(sheet, ticket)
    backed = ticket.given and ticket.machine.backed
    for loose in found.loose:
        count = len(loose.pieces)
        marks = tuple(box_of(piece) for piece in loose.pieces)
        yield Finding(
            code="piece.unheld",
            level=Level.NOTE if backed else Level.HOLD if ticket.given else Level.WARN,
            items=tuple(dict.fromkeys([loose.frame.id, *(outline.id for outline in loose.outlines)])),
            box=join_boxes(list(marks)),
            value=float(count),
            unit="pieces",
            headline=say_count("A piece that nothing holds", "{count} pieces that nothing holds", count),
            detail=_where(count, backed),
            message=say_count(
                "When it is cut, this piece falls out of the opening. Let it into the frame, hold it by bridges, or "
                "move it.",
                "When they are cut, these pieces fall out of the opening. Let them into the frame, hold them by "
                "bridges, or move them.",
                count,
            ),
            case="loose",
            marks=marks,
            choice=True,
        )
    if ticket.sheet_stays:
        yield from _counters(sheet, workshop)
    wanted = ticket.pieces
    if wanted is not None and found.count > wanted and not sheet.letterings():
        yield Finding(
            code="piece.unheld",
            level=Level.HOLD,
            items=(),
            box=sheet.drawn_box(),
            value=float(found.count),
            unit="pieces",
            headline=say("{count} pieces, and the ticket says {wanted}", count=found.count, wanted=wanted),
            detail=say("{count} too many", count=found.count - wanted),
            message="The machine cuts more loose pieces than the ticket asks for.",
            case="many",
            choice=True,
        )


def _counters(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Where the sheet is to stay whole, what lies in a counter drops out of it."""
    backed = workshop.ticket.machine.backed
    falling: dict[str, list[Falling]] = {}
    for each in falling_counters(sheet, workshop.ticket):
        falling.setdefault(each.outline.id, []).append(each)
    for name, islands in falling.items():
        marks = tuple(box_of(each.island) for each in islands)
        count = len(islands)
        yield Finding(
            code="piece.unheld",
            level=Level.NOTE if backed else Level.HOLD,
            items=(name,),
            box=join_boxes(list(marks)),
            value=float(count),
            unit="counters",
            headline=say_count("A counter drops out of the sheet", "{count} counters drop out of the sheet", count),
            detail=say("the film's backing holds what is cut") if backed else say("no bridge holds it"),
            message="The ticket says that the sheet stays whole. When the letter is cut out, what lies in its counter "
            "drops out with it. Hold it by bridges.",
            case="counter",
            marks=marks,
            choice=True,
        )


def _where(count: int, backed: bool) -> str:
    if backed:
        return say_count("the film's backing holds it", "the film's backing holds them", count)
    return say_count("it lies in an opening and touches nothing", "they lie in an opening and touch nothing", count)
