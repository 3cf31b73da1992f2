"""What a package is made of: the sheet in the order of its operations, and each operation, group or material alone."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import replace
from functools import partial

from unkelt.account.balance import Account, unexplained
from unkelt.account.changes import STILL
from unkelt.geometry.path import EMPTY, concat
from unkelt.job.cutting_order import depths_of
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.sheet.appearance import Operation
from unkelt.sheet.change import on_own_page
from unkelt.sheet.model import Group, Item, Outline, Sheet

MARGIN_MM = 5.0
"""Around a material on a page of its own."""


def slug(text: str) -> str:
    """A name that every file system takes."""
    return re.sub(r"[^\w.-]+", "-", text.strip(), flags=re.UNICODE).strip("-.") or "job"


def by_operations(sheet: Sheet, workshop: Workshop) -> Sheet:
    """The sheet with what is engraved, scored and cut in a group each, in the order a machine does it.

    As it is where the ticket has no key of colours, or where something would come to lie above what covers it now; what
    holds several operations stays where it was, beneath.
    """
    ticket = workshop.ticket
    if not ticket.key:
        return sheet
    taken = {item.id for item in sheet.walk()}
    groups: dict[Operation, list[Item]] = {Operation.ENGRAVE: [], Operation.SCORE: [], Operation.CUT: []}
    rest: list[Item] = []
    for item in sheet.items:
        found = {ticket.operation(outline.look) for outline in Sheet(sheet.page_mm, (item,)).outlines()}
        only = (next(iter(found)) if len(found) == 1 else None) or Operation.LEAVE
        groups.get(only, rest).append(item)
    groups[Operation.CUT] = _inner_first(groups[Operation.CUT], ticket)
    made = [
        Group(operation.value, tuple(items), operation.value.capitalize(), is_layer=True)
        for operation, items in groups.items()
        if items and operation.value not in taken
    ]
    left = [item for operation, items in groups.items() if operation.value in taken for item in items]
    grouped = replace(sheet, items=(*rest, *left, *made))
    account = Account(ticket, workshop.shelf, ticket.tolerance.chord_mm)
    return sheet if unexplained(sheet, grouped, account, (), STILL) else grouped


def _inner_first(items: list[Item], ticket: Ticket) -> list[Item]:
    """What is cut, with what lies in something else before that."""
    paths = [concat([outline.path for outline in Sheet((0.0, 0.0), (item,)).outlines()] or [EMPTY]) for item in items]
    depths = depths_of(paths, ticket.tolerance.chord_mm)
    return [items[index] for index in sorted(range(len(items)), key=lambda index: -depths[index])]


def operations_of(sheet: Sheet, ticket: Ticket) -> dict[str, Sheet]:
    """Each operation alone, where there are several."""
    present = ticket.by_operation(sheet.outlines())
    if len(present) < 2:
        return {}
    return {
        operation.value: _without(
            sheet, (outline for other, outlines in present.items() if other is not operation for outline in outlines)
        )
        for operation in (Operation.CUT, Operation.SCORE, Operation.ENGRAVE)
        if operation in present
    }


def groups_of(sheet: Sheet) -> dict[str, Sheet]:
    """Each group of the sheet alone, and what lies in none, where there is more than one of these."""
    made: dict[str, Sheet] = {}
    for group in (item for item in sheet.items if isinstance(item, Group)):
        made[_free(group.label or group.id, {"rest": sheet, **made})] = replace(sheet, items=(group,))
    rest = tuple(item for item in sheet.items if not isinstance(item, Group))
    if rest and made:
        made["rest"] = replace(sheet, items=rest)
    return made if len(made) > 1 else {}


def materials_of(sheet: Sheet, ticket: Ticket) -> dict[str, Sheet]:
    """Each material alone on a page of its own that fits it, where there are several. What is painted in two is in
    both, in the paint of each.
    """
    present = ticket.by_material(sheet.outlines())
    made: dict[str, Sheet] = {}
    for material, outlines in present.items() if len(present) > 1 else ():
        kept = {outline.id for outline in outlines}
        alone = _without(sheet, (outline for outline in sheet.outlines() if outline.id not in kept))
        painted = alone.mapped(partial(_in_material, material=material, ticket=ticket))
        page, _ = on_own_page(painted, MARGIN_MM)
        made[_free(material, made)] = page
    return made


def _in_material(item: Item, *, material: str, ticket: Ticket) -> Item:
    """An item with the paint of one material alone."""
    if not isinstance(item, Outline):
        return item
    look = item.look
    if look.fill_paint is not None and ticket.material(look.fill_paint) != material:
        look = replace(look, fill=None)
    if look.stroke_paint is not None and ticket.material(look.stroke_paint) != material:
        look = replace(look, stroke=None)
    return item if look is item.look else replace(item, look=look)


def _without(sheet: Sheet, outlines: Iterable[Outline]) -> Sheet:
    return sheet.replaced({outline.id: () for outline in outlines})


def _free(wanted: str, taken: Mapping[str, Sheet]) -> str:
    """A file's name that nothing else in the package has."""
    name = first = slug(wanted.lstrip("#"))
    known = {each.lower() for each in (*taken, *(operation.value for operation in Operation))}
    count = 1
    while name.lower() in known:
        count += 1
        name = f"{first}-{count}"
    return name
