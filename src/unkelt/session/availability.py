"""Which actions can be done now: what the menus and buttons follow."""

from __future__ import annotations

from collections.abc import Sequence

from unkelt.session.actions import SHAPES
from unkelt.session.job import Job
from unkelt.session.preview import Preview
from unkelt.survey.finding import Finding


def step_place(job: Job | None) -> int | None:
    """Which step of the recipe is meant: the one whose result is shown; counted from 0."""
    if job is None or not job.stages or job.looking_at == 0:
        return None
    return (len(job.stages) if job.looking_at is None else job.looking_at) - 1


def enabled(
    job: Job | None,
    findings: Sequence[Finding] | None,
    chosen: int | None,
    preview: Preview | None,
    items: int | None = None,
) -> dict[str, bool]:
    """By the action's id; actions that aren't named can always be done. `items` is how many items are chosen on the
    bench, None where nobody is at it.
    """
    at_bench, in_hand = items is not None, bool(items)
    there = job is not None
    latest = job is not None and job.looking_at is None
    tried = latest and bool(preview and preview.outcome)
    place = step_place(job)
    return {
        "open_ticket": there,
        "save_as": there,
        "close_file": there,
        "mend_all": there,
        "set_colours": there,
        "save_ticket": bool(job and job.ticket.source),
        "save_burn": there,
        "release_job": there,
        "measure": there,
        "compare": there,
        "save_recipe": bool(job and job.stages),
        "undo": bool(job and job.past),
        "redo": bool(job and job.future),
        "explain": chosen is not None,
        "accept_finding": chosen is not None,
        "change_step": place is not None,
        "take_out_step": place is not None,
        "step_earlier": bool(place),
        "step_later": job is not None and place not in (None, len(job.stages) - 1),
        "next_finding": bool(findings),
        "previous_finding": bool(findings),
        "apply_here": tried,
        "apply_alike": tried,
        "mend_safe": latest and bool(findings),
        "run_recipe": latest,
        "zoom_finding": in_hand if at_bench else chosen is not None,
        "look_original": bool(job and job.stages) or (at_bench and tried),
        "save_chosen": in_hand,
        "delete": latest and in_hand,
        "duplicate": latest and in_hand,
        "group": latest and bool(items and items > 1),
        "ungroup": latest and in_hand,
        "select_all": at_bench,
        "forward": latest and in_hand,
        "backward": latest and in_hand,
        "isolate": at_bench,
        "find_step": there,
        "add_lettering": latest,
        **{f"add_{shape}": latest for shape in SHAPES},
        "look_latest": bool(job and job.looking_at is not None),
    }
