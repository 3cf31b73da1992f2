"""What holds each piece of material once it is cut, in words."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from unkelt.anatomy.pieces import Piece, falling_counters, pieces_of
from unkelt.job.ticket import Ticket
from unkelt.messages import listed, say, say_count
from unkelt.sheet.model import Sheet
from unkelt.sheet.naming import called

NAMED = 6
"""So many pieces are named; where more are held alike, their number is said."""


@dataclass(frozen=True, slots=True)
class Holding:
    """What is held alike, and by what; `by` says so where it is nothing."""

    names: tuple[str, ...]
    by: str
    is_loose: bool = False

    def words(self) -> str:
        """In a line."""
        counts = Counter(self.names)
        unlike = [say("{name} × {count}", name=name, count=n) if n > 1 else name for name, n in counts.items()]
        shown = listed(", ", unlike) if len(unlike) <= NAMED else say("{count} outlines", count=len(self.names))
        return say("{names}: {holder}", names=shown, holder=self.by)


def holdings(sheet: Sheet, ticket: Ticket) -> list[Holding]:
    """All pieces by what holds them, those that nothing holds first."""
    found: dict[tuple[str, bool], list[str]] = {}
    for piece in pieces_of(sheet, ticket).all:
        names, by, is_loose = _held(piece, ticket)
        found.setdefault((by, is_loose), []).extend(names)
    for each in falling_counters(sheet, ticket) if ticket.sheet_stays else []:
        backed = ticket.machine.backed
        by = say("the film's backing") if backed else say("nothing, it drops out of the sheet")
        found.setdefault((by, not backed), []).append(say("a counter of {name}", name=called(each.outline)))
    rows = [Holding(tuple(names), by, is_loose) for (by, is_loose), names in found.items()]
    return sorted(rows, key=lambda row: not row.is_loose)


def pieces_in_words(sheet: Sheet, ticket: Ticket) -> str:
    """How many pieces there are, beside what the ticket says."""
    count = pieces_of(sheet, ticket).count
    words = say_count("{count} piece", "{count} pieces", count)
    return (
        words if ticket.pieces is None else say("{words}, the ticket says {wanted}", words=words, wanted=ticket.pieces)
    )


def _held(piece: Piece, ticket: Ticket) -> tuple[list[str], str, bool]:
    """The names of what is held, by what, and whether that is nothing."""
    names = [called(outline) for outline in piece.outlines]
    if piece.loose_in is not None:
        if ticket.machine.backed:
            return names, say("the film's backing"), False
        return names, say("nothing, loose in {frame}", frame=called(piece.loose_in)), True
    if len(names) == 1:
        return names, say("in one piece"), False
    return names[1:], say("held by {name}, which it touches", name=names[0]), False
