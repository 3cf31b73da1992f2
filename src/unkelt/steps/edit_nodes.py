"""`edit-nodes`"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.distance import line_distance
from unkelt.geometry.edit.edit import EDITS, edited
from unkelt.geometry.flatten import lines
from unkelt.job.workshop import Workshop
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Outline, Sheet
from unkelt.steps.evidence import Renoded
from unkelt.steps.step import Outcome, step, targets


@dataclass(frozen=True, kw_only=True)
class Edited(Renoded):
    """Edits of one outline by hand, and its pieces afterwards."""

    edits: int
    pieces_after: int


@step("edit-nodes", "Edit the nodes by hand", cures=(), redraws=Reason.RESHAPED)
def edit_nodes(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    edits: Annotated[
        str, f"what is done, one after the other, as “move 1:4 12.5 30.2; take-out 1:7”: {', '.join(EDITS)}"
    ] = "",
) -> Outcome:
    """Changes single nodes of one outline. They are moved with their handles, added, made smooth or a corner, or taken
    out, with the shape held as well as one node fewer allows. Handles are moved, and segments made straight. Subpaths
    are started elsewhere, turned round, split and joined. Nodes are named by subpath and number, counted from 1; places
    are in mm.

    Here a person changes the shape on purpose: the evidence says how far it now lies from what it was, both ways.
    """
    chosen: list[Outline] = targets("edit-nodes", sheet, items, Outline)
    if len(chosen) != 1:
        raise StepRefused("edit-nodes", "one outline at a time; choose which")
    (outline,) = chosen
    wanted = [edit for edit in edits.split(";") if edit.strip()]
    if not wanted:
        raise StepRefused("edit-nodes", "nothing is edited yet")
    path = outline.path
    for number, edit in enumerate(wanted, 1):
        try:
            path = edited(path, edit)
        except ValueError as problem:
            raise StepRefused("edit-nodes", f"edit {number}, “{edit.strip()}”: {problem}") from problem
    new = replace(outline, path=path)
    tolerance = workshop.ticket.tolerance
    chord = tolerance.chord_mm / 10
    evidence = Edited(
        edits=len(wanted),
        nodes_before=outline.path.node_count,
        nodes_after=path.node_count,
        pieces_after=figures([new], tolerance).pieces,
        max_deviation_mm=round(line_distance(lines(outline.path, chord), lines(path, chord)), 4),
    )
    return Outcome(sheet.replaced({outline.id: (new,)}), (outline.id,), evidence)
