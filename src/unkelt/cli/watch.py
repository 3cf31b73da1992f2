"""`unkelt watch`: what arrives in a folder is surveyed, or mended, until it is stopped."""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path

from unkelt.batch import folder
from unkelt.batch.arrivals import Arrivals
from unkelt.batch.folder import Orders, checked
from unkelt.batch.mending import Mending, mended
from unkelt.batch.summary import as_text
from unkelt.cli.common import OnFiles
from unkelt.cli.status import Status
from unkelt.errors import InputError
from unkelt.recipe import read_recipe


@dataclass(frozen=True, kw_only=True)
class Asked(OnFiles):
    """`unkelt watch`: what was asked for."""

    folder: Path
    output: Path | None = None
    recipe: Path | None = None
    every: float = 1.0
    once: bool = False


def run(asked: Asked) -> int:
    """Until it is stopped; with `once`, until it has looked at what is there."""
    if not asked.folder.is_dir():
        raise InputError(str(asked.folder), "there is no such folder")
    if asked.output is not None and asked.output.resolve() == asked.folder.resolve():
        raise InputError(str(asked.output), "is the folder that is watched: its results would arrive in it again")
    recipe = read_recipe(asked.recipe) if asked.recipe else None
    folder.prepare(Orders(asked.ticket_for_all(), tuple(asked.faces), recipe, asked.page))
    arrivals = Arrivals(asked.folder)
    while True:
        for path in arrivals.look():
            if asked.output is not None:
                row = mended(Mending(path, asked.output / f"{path.stem}.svg"))
            else:
                row = checked(path).row
            print(as_text([row]).split("\n")[0], flush=True)
        if asked.once and not arrivals.expecting:
            return Status.CLEAN
        time.sleep(asked.every)
