"""`edit-nodes`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.distance import line_distance
from unkelt.geometry.edit.edit import EDITS, edited, handle_places, node_places
from unkelt.geometry.flatten import lines
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Outline, Sheet
from unkelt.steps.evidence import Renoded
from unkelt.steps.grip import Grip, Handle, Handles, InHand
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Edited(Renoded):
    """Edits of one outline by hand, and its pieces afterwards."""

    edits: int
    pieces_after: int

    def caption(self) -> str:
        return say_count("{count} edit", "{count} edits", self.edits)


MOST_NODES = 1500
"""More handles than this would hide the line they belong to."""


def _nodes(held: InHand) -> Handles:
    """The nodes as they now are, and the handles of the one that is picked, or was edited last; the line as it now
    runs.
    """
    if not isinstance(held.chosen[0], Outline):
        return Handles()
    path, picked = held.chosen[0].path, held.picked
    done = [edit for edit in str(held["edits"]).split(";") if edit.strip()]
    for edit in done:
        path = edited(path, edit)
    places = [Handle(name, x, y, say("node {name}", name=name), node=True) for name, x, y in node_places(path)][
        :MOST_NODES
    ]
    node = picked or (_edited_node(done[-1]) if done else "")
    stems = [(place.x, place.y) for place in places if place.name == node]
    if stems:
        arms = handle_places(path, node)
        places = [*(Handle(f"{way} {node}", x, y, "its handle", stem=stems[0]) for way, x, y in arms), *places]
    return Handles(tuple(places), path)


def _edited_node(edit: str) -> str:
    words = edit.split()
    return words[1] if len(words) > 1 and words[0] in ("move", "in", "out", "smooth", "corner", "add") else ""


def with_edit(edits: str, *new: str) -> str:
    """The edits with some more; those that only place the same nodes or handles again take their place."""
    done = [edit.strip() for edit in edits.split(";") if edit.strip()]
    heads = [edit.split()[:2] for edit in new]
    if [edit.split()[:2] for edit in done[-len(new) :]] == heads and all(h[0] in ("move", "in", "out") for h in heads):
        done = done[: -len(new)]
    return "; ".join([*done, *new])


def edits_of(word: str, nodes: Sequence[str]) -> list[str]:
    """One edit for each of these nodes; nodes are taken out from the last on, so that the others keep their numbers."""
    if word == "join":
        return [f"join {' '.join(nodes[:2])}"] if len(nodes) > 1 else []
    if word == "reverse":
        return [f"reverse {number}" for number in dict.fromkeys(node.split(":")[0] for node in nodes)]
    ordered = sorted(
        nodes, key=lambda node: tuple(map(int, node.split(":"))), reverse=word in ("take-out", "add", "split")
    )
    return [f"{word} {node}" for node in ordered]


def _node_dragged(held: InHand, handle: Handle, to: tuple[float, float], along: Sequence[Handle]) -> dict[str, str]:
    """Other nodes that are picked move along."""
    edits = str(held["edits"])
    if " " in handle.name:
        word, node = handle.name.split(" ")
        return {"edits": with_edit(edits, f"{word} {node} {to[0]:.3f} {to[1]:.3f}")}
    dx, dy = to[0] - handle.x, to[1] - handle.y
    others = [each for each in along if each.node and each.name != handle.name]
    moves = [f"move {each.name} {each.x + dx:.3f} {each.y + dy:.3f}" for each in others]
    return {"edits": with_edit(edits, *moves, f"move {handle.name} {to[0]:.3f} {to[1]:.3f}")}


@step(
    "edit-nodes",
    "Edit the nodes by hand",
    on=On.OUTLINES,
    purpose=Purpose.SHAPE,
    redraws=Reason.RESHAPED,
    grip=Grip(_nodes, _node_dragged, nodes=True),
)
def edit_nodes(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    edits: Annotated[
        str,
        say(
            "what is done, one after the other, as “move 1:4 12.5 30.2; take-out 1:7”: {listed}",
            listed=", ".join(EDITS),
        ),
        Field("Edits"),
    ] = "",
) -> Outcome:
    """Changes single nodes of one outline. Nodes are moved with their handles, added, made smooth or a corner, or
    removed while the shape is kept as far as possible. Handles are moved, and segments made straight. Subpaths get
    another start or direction, are split, or are joined. A node is named by its subpath and number, counted from 1;
    places are in mm.

    A person changes the shape on purpose here. The evidence says how far the new shape lies from the old one,
    measured in both directions.
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
            raise StepRefused(
                "edit-nodes",
                say("edit {number}, “{text}”: {problem}", number=number, text=edit.strip(), problem=problem),
            ) from problem
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
