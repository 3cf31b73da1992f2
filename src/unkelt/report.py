"""The JSON of the command line, field by field: a contract that scripts depend on."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from unkelt.facts import Facts
from unkelt.geometry.measure import Box, join_boxes
from unkelt.job.budget import moved_mm
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.messages import listed, sentence
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Group, Sheet
from unkelt.steps.cures import cures_of
from unkelt.survey.finding import Finding

if TYPE_CHECKING:  # what draws an inspection sheet takes a while to import
    from unkelt.proof.proof import Proof
    from unkelt.release.package import Package
    from unkelt.verdict.case import Case


def check_report(files: Sequence[Facts]) -> Facts:
    """What `check --json` says of files that were looked at."""
    return {"schema": "unkelt.check/1", "files": list(files)}


def checked_file(
    path: str, sheet: Sheet, findings: Sequence[Finding], workshop: Workshop, ticket: Path | None = None
) -> Facts:
    """`ticket` is the one that lay beside the file, where that was taken."""
    return {
        "path": path,
        "error": None,
        "ticket": str(ticket) if ticket else None,
        "sheet": sheet_facts(sheet, workshop),
        "findings": [
            {
                "code": finding.code,
                "level": finding.level.value,
                "items": list(finding.items),
                "box_mm": _box(finding.box),
                "value": None if finding.value is None else round(finding.value, 4),
                "unit": finding.unit,
                "message": listed(" ", (sentence(finding.headline), finding.message)),
                "choice": finding.choice,
                "refusal": finding.refusal,
                "steps": list(cures_of(finding)),
            }
            for finding in findings
        ],
    }


def failed_file(path: str, reason: str) -> Facts:
    """A file that can't be looked at, and why."""
    return {"path": path, "error": reason, "ticket": None, "sheet": None, "findings": []}


def sheet_facts(sheet: Sheet, workshop: Workshop) -> Facts:
    """Counts and extents; the ink of live text counts where its face is to be had."""
    ink = [sheet.drawn_box()]
    ink += [set_lettering(text, workshop.shelf).ink(text.placement) for text in sheet.letterings()]
    sums = figures(sheet.outlines(), workshop.ticket.tolerance, workshop.ticket.is_cut)
    return {
        "page_mm": [round(value, 4) for value in sheet.page_mm],
        "ink_mm": _box(join_boxes([box for box in ink if box])),
        "items": sum(not isinstance(item, Group) for item in sheet.walk()),
        "subpaths": sums.subpaths,
        "nodes": sums.nodes,
        "pieces": sums.pieces,
        "cut_length_mm": round(sums.cut_length_mm, 3),
    }


def mend_report(
    case: Case,
    output: str,
    before: Sequence[Finding],
    after: Sequence[Finding],
    holds: Sequence[str],
) -> Facts:
    """`holds` is what stands against the result, pictures and all."""
    return {
        "schema": "unkelt.mend/1",
        "source": str(case.source),
        "output": output,
        "moved_mm": round(moved_mm(case.sheet), 5),
        "steps": [
            {"step": stage.call.name, "items": list(stage.outcome.items), "evidence": stage.outcome.evidence.figures()}
            for stage in case.stages
            if stage.outcome is not None
        ],
        "before": [finding.code for finding in before],
        "after": [finding.code for finding in after],
        "refused": [stage.refused for stage in case.stages if stage.refused],
        "holds": list(holds),
    }


def proof_report(proof: Proof) -> Facts:
    """What `proof --json` says of a written file."""
    return {
        "schema": "unkelt.proof/1",
        "path": proof.path,
        "size_mm": [round(value, 4) for value in proof.size_mm],
        "bodies": proof.bodies,
        "pieces": proof.pieces,
        "counters": proof.counters,
        "text_left": proof.text_left,
        "subpaths": proof.subpaths,
        "nodes": proof.nodes,
        "cut_length_mm": round(proof.cut_length_mm, 3),
        "cut_twice_mm": round(proof.cut_twice_mm, 3),
        "seconds": round(proof.seconds, 2),
        "work": {
            each.operation.value: {"length_mm": round(each.length_mm, 3), "seconds": round(each.seconds, 2)}
            for each in proof.work
        },
        "verdict": proof.verdict,
        "reasons": list(proof.reasons),
    }


def release_report(source: str, package: Package | None, holds: Sequence[str]) -> Facts:
    """`folder` is None where nothing was released."""
    return {
        "schema": "unkelt.release/1",
        "source": source,
        "folder": str(package.folder) if package else None,
        "revision": package.record.revision if package else None,
        "files": dict(package.record.sums) if package else {},
        "delivered": [
            {
                "path": each.proof.path,
                "destination": each.destination.name,
                "part": list(each.part.names),
                "mirrored": each.part.is_mirrored,
                "size_mm": [round(value, 4) for value in each.proof.size_mm],
                "reasons": list(each.proof.reasons),
                "told": list(each.told),
            }
            for each in (package.record.delivered if package else ())
        ],
        "holds": list(holds),
        "reason": package.record.reason if package else "",
        "left_out": list(package.left_out) if package else [],
    }


def _box(box: Box | None) -> list[float] | None:
    return None if box is None else [round(value, 4) for value in box]
