"""Sentences and captions about the state of a job: made here, in one place, shown by the window."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from unkelt.geometry.cache import TopicOfObjects
from unkelt.language import grouped
from unkelt.messages import listed, say, say_count
from unkelt.proof.proof import Proof
from unkelt.recipe import Stage
from unkelt.session.job import Job
from unkelt.session.kept_jobs import Kept
from unkelt.sheet.appearance import Operation
from unkelt.sheet.figures import Figures
from unkelt.sheet.model import Sheet
from unkelt.steps.step import Parameter
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Finding, Level


@dataclass(frozen=True, slots=True)
class Verdict:
    """What the eye should meet first: `state` is "hold", "open" (nothing holds, not proven) or "clean"."""

    state: str
    words: str


def verdict(job: Job, findings: Sequence[Finding] | None, proof: Proof | None) -> Verdict:
    """Clean only when the file that was written, or the package, has been read back and found so."""
    if findings is None:
        return Verdict("open", "Looking…")
    holds = sum(finding.level is Level.HOLD for finding in findings)
    if holds:
        return Verdict("hold", say("On hold: {holds} to mend", holds=holds))
    if proof is not None and job.saved:
        if proof.verdict == "clean":
            return Verdict("clean", "Clean and read back")
        return Verdict("hold", "On hold: the saved file fails its proof")
    if job.released:
        return Verdict("clean", "Clean and released")
    if job.stages:
        return Verdict("open", "Ready to save")
    return Verdict("open", "Ready")


def summary(findings: Sequence[Finding]) -> str:
    """How many findings there are, and how many of them hold: "5 found · 2 on hold"."""
    if not findings:
        return "Nothing found"
    holds = sum(finding.level is Level.HOLD for finding in findings)
    return (
        say("{count} found · {holds} on hold", count=len(findings), holds=holds)
        if holds
        else say("{count} found · none on hold", count=len(findings))
    )


def stage_caption(stage: Stage) -> str:
    """A line under a step's name on the recipe strip: what it changed."""
    if stage.outcome is None:
        return "nothing to do" if stage.idle else "no longer applies"
    return stage.outcome.evidence.caption() or STEPS[stage.call.name].title.lower()


def original_caption(job: Job) -> str:
    """What the file held as it was received: "2 texts, 14 outlines"."""
    if job.own_file is None:
        return "a blank page"
    return _CAPTIONS.get(lambda: _caption(job.original), job.original)


_CAPTIONS: TopicOfObjects[str] = TopicOfObjects("captions of jobs", 100)


def _caption(sheet: Sheet) -> str:
    texts, outlines = len(sheet.letterings()), len(sheet.outlines())
    parts = [say_count("{count} text", "{count} texts", texts)] if texts else []
    parts += [say_count("{count} outline", "{count} outlines", outlines)] if outlines or not texts else []
    return listed(", ", parts)


def totals(sums: Figures) -> str:
    """The figures of a sheet in one line."""
    nodes = say_count("{nodes} node", "{nodes} nodes", sums.nodes, nodes=grouped(sums.nodes))
    subpaths = say_count("{subpaths} subpath", "{subpaths} subpaths", sums.subpaths, subpaths=grouped(sums.subpaths))
    return say(
        "{nodes} · {subpaths} · {cut_length_mm:.2f} m to cut",
        nodes=nodes,
        subpaths=subpaths,
        cut_length_mm=sums.cut_length_mm / 1000,
    )


def saved_words(job: Job) -> str:
    """Whether the job as it stands was saved or released, and under which name."""
    if job.saved and job.saved_path:
        return say("saved as {name}", name=job.saved_path.name)
    if job.released and job.released_as:
        return say("released as {name}", name=job.released_as[0].name)
    return "not saved" if job.stages else "as received"


def explained(finding: Finding) -> str:
    """What a finding means, why a safe step could not cure it, and whether it waits for a person to choose."""
    said = [finding.message]
    if finding.refusal:
        said.append(say("Tried and refused: {refusal}.", refusal=finding.refusal))
    if finding.choice:
        said.append("Nothing happens until you choose.")
    return listed("\n\n", said)


_WORK = {Operation.ENGRAVE: "– to engrave", Operation.SCORE: "– to score", Operation.CUT: "– to cut"}


def proof_rows(proof: Proof, moved_mm: float | None = None) -> list[tuple[str, str]]:
    """The figures of a proof, for people, with how far lines were moved since the file was received, where that is
    known.
    """
    moved = [("moved at most, mm", f"{moved_mm:.3f}")] if moved_mm is not None else []
    return [
        ("size, mm", f"{proof.size_mm[0]:.2f} × {proof.size_mm[1]:.2f}"),
        ("bodies", str(proof.bodies)),
        ("pieces", str(proof.pieces)),
        ("counters", str(proof.counters)),
        ("nodes", grouped(proof.nodes)),
        ("cut length, m", f"{proof.cut_length_mm / 1000:.2f}"),
        ("cut twice, mm", f"{proof.cut_twice_mm:.1f}"),
        ("time, about", say("{seconds:.0f} s", seconds=proof.seconds)),
        *(
            (
                _WORK[each.operation],
                say("{length:.2f} m, {seconds:.0f} s", length=each.length_mm / 1000, seconds=each.seconds),
            )
            for each in (proof.work if len(proof.work) > 1 else ())
        ),
        *moved,
    ]


def shown_default(parameter: Parameter) -> str:
    """What an empty field stands for."""
    match parameter.kind, parameter.default:
        case (("length" | "count"), None):
            return "automatic"
        case "length", value:
            return say("{value:g} mm", value=value)
        case "text", _:
            return parameter.what
        case _, None:
            return "as it is"
        case _, value:
            return f"{value:g}" if isinstance(value, float) else str(value)


def shown_value(parameter: Parameter, value: object) -> str:
    """A value of a recipe, as its control shows it."""
    return ("no", "yes")[bool(value)] if parameter.kind == "switch" else str(value)


NUDGES = {"length": 0.1, "number": 0.1, "angle": 1.0, "count": 1.0}
"""By how much a key changes an option of each kind; lengths in the unit they are written in."""


def nudged(parameter: Parameter, text: str, way: int, *, coarse: bool, fine: bool) -> str | None:
    """The field's text with its number one step up or down; None where it has no single number."""
    if parameter.kind not in NUDGES:
        return None
    default = "" if parameter.default is None else f"{parameter.default:g}"
    match = re.fullmatch(r"\s*([-−]?\d+(?:[.,]\d+)?)\s*([a-z]*)\s*", text or default, re.IGNORECASE)
    if not match:
        return None
    step = NUDGES[parameter.kind] * (10 if coarse else 0.1 if fine and parameter.kind != "count" else 1)
    value = float(match[1].replace(",", ".").replace("−", "-")) + way * step
    value = max(value, 0.0) if parameter.kind == "count" else value
    unit = match[2] or ("mm" if parameter.kind == "length" else "")
    return f"{round(value, 3) + 0.0:g} {unit}".strip()


def given_value(parameter: Parameter, text: str) -> object | None:
    """What was written in a field, as a recipe has it; None for an empty one. A length without a unit is in mm."""
    if not text:
        return None
    if parameter.kind == "switch":
        return text == "yes"
    if parameter.kind in ("length", "number", "angle", "count"):
        try:
            number = float(text.replace(",", "."))
        except ValueError:
            return text
        if parameter.kind == "length":
            return f"{number:g} mm"
        return int(number) if parameter.kind == "count" and number == int(number) else number
    return text


def left_words(kept: Kept) -> tuple[str, str]:
    """What a job that was left open is called, and what there is to know of it."""
    return (
        kept.path.name,
        say(
            "{steps}, the last kept {when:%Y-%m-%d %H:%M} · {parent}",
            steps=say_count("{count} step", "{count} steps", kept.steps),
            when=kept.when,
            parent=kept.path.parent,
        ),
    )
