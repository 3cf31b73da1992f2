"""A file becomes a job: lettering with the ticket that lies beside it, or a working file."""

from __future__ import annotations

from pathlib import Path

from unkelt.job.beside import Beside, ticket_beside
from unkelt.job.ticket import Ticket, read_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.shelves import shelf_again
from unkelt.session.job import Job, open_job
from unkelt.session.working_file import ENDING, open_working


def open_any(path: Path, ticket: Path | None = None) -> tuple[Job, str]:
    """The job of a file, and a sentence where something about it is to be known. Raises InputError.

    `ticket` goes before the one that lies beside the file; a working file brings its own.
    """
    if path.suffix.lower() == ENDING:
        job, words = open_working(path, shelf_again())
    else:
        beside = Beside(read_ticket(ticket), ticket) if ticket else ticket_beside(path)
        job, words = open_job(path, Workshop(beside.ticket or Ticket(), shelf_again())), beside.words
    job.sheet.drawn_box()  # whoever draws it asks for the boxes of all outlines, which are found here and kept
    return job, words
