"""One job of many released: into a package of its own, and said in a row of the summary."""

from __future__ import annotations

import hashlib
import io
import time
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path

from PIL import Image

from unkelt import __version__
from unkelt.app.work import mended, opened
from unkelt.batch.folder import PICTURE_PX, Row, counted, holding
from unkelt.errors import UnkeltError
from unkelt.job.beside import Beside, ticket_beside
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import standard_shelf
from unkelt.messages import each_once, listed, say
from unkelt.recipe import Recipe, dump_recipe
from unkelt.release.delivering import Wish
from unkelt.release.package import Held, release
from unkelt.release.preview import preview_png
from unkelt.verdict.case import Case

PATTERN = "{job}-r{revision}"
TOGETHER = "{job}"
"""What packages are called, each by itself and where all of them make one."""


@dataclass(frozen=True)
class Handing:
    """How every job is handed over. With `together` all of them make one package in the end."""

    to: Path
    wish: Wish
    reason: str = ""
    languages: tuple[str, ...] = ("en",)
    together: bool = False
    zipped: bool = False


def handed(name: str, case: Case, how: Handing, ticket_text: str = "") -> Row:
    """A job released; the row says where it lies, or why it isn't there."""
    start = time.perf_counter()
    try:
        package = release(
            case,
            how.to,
            how.wish.destinations(case.workshop.ticket),
            reason=how.reason,
            pattern=TOGETHER if how.together else PATTERN,
            ticket_text=ticket_text.encode(),
            languages=how.languages,
            zipped=how.zipped and not how.together,
        )
    except Held as held:
        words = say("on hold, not released: {listed}", listed=listed("; ", held.holds))
        return Row(name, problem=words, holds=len(held.holds))
    except UnkeltError as problem:
        return Row(name, problem=str(problem))
    record = package.record
    nodes = record.proofs[0].nodes if record.proofs else 0
    return Row(
        name,
        str(package.folder),
        after=counted(record.after),
        holds=holding(record.after),
        steps=tuple(stage.call.name for stage in case.done),
        refused=package.left_out,
        nodes=(nodes, nodes),
        size_mm=(round(record.size_mm[0], 2), round(record.size_mm[1], 2)),
        seconds=round(time.perf_counter() - start, 3),
        picture=preview_png(case.sheet, PICTURE_PX),
    )


@dataclass(frozen=True)
class Orders:
    """What is done with every file of a folder; without a ticket, each has the one that lies beside it."""

    ticket: Ticket | None
    how: Handing
    faces: tuple[Path, ...] = ()
    recipe: Recipe | None = None
    page: int = 1

    @property
    def mark(self) -> str:
        """Changes where the answers might."""
        return mark_of(repr(self.ticket), self.how, self.recipe, repr(self.faces), str(self.page))


def mark_of(ticket: str, how: Handing, recipe: Recipe | None, *more: str) -> str:
    """A word for orders, which changes where the answers might."""
    said = [__version__, ticket, repr(how.wish), how.reason, repr(how.languages), str(how.together), *more]
    said.append(dump_recipe(recipe) if recipe else "")
    return hashlib.sha256("\0".join(said).encode()).hexdigest()[:16]


_orders: Orders
_shelf: Shelf


def prepare(orders: Orders) -> None:
    """Once in each process."""
    global _orders, _shelf  # as in folder.py
    _orders, _shelf = orders, standard_shelf(orders.faces)


def released(path: Path) -> Row:
    """One file of a folder, by the recipe where there is one, released."""
    try:
        beside = Beside(_orders.ticket) if _orders.ticket is not None else ticket_beside(path)
        case = opened(path, Workshop(beside.ticket, _shelf), _orders.page)
        if _orders.recipe is not None:
            case = mended(case, _orders.recipe)
        if case.refused:
            return Row(str(path), problem=listed("; ", each_once(case.refused)), refused=case.refused)
    except UnkeltError as problem:
        return Row(str(path), problem=str(problem))
    return handed(str(path), case, _orders.how, beside.ticket.source)


def with_picture(row: Row) -> Row:
    """A row that was made before, with the small picture that its package has."""
    if row.output is None or row.picture:
        return row
    with suppress(OSError), Image.open(Path(row.output) / "preview.png") as image:
        image.thumbnail((PICTURE_PX, PICTURE_PX))
        file = io.BytesIO()
        image.save(file, "PNG")
        return replace(row, picture=file.getvalue())
    return row


def in_order(names: Sequence[str], rows: dict[str, Row]) -> list[Row]:
    """Rows as their names are listed, each with its picture."""
    return [with_picture(rows[name]) for name in names]
