"""What of a step can be taken hold of on the table while it is being set: where it lies, and what dragging it means.

A step that has such places says so in its declaration (`grip=`); all that is known of them stands in its own module.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from unkelt.geometry.measure import Box
from unkelt.geometry.path import Path, polygon
from unkelt.job.workshop import Workshop
from unkelt.sheet.model import Item, Sheet


@dataclass(frozen=True, slots=True)
class Handle:
    """A place on the sheet, in mm, that can be dragged; `words` say what for. A node is drawn small, and an arm on a
    stem from its node at `stem`.
    """

    name: str
    x: float
    y: float
    words: str
    node: bool = False
    stem: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Handles:
    """What can be dragged, and a line to be seen with it: a circle that text is set on, the way a thing is moved."""

    places: tuple[Handle, ...] = ()
    line: Path | None = None


@dataclass(frozen=True, slots=True)
class InHand:
    """A step as it is being set: its options by name, in mm and degrees; what it works on, and the box of its ink; the
    node that is `picked`, if any.
    """

    options: Mapping[str, Any]  # the kind of an option says its type
    chosen: tuple[Item, ...]
    box: Box
    sheet: Sheet
    workshop: Workshop
    picked: str = ""

    def __getitem__(self, name: str) -> Any:
        return self.options[name]

    @property
    def middle(self) -> tuple[float, float]:
        """Of what is chosen, in mm."""
        x0, y0, x1, y1 = self.box
        return (x0 + x1) / 2, (y0 + y1) / 2


@dataclass(frozen=True, slots=True)
class Grip:
    """`handles` says what there is to take hold of; `dragged` the options, as a person would write them, with which a
    handle lies at a place of the sheet, where the other handles that are given move along. `nodes` are edited one by
    one. `pointed` says the options that a click on a thing named already gives, where the place of it matters.
    """

    handles: Callable[[InHand], Handles]
    dragged: Callable[[InHand, Handle, tuple[float, float], Sequence[Handle]], dict[str, str]]
    nodes: bool = False
    pointed: Callable[[InHand, tuple[float, float]], dict[str, str]] | None = None


def by_place(usual: Callable[[InHand], tuple[float, float]], words: str) -> Grip:
    """The grip of a step with the options `x` and `y`: one place, which is the usual one while nothing is given."""

    def handles(in_hand: InHand) -> Handles:
        x, y = usual(in_hand)
        given = x if in_hand["x"] is None else in_hand["x"], y if in_hand["y"] is None else in_hand["y"]
        return Handles((Handle("place", *given, words),))

    def dragged(_setting: InHand, _handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
        return {"x": written_mm(to[0]), "y": written_mm(to[1])}

    return Grip(handles, dragged)


def outward(option: str, words: str, least: float | None = 0.0) -> Grip:
    """The grip of a step with one length: how far something lies off the right side of what is chosen, from `least`
    (mm) on.
    """

    def handles(in_hand: InHand) -> Handles:
        value = in_hand[option] or 0.0
        x, y = in_hand.box[2], (in_hand.box[1] + in_hand.box[3]) / 2
        return Handles((Handle(option, x + value, y, words),), polygon((x, y), (x + value, y), closed=False))

    def dragged(setting: InHand, _handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
        value = to[0] - setting.box[2]
        return {option: written_mm(value if least is None else max(value, least))}

    return Grip(handles, dragged)


def written_mm(value: float) -> str:
    """A length as a person would write it, to a hundredth."""
    return f"{round(value, 2) + 0.0:g} mm"
