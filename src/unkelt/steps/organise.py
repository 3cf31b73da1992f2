"""`rename`, `group` and `ungroup`: the ledger's own steps. Nothing moves."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from unkelt.errors import NothingToDo, StepRefused
from unkelt.job.workshop import Workshop
from unkelt.messages import say_count
from unkelt.sheet.model import Group, Item, Sheet
from unkelt.steps.evidence import Evidence, Worked
from unkelt.steps.place import check_items
from unkelt.steps.step import Field, On, Outcome, Purpose, step


@dataclass(frozen=True, kw_only=True)
class Ungrouped(Evidence):
    """Groups that were taken apart."""

    groups: int

    def caption(self) -> str:
        return say_count("{count} group parted", "{count} groups parted", self.groups)


@step("rename", "Rename", on=On.ITEMS, purpose=Purpose.LAYERS)
def rename(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    name: Annotated[str, "the name in the ledger and in written files", Field("Name", first=True)] = "",
) -> Outcome:
    """Gives items a name for people. Recipes know items by their ids, which stay."""
    check_items("rename", sheet, items)
    if not items or not name.strip():
        raise StepRefused("rename", "choose an item, and give it a name")
    changes: dict[str, tuple[Item, ...]] = {}
    for item_id in items:
        item = sheet.find(item_id)
        if item is not None and item.label != name.strip():
            changes[item_id] = (replace(item, label=name.strip()),)
    if not changes:
        raise NothingToDo("rename", "that is its name already")
    return Outcome(sheet.replaced(changes), tuple(changes), Worked(items=len(changes)))


@step("group", "Group", on=On.ITEMS, purpose=Purpose.LAYERS)
def group(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    name: Annotated[str, "what the group is called", Field("Name", first=True)] = "",
) -> Outcome:
    """Makes a group of items that lie side by side in one group or on the sheet. The group takes the place of the
    topmost item.
    """
    check_items("group", sheet, items)
    wanted = set(items)
    holders = [holder for holder in levels(sheet) if wanted & {item.id for item in holder}]
    if len(wanted) < 2 or len(holders) != 1 or not wanted <= {item.id for item in holders[0]}:
        raise StepRefused("group", "choose two or more items that lie in the same group, or in none")
    level = holders[0]
    made = Group(sheet.fresh_id("group"), tuple(item for item in level if item.id in wanted), name.strip() or None)
    top = max(index for index, item in enumerate(level) if item.id in wanted)
    after = tuple(
        made if index == top else item for index, item in enumerate(level) if index == top or item.id not in wanted
    )
    return Outcome(_with_level(sheet, level, after), tuple(items), Worked(items=len(wanted)))


@step("ungroup", "Ungroup", on=On.ITEMS, purpose=Purpose.LAYERS)
def ungroup(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Removes groups and keeps their items in place. A group is named by its id, or by all its items."""
    check_items("ungroup", sheet, items)
    groups = [item for item in sheet.walk() if isinstance(item, Group) and item.id in items]
    if not groups:
        held = set(items)
        groups = [
            item for item in sheet.walk() if isinstance(item, Group) and held and {i.id for i in item.items} <= held
        ]
    if not groups:
        raise StepRefused("ungroup", "none of these is a group")
    return Outcome(
        sheet.replaced({each.id: each.items for each in groups}),
        tuple(each.id for each in groups),
        Ungrouped(groups=len(groups)),
    )


def levels(sheet: Sheet) -> list[tuple[Item, ...]]:
    """The items of the sheet, and those of each group: what lies side by side."""
    return [sheet.items, *(item.items for item in sheet.walk() if isinstance(item, Group))]


def _with_level(sheet: Sheet, level: tuple[Item, ...], after: tuple[Item, ...]) -> Sheet:
    if level is sheet.items:
        return replace(sheet, items=after)
    holder = next(item for item in sheet.walk() if isinstance(item, Group) and item.items is level)
    return sheet.replaced({holder.id: (replace(holder, items=after),)})
