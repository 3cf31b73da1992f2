"""Art unlike the demonstration, mended and judged from outside."""

from __future__ import annotations

import tempfile
from pathlib import Path

from tests.account.judges import by_resvg, by_shapely
from tests.builders import workshop
from unkelt.account.changes import STILL, Reason
from unkelt.errors import UnkeltError
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.mending import mend
from unkelt.proof.proof import prove
from unkelt.release.delivering import in_package
from unkelt.release.package import Held, release
from unkelt.steps.steps import STEPS
from unkelt.survey.checks import survey
from unkelt.survey.finding import Level
from unkelt.verdict.case import Case
from unkelt.verdict.judge import findings_of
from unkelt.verdict.painted import held_by, pictures_of


def mended(on, shop=None):
    """The case of a sheet that was read, after all safe steps."""
    shop = shop or workshop()
    stages = tuple(mend(on, shop))
    return Case(Path("received.svg"), on, shop, stages, received=write_svg(on))


def declared_by(case):
    return [change for stage in case.stages if stage.outcome for change in stage.outcome.changes]


def reasons_of(case):
    return {change.reason for change in declared_by(case)}


def steps_of(case):
    return [stage.call.name for stage in case.stages if stage.outcome]


def held(findings):
    return {finding.code for finding in findings if finding.level is Level.HOLD}


def damage(case, *, pictures=True, pixels=True):
    """What the judges from outside object to, and our own pictures; empty where all that was received goes out."""
    declared = declared_by(case)
    redrawn = [s for s in case.stages if s.outcome and (STEPS[s.call.name].redraws or s.outcome.moves != STILL)]
    found = list(held_by(pictures_of(case))) if pictures else []
    if not redrawn and not case.original.letterings():
        found += [f"shapely: {each}" for each in by_shapely(case.original, case.sheet, declared)]
        if pixels and (count := by_resvg(case.original, case.sheet, declared)):
            found.append(f"resvg: {count} pixels")
    return found


def verdicts(case):
    """What holds by the job, by `check` and by `proof` of the file that is written of it, and by release."""
    job = held(findings_of(case))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.svg"
        path.write_bytes(write_svg(case.sheet))
        checked = held(survey(parse_svg(path.read_bytes()), case.workshop))
        proven = {reason.split(":")[0] for reason in prove(path, case.workshop.ticket).reasons}
        try:
            release(case, Path(folder) / "out", in_package((".svg",)))
            released = set()
        except Held as holds:
            released = {hold.split(":")[0] for hold in holds.holds}
        except UnkeltError as problem:
            released = {str(problem)}
    return job, checked, proven, released


def assert_right(case, may=()):
    """Nothing is lost, nothing but `may` was declared, and all verdicts are one."""
    assert damage(case) == []
    assert reasons_of(case) <= {
        Reason.COPY,
        Reason.INNER_LINES,
        Reason.SLIT,
        Reason.SCRAP,
        Reason.HIDDEN,
        Reason.JOINED,
        Reason.SHARED_EDGE,
        Reason.EVENED,
        *may,
    }, reasons_of(case)
    job, checked, proven, released = verdicts(case)
    assert job == checked == proven == released, (job, checked, proven, released)
