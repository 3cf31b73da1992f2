"""`unkelt new`: a sheet from words alone, set, mended and written."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import cast

from unkelt.app.work import Written, written
from unkelt.cli.common import say_json
from unkelt.cli.speaking import say_findings, say_refused
from unkelt.cli.status import Status
from unkelt.errors import InputError
from unkelt.job.ticket import Ticket, read_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import HeightOf
from unkelt.lettering.shelves import standard_shelf
from unkelt.mending import mend
from unkelt.report import checked_file, mend_report
from unkelt.session.new_sheet import NewSheet, new_job


@dataclass(frozen=True, kw_only=True)
class Asked:
    """`unkelt new`: what was asked for."""

    words: str
    face: str
    output: Path
    weight: int = 400
    italic: bool = False
    width: str = ""
    height: str = ""
    of: str = "capitals"
    page: str = ""
    ticket: Path | None = None
    json: bool = False
    faces: Sequence[Path] = ()


def run(asked: Asked) -> int:
    """Sets the words, takes all safe steps, and writes the sheet; the exit status."""
    if not asked.words.strip():
        raise InputError("new", "there are no words to set")
    ticket = read_ticket(asked.ticket) if asked.ticket else Ticket()
    workshop = Workshop(ticket, standard_shelf(tuple(asked.faces)))
    wanted = NewSheet(
        words=asked.words,
        family=asked.face,
        weight=asked.weight,
        italic=asked.italic,
        height=asked.height,
        of=cast(HeightOf, asked.of),
        width=asked.width,
        page=_page(asked.page),
    )
    job = new_job(wanted, workshop, asked.output.parent)
    stages = (*job.stages, *mend(job.sheet, workshop))
    result = written(replace(job.case, stages=stages), asked.output)
    say_refused(asked.output, result.case.refused)
    if asked.json:
        say_json(mend_report(result.case, str(asked.output), (), result.findings, result.holds))
    else:
        _say(result)
    return Status.HOLD if result.holds or result.case.refused else Status.CLEAN


def _page(text: str) -> tuple[str, str] | None:
    """“300 mm x 200 mm” as two lengths; None where the page is to fit the art."""
    if not text.strip():
        return None
    parts = re.split(r"\s*[x×]\s*", text.strip())
    if len(parts) != 2:
        raise InputError("--page", "must be two lengths, such as “300 mm x 200 mm”")
    return parts[0], parts[1]


def _say(result: Written) -> None:
    sheet = result.case.sheet
    box = sheet.drawn_box()
    size = f"{box[2] - box[0]:.2f} × {box[3] - box[1]:.2f} mm" if box else "nothing to cut"
    page = f"{sheet.page_mm[0]:.1f} × {sheet.page_mm[1]:.1f} mm"
    print(f"{result.output}: {size}, on a page of {page}")
    said = checked_file(str(result.output), sheet, result.findings, result.case.workshop)
    say_findings(str(result.output), said["findings"], result.pictures)
