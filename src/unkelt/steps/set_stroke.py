"""`set-stroke`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, Literal

from unkelt.account.changes import Reason
from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.path import Path
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import with_look
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Appearance, Side
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Item, Lettering, Outline, Sheet
from unkelt.sheet.naming import called
from unkelt.steps.evidence import Worked
from unkelt.steps.grip import outward
from unkelt.steps.lettering import OnlyLetters, named_letters
from unkelt.steps.paint import plain
from unkelt.steps.place import check_items
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step

_JOINS = {"sharp": "miter", "round": "round", "cut off": "bevel"}
_CAPS = {"flat": "butt", "round": "round", "square": "square"}


class Stroked(Worked):
    """Items with another stroke."""

    def caption(self) -> str:
        return say_count("Stroke of {count} item", "Stroke of {count} items", self.items)


def _own_colour(_sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """The colour that the first of them has."""
    looks = [item.look if isinstance(item, Outline) else item.runs[0].look
             for item in chosen if isinstance(item, (Outline, Lettering))]  # fmt: skip
    return {"colour": looks[0].colour} if looks and looks[0].colour else {}


@step(
    "set-stroke",
    "Set the stroke",
    on=On.ITEMS,
    purpose=Purpose.SHAPE,
    redraws=Reason.REPAINTED,
    grip=outward("width", "the width of the stroke"),
    hints=_own_colour,
)
def set_stroke(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    width: Annotated[float, "the thickness that is seen; 0 takes the stroke off", Field("Width", first=True)] = 1.0,
    side: Annotated[
        Side, "where the width lies: on both sides of the edge, or all inside or outside", Field("Side", first=True)
    ] = "centre",
    colour: Annotated[
        str, "its colour; without it, the item's own", Pictured("colours"), Field("Colour", first=True)
    ] = "",
    fill: Annotated[
        Literal["keep", "none"], "whether what the stroke encloses stays painted", Field("Fill", first=True)
    ] = "keep",
    corners: Annotated[Literal["sharp", "round", "cut off"], "how corners are drawn", Field("Corners")] = "sharp",
    ends: Annotated[Literal["flat", "round", "square"], "how the ends of open lines are drawn", Field("Ends")] = "flat",
    letters: OnlyLetters = "",
) -> Outcome:
    """Gives live text or outlines a stroke of even thickness, inside, outside or on both sides of their edges.

    Live text stays live, and the width can be changed later. When it becomes an outline, its letters are welded by
    their shape first, so that no line runs through a word. Open lines have no inside, and are refused there.
    """
    if width < 0:
        raise StepRefused("set-stroke", "the width can't be negative")
    own = plain("set-stroke", colour) if colour.strip() else ""
    chosen = _chosen(sheet, items)
    changes: dict[str, tuple[Item, ...]] = {}

    def changed(look: Appearance) -> Appearance:
        if not width:
            return replace(look, stroke=None, fill=look.fill or look.stroke, stroke_side="centre")
        return replace(
            look,
            stroke=own or look.stroke or look.fill,
            stroke_width_mm=width,
            stroke_side=side,
            line_join=_JOINS[corners],
            line_cap=_CAPS[ends],
            fill=None if fill == "none" else look.fill,
            dashes_mm=(),
            pen=None,
        )

    for item in sheet.walk():
        if item.id not in chosen:
            continue
        new: Item = item
        if isinstance(item, Outline):
            if side != "centre" and width and not _closed(item.path):
                raise StepRefused("set-stroke", say("{name} is open and has no inside", name=called(item)))
            new = replace(item, look=changed(item.look))
        elif isinstance(item, Lettering):
            new = with_look(item, named_letters("set-stroke", item, letters), changed)
        if new != item:
            changes[item.id] = (new,)
    if not changes:
        raise NothingToDo("set-stroke", "these have such a stroke already")
    return Outcome(sheet.replaced(changes), tuple(changes), Stroked(items=len(changes), max_deviation_mm=0.0))


def _chosen(sheet: Sheet, items: tuple[str, ...]) -> set[str]:
    """The ids of the named items and of all they hold, or of everything. Raises StaleTarget."""
    check_items("set-stroke", sheet, items)
    return set(leaves(sheet, items)) if items else {item.id for item in sheet.walk()}


def _closed(path: Path) -> bool:
    return bool(path.closed.all())
