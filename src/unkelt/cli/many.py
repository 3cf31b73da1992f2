"""What the commands that write many results say in the end."""

from __future__ import annotations

from collections.abc import Sequence

from unkelt.batch.folder import Row
from unkelt.batch.summary import as_json, as_text
from unkelt.cli.common import say_json
from unkelt.cli.status import Status


def say_rows(rows: Sequence[Row], *, json: bool) -> int:
    """The summary, and the exit status that it stands for."""
    if json:
        say_json(as_json(rows))
    else:
        print(as_text(rows))
    if any(row.problem and not row.holds for row in rows):
        return Status.UNUSABLE
    return Status.HOLD if any(row.state != "clean" for row in rows) else Status.CLEAN
