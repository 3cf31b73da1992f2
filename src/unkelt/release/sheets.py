"""What a package is made of: the sheet in the order of its operations, and the parts of it that get files of their
own.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

from fontTools.misc.transform import Transform

from unkelt.account.balance import Account, unexplained
from unkelt.account.changes import STILL
from unkelt.errors import InputError
from unkelt.geometry.path import EMPTY, Path, concat
from unkelt.job.cutting_order import depths_of
from unkelt.job.destination import GROUP, MATERIAL, OPERATION, Destination
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.release.marks import marks_around, with_marks
from unkelt.sheet.appearance import Operation
from unkelt.sheet.change import on_own_page, transformed
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
    by_colour = replace(ticket, materials={})  # an engraving on its own material would be hidden without a word
    account = Account(by_colour, workshop.shelf, ticket.tolerance.chord_mm)
    return sheet if unexplained(sheet, grouped, account, (), STILL) else grouped


def _inner_first(items: list[Item], ticket: Ticket) -> list[Item]:
    """What is cut, with what lies in something else before that."""
    paths = [concat([outline.path for outline in Sheet((0.0, 0.0), (item,)).outlines()] or [EMPTY]) for item in items]
    depths = depths_of(paths, ticket.tolerance.chord_mm)
    return [items[index] for index in sorted(range(len(items)), key=lambda index: -depths[index])]


@dataclass(frozen=True, slots=True)
class Part:
    """Part of a job, or all of it, as it goes into one file. `names` are those of its group, material and operations,
    as far as they tell it apart, as file names have them; `material` is the ticket's own word.
    """

    names: tuple[str, ...]
    sheet: Sheet
    material: str = ""
    is_whole: bool = False
    is_mirrored: bool = False

    @property
    def called(self) -> str:
        """For people: "birch, cut"."""
        return ", ".join(self.names)


def parts_of(sheet: Sheet, workshop: Workshop, destination: Destination) -> list[Part]:
    """What a destination gets a file of, each in the order of work. Materials lie on a page of their own that fits
    them; operations and groups where they lie on the sheet.

    Raises InputError where it wants a material mirrored that isn't there.
    """
    ticket = workshop.ticket
    parts = [Part((), sheet)]
    if GROUP in destination.each:
        parts = [Part((*part.names, name), one) for part in parts for name, one in _groups_of(part.sheet).items()]
    if MATERIAL in destination.each:
        _refuse_unknown(destination, ticket.by_material(sheet.outlines()))
        marks = marks_around(sheet) if destination.marks else ()
        parts = [each for part in parts for each in _materials_of(part, ticket, marks)]
    if OPERATION in destination.each:
        parts = [
            replace(part, names=(*part.names, name), sheet=one)
            for part in parts
            for name, one in _operations_of(part.sheet, ticket).items()
        ]
    made: list[Part] = []
    for part in parts:
        done = part.sheet
        if MATERIAL in destination.each:
            done, _ = on_own_page(done, MARGIN_MM)
            if OPERATION not in destination.each:
                work = [operation.value for operation in WORK if operation in ticket.by_operation(done.outlines())]
                part = replace(part, names=(*part.names, *work))
        mirrored = part.material in destination.mirrored
        done = _mirrored(done) if mirrored else done
        made.append(Part(part.names, by_operations(done, workshop), part.material, not destination.each, mirrored))
    return made


def _refuse_unknown(destination: Destination, present: Mapping[str, list[Outline]]) -> None:
    for name in destination.mirrored:
        if name not in present:
            words = say(
                "is to be mirrored for {destination}, but no material is called so (there are {listed})",
                destination=destination.name,
                listed=", ".join(present),
            )
            raise InputError(name, words)


def _mirrored(sheet: Sheet) -> Sheet:
    """As it is seen from behind, on the same page."""
    return transformed(sheet, Transform(-1, 0, 0, 1, sheet.page_mm[0], 0), strokes=False)


WORK = (Operation.ENGRAVE, Operation.SCORE, Operation.CUT)
"""The order of work."""


def _operations_of(sheet: Sheet, ticket: Ticket) -> dict[str, Sheet]:
    """Each operation alone; what the key doesn't know goes with what is cut."""
    present = ticket.by_operation(sheet.outlines())
    lists: dict[Operation, list[str]] = {}
    for operation, outlines in present.items():
        lists.setdefault(operation or Operation.CUT, []).extend(outline.id for outline in outlines)
    return {operation.value: _only(sheet, lists[operation]) for operation in WORK if operation in lists}


def _groups_of(sheet: Sheet) -> dict[str, Sheet]:
    """Each group of the sheet alone, and what lies in none."""
    made: dict[str, Sheet] = {}
    for group in (item for item in sheet.items if isinstance(item, Group)):
        made[_free(group.label or group.id, {"rest": sheet, **made})] = replace(sheet, items=(group,))
    rest = tuple(item for item in sheet.items if not isinstance(item, Group))
    return made | ({"rest": replace(sheet, items=rest)} if rest else {})


def _materials_of(part: Part, ticket: Ticket, marks: Sequence[Path]) -> list[Part]:
    """Each material alone, with the same registration marks in the paint of what is cut of it. What is painted in two
    is in both, in the paint of each.
    """
    made: dict[str, Sheet] = {}
    materials: list[str] = []
    for material, outlines in ticket.by_material(part.sheet.outlines()).items():
        materials.append(material)
        alone = _only(part.sheet, [outline.id for outline in outlines])
        painted = alone.mapped(partial(_in_material, material=material, ticket=ticket))
        looks = [outline.look for outline in painted.outlines()]
        look = next((look for look in looks if ticket.is_cut(look)), looks[0])
        made[_free(material, made)] = with_marks(painted, marks, look)
    named = zip(made.items(), materials, strict=True)
    return [Part((*part.names, name), one, material) for (name, one), material in named]


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


def _only(sheet: Sheet, names: Iterable[str]) -> Sheet:
    kept = set(names)
    return sheet.replaced({outline.id: () for outline in sheet.outlines() if outline.id not in kept})


def _free(wanted: str, taken: Mapping[str, Sheet]) -> str:
    """A file's name that nothing else in the package has."""
    name = first = slug(wanted.lstrip("#"))
    known = {each.lower() for each in (*taken, *(operation.value for operation in Operation))}
    count = 1
    while name.lower() in known:
        count += 1
        name = f"{first}-{count}"
    return name
