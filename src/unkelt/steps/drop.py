"""`drop-guide` and `drop-item`: what is taken out whole."""

from __future__ import annotations

from dataclasses import dataclass

from unkelt.account.changes import Reason
from unkelt.account.declare import going
from unkelt.anatomy.left_guides import guides
from unkelt.errors import NothingToDo, StaleTarget, StepRefused
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Group, Outline, Sheet
from unkelt.steps.evidence import Dropped, Evidence
from unkelt.steps.step import On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class GuidesDropped(Evidence):
    """Guides that went, and outlines that stay."""

    guides_dropped: int
    outlines_kept: int

    def caption(self) -> str:
        return say_count("{count} guide", "{count} guides", self.guides_dropped)


@dataclass(frozen=True, kw_only=True)
class ItemsDropped(Dropped):
    """Items that went, with their subpaths."""

    items_dropped: int

    def caption(self) -> str:
        return say_count("{count} item", "{count} items", self.items_dropped)


@step(
    "drop-guide",
    "Remove the guide",
    on=On.NOTHING,
    purpose=Purpose.CLEAN,
    safe=True,
)
def drop_guide(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Removes the lines that text is or was set on. The letters stay where they are, because live text keeps its
    own guide.

    Without items, the step removes only lines that are certainly guides. Refused for a line without letters on it,
    and for a line that the ticket's key calls cut.
    """
    chosen = {outline.id for outline in targets("drop-guide", sheet, items, Outline)}
    left = [each for each in guides(sheet, workshop.ticket) if each.outline.id in chosen and (items or each.sure)]
    if not left:
        raise (StepRefused if items else NothingToDo)("drop-guide", "no text was set on any of these lines")
    if any(each.cut for each in left):
        raise StepRefused(
            "drop-guide", "the ticket's key calls this line's colour cut; take it out by hand if it isn't"
        )
    found = [each.outline for each in left]
    letters_before = len(sheet.outlines()) - len(found)
    after = sheet.replaced({guide.id: () for guide in found})
    evidence = GuidesDropped(guides_dropped=len(found), outlines_kept=letters_before, max_deviation_mm=0.0)
    changes = going(Reason.GUIDE, found, workshop.ticket, workshop.shelf)
    return Outcome(after, tuple(guide.id for guide in found), evidence, changes)


@step(
    "drop-item",
    "Delete",
    on=On.ITEMS,
    purpose=Purpose.LAYERS,
    redraws=Reason.DROPPED,
)
def drop_item(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:  # every step has one
    """Removes the named items from the sheet, and groups with everything in them. Nothing else changes."""
    if not items:
        raise StepRefused("drop-item", "no item is named")
    on_sheet = {item.id: item for item in sheet.walk()}
    for item_id in items:
        if item_id not in on_sheet:
            raise StaleTarget("drop-item", say("“{item_id}” is no longer on the sheet", item_id=item_id))
    after = sheet.replaced(dict.fromkeys(items, ()))
    left = {item.id for item in after.walk()}
    gone = [item for item in on_sheet.values() if item.id not in left and not isinstance(item, Group)]
    evidence = ItemsDropped(
        items_dropped=len(gone),
        subpaths_dropped=sum(len(item.path) for item in gone if isinstance(item, Outline)),
    )
    return Outcome(after, tuple(dict.fromkeys(items)), evidence)
