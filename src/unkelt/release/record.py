"""All that a release says of itself: what was asked, what was found before and after, what was done, what goes out."""

from __future__ import annotations

import datetime
from dataclasses import dataclass, field
from pathlib import Path

from unkelt.job.destination import Destination
from unkelt.job.extent import measured_box
from unkelt.job.workshop import Workshop
from unkelt.lettering.licence import Licence, licence_of
from unkelt.proof.proof import Proof
from unkelt.recipe import Stage
from unkelt.release.sheets import Part
from unkelt.sheet.figures import Figures, figures
from unkelt.sheet.model import Sheet
from unkelt.survey.finding import Finding, Level, Question
from unkelt.verdict.case import Case
from unkelt.verdict.judge import against

ENGLISH = ("en",)
"""The languages of an inspection sheet where none is asked for."""


@dataclass(frozen=True, slots=True)
class FaceUsed:
    """A face that lettering on the sheet was set in."""

    name: str
    licence: Licence | None


@dataclass(frozen=True, slots=True)
class Delivered:
    """One file that goes out: for which destination, what of the job is in it, how it was read back, and in sentences
    what had to be done for that importer.
    """

    destination: Destination
    part: Part
    proof: Proof
    told: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Record:
    """One release. `reason` is why it goes out although something holds; empty where nothing does."""

    source: str
    workshop: Workshop
    original: Sheet
    sheet: Sheet
    stages: tuple[Stage, ...]
    before: tuple[Finding, ...]
    after: tuple[Finding, ...]
    made: datetime.datetime
    revision: int = 1
    reason: str = ""
    delivered: tuple[Delivered, ...] = ()
    sums: dict[str, str] = field(default_factory=dict)
    """SHA-256 of each file in the package, by name."""
    pictures: tuple[str, ...] = ()
    """What the pictures of the written files hold against it."""
    received: Proof | None = None
    """The sheet as it was received, written and read back; None where it can't be."""

    @property
    def case(self) -> Case:
        """What was judged."""
        return Case(Path(self.source), self.original, self.workshop, self.stages)

    @property
    def title(self) -> str:
        """What the job is called, by its ticket or its file."""
        return self.workshop.ticket.name or self.source.rsplit(".", 1)[0]

    @property
    def proofs(self) -> tuple[Proof, ...]:
        """Of each file that goes out."""
        return tuple(each.proof for each in self.delivered)

    @property
    def whole(self) -> Proof | None:
        """The proof of the first file that holds the whole job; None where none does."""
        return next((each.proof for each in self.delivered if each.part.is_whole), None)

    @property
    def size_mm(self) -> tuple[float, float]:
        """Of the whole job as it was read back, or as it lies on the sheet."""
        if self.whole is not None:
            return self.whole.size_mm
        box = measured_box(self.sheet, self.workshop.ticket)
        return (box[2] - box[0], box[3] - box[1]) if box else (0.0, 0.0)

    @property
    def holds(self) -> tuple[str, ...]:
        """What stands against it: findings on hold, and what proofs and pictures object to; each once."""
        return against(self.after, self.proofs, self.pictures)

    def counts(self, findings: tuple[Finding, ...], question: Question) -> dict[Level, int]:
        """How many findings of a question there are of each level."""
        return {level: sum(f.level is level and f.question is question for f in findings) for level in Level}

    def figures(self) -> tuple[Figures, Figures]:
        """The hash of the original and of each file that goes out."""
        tolerance = self.workshop.ticket.tolerance
        is_cut = self.workshop.ticket.is_cut
        return tuple(figures(sheet.outlines(), tolerance, is_cut) for sheet in (self.original, self.sheet))  # type: ignore[return-value]

    def faces(self) -> list[FaceUsed]:
        """The faces that its text was set in, with their licences."""
        stood = self.stages[-1].sheet if self.stages else self.original  # what goes out no longer knows its text
        origins = [outline.origin for outline in stood.outlines() if outline.origin is not None]
        runs = dict.fromkeys(run.face for lettering in [*origins, *stood.letterings()] for run in lettering.runs)
        faces = dict.fromkeys(self.workshop.shelf.match(query) for query in runs)
        return [FaceUsed(face.name, licence_of(face)) for face in faces if face is not None]
