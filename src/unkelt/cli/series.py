"""`unkelt series`: a package for every line of a list, or one for all, and a contact sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from unkelt.batch import series
from unkelt.batch.releasing import Handing
from unkelt.batch.together import title_of
from unkelt.cli.common import OnFiles, endings
from unkelt.cli.handing import begun, hand_over
from unkelt.recipe import read_recipe
from unkelt.release.delivering import Wish


@dataclass(frozen=True, kw_only=True)
class Asked(OnFiles):
    """`unkelt series`: what was asked for."""

    recipe: Path
    list: Path
    to: Path
    base: Path | None = None
    formats: str | None = None
    destination: Sequence[str] | None = None
    languages: str = "en"
    reason: str = ""
    together: bool = False
    again: bool = False
    jobs: int | None = None


def run(asked: Asked) -> int:
    """Makes a package for each row of a list; the exit status."""
    ticket = asked.ticket_for(asked.base or asked.list).ticket
    recipe, lines = read_recipe(asked.recipe), series.read_lines(asked.list)
    series.check_columns(recipe, lines)
    given = ticket.sent_to(asked.destination)
    formats = endings(asked.formats) if asked.formats else () if given else (".svg",)
    wish = Wish(names=tuple(each.name for each in given), formats=formats)
    title = title_of(asked.list)
    how = begun(
        Handing(asked.to, wish, asked.reason, tuple(asked.languages.split(",")), asked.together),
        title,
    )
    orders = series.Orders(recipe, ticket, how, asked.base, tuple(asked.faces))
    return hand_over(
        series.made,
        lines,
        lambda line: line.name,
        lambda line: line.columns,
        title=title,
        how=how,
        to=asked.to,
        mark=orders.mark,
        prepare=series.prepare,
        orders=orders,
        again=asked.again,
        jobs=asked.jobs,
        json=asked.json,
    )
