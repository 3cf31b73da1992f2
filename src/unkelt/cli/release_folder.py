"""`unkelt release FOLDER`: every file of a folder released, in packages of their own or as one."""

from __future__ import annotations

from pathlib import Path

from unkelt.batch import releasing
from unkelt.batch.folder import files_in
from unkelt.batch.journal import facts_of
from unkelt.batch.releasing import Handing, Orders
from unkelt.batch.together import title_of
from unkelt.cli.handing import begun, hand_over
from unkelt.job.ticket import Ticket
from unkelt.recipe import Recipe


def release_folder(
    folder: Path,
    ticket: Ticket | None,
    how: Handing,
    *,
    faces: tuple[Path, ...],
    recipe: Recipe | None,
    page: int,
    again: bool,
    jobs: int | None,
    json: bool,
) -> int:
    """Releases every file, each by its own ticket where none is given; the exit status."""
    title, to = title_of(folder), how.to
    files = [path for path in files_in(folder) if not path.resolve().is_relative_to(to.resolve())]
    how = begun(how, title)
    orders = Orders(ticket, how, faces, recipe, page)
    return hand_over(
        releasing.released,
        files,
        str,
        facts_of,
        title=title,
        how=how,
        to=to,
        mark=orders.mark,
        prepare=releasing.prepare,
        orders=orders,
        again=again,
        jobs=jobs,
        json=json,
    )
