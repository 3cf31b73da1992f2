"""All that a release says of itself: what was asked, what was found before and after, what was done, what goes out."""

from __future__ import annotations

import datetime
from dataclasses import dataclass, field

from unkelt.job.workshop import Workshop
from unkelt.lettering.licence import Licence, licence_of
from unkelt.proof.proof import Proof
from unkelt.recipe import Stage
from unkelt.sheet.figures import Figures, figures
from unkelt.sheet.model import Sheet
from unkelt.survey.finding import Finding, Level, Question
from unkelt.verdict import against


@dataclass(frozen=True, slots=True)
class FaceUsed:
    """A face that lettering on the sheet was set in."""

    name: str
    licence: Licence | None


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
    proofs: tuple[Proof, ...]
    made: datetime.datetime
    revision: int = 1
    reason: str = ""
    sums: dict[str, str] = field(default_factory=dict)
    """SHA-256 of each file in the package, by name."""
    pictures: tuple[str, ...] = ()
    """What the pictures of the written files hold against it."""
    received: Proof | None = None
    """The sheet as it was received, written and read back; None where it can't be."""

    @property
    def title(self) -> str:
        """What the job is called, by its ticket or its file."""
        return self.workshop.ticket.name or self.source.rsplit(".", 1)[0]

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
        origins = [outline.origin for outline in self.sheet.outlines() if outline.origin is not None]
        runs = dict.fromkeys(run.face for lettering in [*origins, *self.sheet.letterings()] for run in lettering.runs)
        faces = dict.fromkeys(self.workshop.shelf.match(query) for query in runs)
        return [FaceUsed(face.name, licence_of(face)) for face in faces if face is not None]
