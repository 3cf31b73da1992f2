"""The one judge of a job: what is found on its sheet, what was lost on the way there, and what was tried and refused.

The window, the command line and release all ask here, so that they come to one verdict.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from unkelt.account.changes import Change, Moves
from unkelt.account.whole import Whole, gathered, lost
from unkelt.errors import InputError
from unkelt.formats.files import read_bytes
from unkelt.formats.formats import WRITERS
from unkelt.geometry.cache import TopicOfObjects
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.outgoing import outgoing
from unkelt.progress import Progress
from unkelt.proof.pictures import compare, compare_format
from unkelt.proof.pixels import Pictures
from unkelt.proof.proof import Proof
from unkelt.recipe import Stage
from unkelt.sheet.model import Sheet
from unkelt.steps.cures import cures_of
from unkelt.survey.checks import survey
from unkelt.survey.finding import Finding, Level, with_accepted

Refusals = Mapping[tuple[str, tuple[str, ...]], str]
"""Why a step was refused, by its name and the items that it was to work on."""


@dataclass(frozen=True)
class Case:
    """What is judged: a file as it was received, and what was done to it.

    `received` are the file's bytes where they aren't to be read from `source`; empty where it was made from nothing.
    `accepted` are findings accepted as they are, by key, each with its reason.
    """

    source: Path
    original: Sheet
    workshop: Workshop
    stages: tuple[Stage, ...] = ()
    accepted: Mapping[str, str] = field(default_factory=dict)
    refusals: Refusals = field(default_factory=dict)
    received: bytes | None = None

    @property
    def sheet(self) -> Sheet:
        """The sheet as it stands after the steps."""
        return self.stages[-1].sheet if self.stages else self.original

    @property
    def done(self) -> tuple[Stage, ...]:
        """The steps that were taken."""
        return tuple(stage for stage in self.stages if stage.outcome is not None)

    @property
    def refused(self) -> tuple[str, ...]:
        """What was to be done and was not, and why, in sentences."""
        return tuple(stage.refused for stage in self.stages if stage.refused)

    @property
    def own_file(self) -> Path | None:
        """The file that it came from, which is never written over; None where it was made from nothing."""
        return None if self.received == b"" else self.source

    @property
    def data(self) -> bytes:
        """The file as received. Raises InputError where it can no longer be read."""
        return read_bytes(self.source) if self.received is None else self.received


@dataclass(frozen=True)
class _Taken:
    sheet: Sheet
    changes: tuple[Change, ...]
    moves: Moves


def whole_of(case: Case) -> Whole:
    """All that the steps of a job declared and moved."""
    taken = [_Taken(s.outcome.sheet, s.outcome.changes, s.outcome.moves) for s in case.stages if s.outcome is not None]
    return gathered(case.original, taken, case.workshop.ticket, case.workshop.shelf)


def refusals_of(stages: Iterable[Stage]) -> dict[tuple[str, tuple[str, ...]], str]:
    """What was refused among some steps."""
    return {(stage.call.name, stage.call.items): stage.refused for stage in stages if stage.refused}


def findings_of(case: Case, progress: Progress | None = None) -> tuple[Finding, ...]:
    """Everything that is found on the sheet as it stands, with what was lost since it was received.

    A finding whose cure was refused says why. Findings accepted by their key are no more than notes.
    """
    return told(found_on(case, progress), case)


def found_on(case: Case, progress: Progress | None = None) -> tuple[Finding, ...]:
    """What is found, as it is before anything was accepted or refused."""
    return (*ink_lost(case), *survey(case.sheet, case.workshop, progress))


def told(findings: Iterable[Finding], case: Case) -> tuple[Finding, ...]:
    """Findings of a job with the reasons why their cures were refused, those accepted no more than notes."""
    refusals = {**case.refusals, **refusals_of(case.stages)}
    result = []
    for finding in findings:
        reasons = [
            reason
            for (name, items), reason in refusals.items()
            if name in cures_of(finding) and (not items or set(items) & set(finding.items))
        ]
        result.append(replace(finding, refusal=reasons[0]) if reasons else finding)
    return with_accepted(result, case.accepted)


_LOST: TopicOfObjects[tuple[Finding, ...]] = TopicOfObjects("lost ink", 32)


def ink_lost(case: Case) -> tuple[Finding, ...]:
    """What was painted or drawn when received, is gone now, and no step declared: from the account of the whole job."""
    if not any(stage.outcome for stage in case.stages):
        return ()
    return _LOST.get(lambda: _looked_for(case), case.original, case.sheet, case.workshop)


def _looked_for(case: Case) -> tuple[Finding, ...]:
    left = lost(whole_of(case), case.sheet, case.workshop.ticket, case.workshop.shelf)
    if not left:
        return ()
    marks = tuple(each.box for each in left)
    return (
        Finding(
            code="ink.lost",
            level=Level.HOLD,
            items=(),
            box=marks[0],
            value=left[0].amount,
            unit=left[0].unit,
            headline=say("{material} is not what was received", material=left[0].material),
            detail=left[0].words(done=True),
            message="It was painted when it was received, and no step says that it changed this. Undo, and see which "
            "step did.",
            marks=marks,
        ),
    )


def pictures_of(case: Case, written: bytes | None = None) -> Pictures:
    """The file as received and the sheet as it is written in SVG, painted by a renderer of somebody else's, and where
    they differ.

    `written` are the bytes that were written, where they are there already.
    """
    try:
        received = case.data
    except InputError as problem:
        return Pictures.none(str(problem))
    if not received:
        return Pictures.none("it was made from nothing")
    ticket, sheet = case.workshop.ticket, case.sheet
    written = WRITERS[".svg"](outgoing(sheet, case.workshop), ticket) if written is None else written
    return compare(received, case.source, case.original, written, sheet, whole_of(case), ticket, case.workshop.shelf)


def held_by_pictures(case: Case, path: Path) -> tuple[str, ...]:
    """What the pictures of a job hold against a file that was written of it: as received beside as written, and its
    format beside SVG.
    """
    if path.suffix.lower() == ".svg":
        return held_by(pictures_of(case, read_bytes(path)))
    ticket = case.workshop.ticket
    as_svg = WRITERS[".svg"](outgoing(case.sheet, case.workshop), ticket)
    return (*held_by(pictures_of(case, as_svg)), *held_by(compare_format(path, as_svg, case.sheet, ticket)))


def held_by(pictures: Pictures) -> tuple[str, ...]:
    """What holds of the differences that nothing explains, in lines as findings have them."""
    left = pictures.lost
    return (f"ink.lost: the picture differs from what was received: {left[0].words()}",) if left else ()


def against(findings: Sequence[Finding], proofs: Iterable[Proof], pictures: Iterable[str] = ()) -> tuple[str, ...]:
    """What stands against a job in lines, each once: findings that hold, and what proofs and pictures of its files
    object to.

    What a proof finds again was accepted where all findings of its kind were.
    """
    held = {finding.code for finding in findings if finding.level is Level.HOLD}
    accepted = {f.code for f in findings if f.accepted} - held
    said: list[str] = [
        say("{code}: {headline}", code=finding.code, headline=finding.headline)
        for finding in findings
        if finding.level is Level.HOLD
    ]
    said += [reason for proof in proofs for reason in proof.reasons if reason.split(":")[0] not in accepted]
    return tuple(dict.fromkeys([*said, *pictures]))
