"""States of a job that are made for one purpose: to be compared with, to be handed over in part, to be gone back to."""

from __future__ import annotations

from collections.abc import Collection

from fontTools.misc.transform import Identity

from unkelt.recipe import Call, Recipe, run
from unkelt.session.job import Job
from unkelt.sheet.change import leaves, transformed
from unkelt.sheet.model import Group, Lettering, Outline, Sheet


def registered(job: Job) -> Sheet:
    """The sheet as received, scaled and moved as the steps up to the one shown moved all of it: to be compared with it.
    What was moved against the rest is a difference.
    """
    sheet = job.original
    for stage in job.stages[: job.looking_at]:
        if stage.outcome is not None and (moves := stage.outcome.moves).everything != Identity:
            sheet = transformed(sheet, moves.everything, strokes=moves.strokes)
    return sheet


def only(job: Job, items: Collection[str]) -> Job:
    """The job as if everything but some items had been deleted in the end: to save or release these alone."""
    kept = leaves(job.sheet, items)
    others = tuple(item.id for item in job.sheet.walk() if not isinstance(item, Group) and item.id not in kept)
    if not others:
        return job
    return job.with_stages(tuple(run(Recipe((Call("drop-item", others),)), job.sheet, job.workshop)))


def lettering_stage(job: Job, item_id: str) -> int | None:
    """The last state in which the text that an outline was made from was still live; None where there is none."""
    item = job.shown.find(item_id)
    origin = item.origin if isinstance(item, Outline) else None
    if origin is None:
        return None
    sheets = [job.original, *(stage.sheet for stage in job.stages)]
    live = [at for at, sheet in enumerate(sheets) if isinstance(sheet.find(origin.id), Lettering)]
    return max(live, default=None)
