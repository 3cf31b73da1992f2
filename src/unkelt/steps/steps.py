"""All steps, by name, what each cures, and the order in which the safe ones are taken.

A step's module is imported when the step is first asked for: to say which steps would cure a finding, none is.
"""

from __future__ import annotations

import importlib
from collections.abc import Iterator, MutableMapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from unkelt.steps.step import Step

SAFE_ORDER: tuple[str, ...] = (
    "drop-guide",  # while it is still a line of its own: a stroke made an outline, or a weld, would hide what it was
    "drop-scraps",  # for the same reason
    "drop-duplicate",  # a weld would merge copies without a word
    "unify-colours",  # near colours become one material before anything asks what belongs together
    "outline-text",  # all that follows works on outlines
    "restore-counters",  # a weld would swallow them
    "orient-rings",
    "weld",  # letters by their shape, while their strokes are still strokes: no line then runs through a joint
    "expand-stroke",
    "join-ends",  # an open letter can't be welded
    "drop-duplicate",  # what has become one only now
    "weld",  # what strokes became, and what was open before
    "bind",  # refuses while anything overlaps
    "resize",  # before nodes go, so that the tolerance holds at the size that is cut
    "reduce-nodes",  # last, within what the steps before have left of the tolerance
    "merge-nodes",  # what is still crowded when nothing else can go
    "hairline",
)
"""The order in which "Mend what is safe" takes the safe steps, and why."""


@dataclass(frozen=True)
class Listed:
    """Where a step is declared (a module of this room), and the findings that it would cure: “path.open” in every
    case, “path.open:near” in that case alone.
    """

    module: str
    cures: tuple[str, ...] = ()


def _in(module: str, cures: str = "") -> Listed:
    return Listed(module, tuple(cures.split()))


LISTED: dict[str, Listed] = {
    "drop-guide": _in("drop", "path.guide:sure path.guide:doubtful"),
    "drop-scraps": _in("drop_scraps", "path.stray"),
    "drop-duplicate": _in("drop_duplicate", "path.duplicate"),
    "unify-colours": _in("line", "line.colour-near"),
    "outline-text": _in("outline_text", "text.live:ready size.frame"),
    "restore-counters": _in("restore_counters", "compound.counter-apart:sure compound.counter-apart:doubtful"),
    "orient-rings": _in("orient_rings", "compound.winding:even-odd"),
    "weld": _in(
        "weld",
        "overlap.items:areas overlap.items:word overlap.items:closed overlap.self:area overlap.self:line "
        "compound.winding:nonzero compound.counter-apart:doubtful piece.unheld:many",
    ),
    "expand-stroke": _in("expand_stroke", "stroke.visible"),
    "join-ends": _in("close_ends", "path.open:near path.open:parts"),
    "bind": _in("bind", "compound.loose"),
    "resize": _in("resize", "size.off-ticket place.bed"),
    "reduce-nodes": _in("reduce_nodes", "nodes.excess"),
    "merge-nodes": _in("merge_nodes", "nodes.crowded"),
    "hairline": _in("line", "line.width stroke.visible:line"),
    "add-lettering": _in("add_lettering", "job.empty:blank"),
    "set-text": _in("set_text", "text.live:beyond"),
    "set-face": _in("set_face", "text.font-missing text.glyph-missing text.face-versions text.live:lacking"),
    "set-spacing": _in("set_spacing"),
    "set-paragraph": _in("set_paragraph"),
    "set-letters": _in("set_letters"),
    "stretch-text": _in("stretch_text"),
    "set-on-guide": _in("set_on_guide"),
    "split-text": _in("split_text"),
    "join-text": _in("split_text"),
    "thicken": _in("thicken", "fine.stroke fine.gap"),
    "set-stroke": _in("set_stroke"),
    "backing": _in("backing"),
    "border": _in("border"),
    "knock-out": _in("knock_out"),
    "close-joint": _in("close_joint", "overlap.gap piece.unheld:many"),
    "bridge": _in("bridge", "piece.unheld:counter piece.unheld:loose piece.unheld:many"),
    "let-in": _in("let_in", "overlap.items:closed overlap.items:open piece.unheld:loose piece.unheld:many"),
    "hang-ring": _in("hang_ring"),
    "add-shape": _in("add_shape"),
    "duplicate": _in("duplicate"),
    "spokes": _in("copies"),
    "grid": _in("copies"),
    "edit-nodes": _in("edit_nodes"),
    "ease-corners": _in("ease_corners"),
    "blunt-spikes": _in("blunt_spikes", "nodes.spike"),
    "close-subpath": _in("close_ends", "path.open:near path.open:apart"),
    "drop-item": _in(
        "drop",
        "content.picture content.hidden text.empty text.live:beyond path.duplicate path.stray "
        "path.guide:doubtful overlap.items:open overlap.self:line overlap.self:open place.bed",
    ),
    "drop-shared-edge": _in("drop_shared_edge", "path.shared-edge"),
    "unbind": _in("unbind"),
    "recover-text": _in("recover_text"),
    "reveal": _in("operation", "content.hidden job.empty:left"),
    "set-operation": _in("operation", "line.colour-unknown line.mixed line.width job.empty:left"),
    "set-colour": _in("set_colour", "line.colour-unknown line.mixed"),
    "fit-page": _in("fit_page", "place.off-page place.page-loose"),
    "move": _in("place", "place.off-page piece.unheld:loose"),
    "scale": _in("scale"),
    "rotate": _in("place"),
    "shear": _in("place"),
    "mirror": _in("place", "place.mirror"),
    "align": _in("align"),
    "stack": _in("align"),
    "state-units": _in("state_units", "size.units"),
    "rename": _in("organise"),
    "group": _in("organise"),
    "ungroup": _in("organise"),
}
"""All steps by name. Of several that cure a finding the earlier is the likelier, and by hand they are offered in this
order, the safe ones last.
"""


class Steps(MutableMapping[str, "Step"]):
    """Steps by name in the order of their list, each imported when it is first asked for."""

    def __init__(self, listed: dict[str, Listed]) -> None:
        self._listed = listed
        self._known: dict[str, Step] = {}

    def cures(self, name: str) -> tuple[str, ...]:
        """What a step cures, without importing it. Raises KeyError for a name that no step has."""
        return self._known[name].cures if name in self._known else self._listed[name].cures

    def __getitem__(self, name: str) -> Step:
        if name not in self._known:
            line = self._listed[name]
            module = importlib.import_module(f"unkelt.steps.{line.module}")
            self._known[name] = replace(getattr(module, name.replace("-", "_")), cures=line.cures)
        return self._known[name]

    def __setitem__(self, name: str, step: Step) -> None:
        self._known[name] = step

    def __delitem__(self, name: str) -> None:
        del self._known[name]

    def __iter__(self) -> Iterator[str]:
        return iter(dict.fromkeys([*self._listed, *self._known]))

    def __len__(self) -> int:
        return len(dict.fromkeys([*self._listed, *self._known]))


STEPS = Steps(LISTED)
