"""What items are called: the name that people see, and the items that a name means."""

from __future__ import annotations

from collections.abc import Iterable

from unkelt.errors import StepRefused
from unkelt.messages import say, say_count
from unkelt.sheet.model import Group, Item, Lettering, Outline, Sheet

QUOTES = "“”\"'"


def name_of(item: Item) -> str:
    """The name that people see: the item's own, else its words, else its id. Without quotation marks."""
    return item.label if _has_own_name(item) and item.label else words_of(item) or item.id


def listed_name(item: Item) -> str:
    """The name as lists show it: words that can be read on the sheet stand in quotation marks."""
    own = _has_own_name(item) or not words_of(item)
    return name_of(item) if own else f"“{name_of(item)}”"


def words_of(item: Item) -> str:
    """The words that can be read on it; empty where it is no lettering."""
    if isinstance(item, Lettering):
        return item.text.strip()
    if not isinstance(item, Outline):
        return ""
    origin = item.origin.text.strip() if item.origin else ""
    return origin if origin.replace(" ", "") == item.letters else item.letters.strip()


def _has_own_name(item: Item) -> bool:
    """Whether it was given a name that isn't just its words."""
    return bool(item.label) and str(item.label).replace(" ", "") != words_of(item).replace(" ", "")


def called(item: Item | None, item_id: str = "") -> str:
    """The name in quotation marks; the id where the item is gone."""
    return f"“{name_of(item) if item is not None else item_id}”"


def fresh_label(sheet: Sheet, title: str) -> str:
    """The title, with a number where it is taken: a name should mean one thing."""
    taken = {item.label for item in sheet.walk()}
    number, name = 1, title
    while name in taken:
        number += 1
        name = f"{title} {number}"
    return name


def meant(step: str, sheet: Sheet, words: Iterable[str]) -> tuple[str, ...]:
    """The ids that ids and visible names stand for. What is neither stays as it is.

    Raises StepRefused where several items bear a name.
    """
    return tuple(dict.fromkeys(_one(step, sheet, word) for word in words))


def meant_in(step: str, sheet: Sheet, text: str) -> str:
    """The same for an option that holds one name, or several with commas between them."""
    if not text.strip():
        return ""
    whole = _one(step, sheet, text)
    if sheet.find(whole) is not None:
        return whole
    return ", ".join(meant(step, sheet, (part for part in text.split(",") if part.strip())))


def _one(step: str, sheet: Sheet, word: str) -> str:
    if sheet.find(word) is not None:
        return word
    name = word.strip().strip(QUOTES).strip()
    if sheet.find(name) is not None:
        return name
    bearing = [item for item in sheet.walk() if name_of(item) == name]
    if len(bearing) > 1:  # a group and the one thing that it holds are one to whoever looks
        inner = {held.id for item in bearing if isinstance(item, Group) for held in Sheet((0, 0), item.items).walk()}
        bearing = [item for item in bearing if item.id not in inner]
    if len(bearing) > 1:
        count = say_count("{count} item is", "{count} items are", len(bearing))
        ids = ", ".join(item.id for item in bearing)
        raise StepRefused(
            step,
            say(
                "{count} called “{name}”: choose one on the table, or name it by its id ({ids})",
                count=count,
                name=name,
                ids=ids,
            ),
        )
    return bearing[0].id if bearing else word
