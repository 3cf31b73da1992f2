"""The summary of many files as a page with small pictures to look over, and all of it written into a folder."""

from __future__ import annotations

import base64
import json
from collections.abc import Sequence
from importlib.resources import files
from pathlib import Path

from jinja2 import Environment

from unkelt.batch.folder import Row
from unkelt.batch.summary import STATES, as_csv, as_json, in_one_line
from unkelt.formats.files import write_whole


def as_html(rows: Sequence[Row], title: str) -> str:
    """One file that needs no other: pictures stand in it. What is on hold comes first."""
    source = (files("unkelt") / "batch" / "summary.html.jinja").read_text(encoding="utf-8")
    order = {state: number for number, state in enumerate(reversed(STATES))}
    shown = sorted(rows, key=lambda row: (order[row.state], row.source))
    pictures = {row.source: base64.b64encode(row.picture).decode() for row in rows if row.picture}
    return (
        Environment(autoescape=True)
        .from_string(source)
        .render(title=title, rows=shown, line=in_one_line(rows), pictures=pictures)
    )


def write_summary(rows: Sequence[Row], folder: Path, title: str) -> None:
    """All of it into a folder, each file whole or not at all. Raises InputError."""
    for name, text in (
        ("summary.json", json.dumps(as_json(rows), ensure_ascii=False, indent=1)),
        ("summary.csv", as_csv(rows)),
        ("summary.html", as_html(rows, title)),
    ):
        write_whole(folder / name, text.encode())
