"""`split-text` and `join-text`"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace
from typing import Annotated

from unkelt.errors import NothingToDo, StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.taking_apart import SAME_MM, By, in_lines, joined, letter_paths, parted, shifted_mm
from unkelt.messages import say
from unkelt.sheet.model import Item, Lettering, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets


@dataclass(frozen=True, kw_only=True)
class Split(Evidence):
    """Texts before and after."""

    texts_before: int
    texts_after: int

    def caption(self) -> str:
        return say("{before} → {after} texts", before=self.texts_before, after=self.texts_after)


@dataclass(frozen=True, kw_only=True)
class OneText(Split):
    """Texts that became one, with all their letters."""

    letters_before: int
    letters_after: int
    words: str


@step("split-text", "Split text", on=On.TEXT, purpose=Purpose.LETTERING)
def split_text(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    by: Annotated[By, "what becomes an item of its own", Field("Into", first=True)] = "words",
) -> Outcome:
    """Takes live text apart into lines, words or letters, each an item of its own. Nothing moves.

    Refused if letters would change their shape or place when they stand alone, as in a script whose letters join.
    """
    changes: dict[str, tuple[Item, ...]] = {}
    taken = {item.id for item in sheet.walk()}
    farthest, count = 0.0, 0
    for lettering in targets("split-text", sheet, items, Lettering):
        alone = parted(lettering, by, workshop.shelf)
        if len(alone) < 2:
            continue
        parts = []
        for number, part in enumerate(alone):
            name = lettering.id if number == 0 else f"{lettering.id}-{number + 1}"
            while number and name in taken:
                name += "x"
            taken.add(name)
            parts.append(replace(part, id=name))
        moved = shifted_mm(lettering, parts, workshop.shelf)
        if moved > SAME_MM:
            raise StepRefused(
                "split-text",
                say("letters of “{text}” would change their shape or place when they stand alone", text=lettering.text),
            )
        farthest, count = max(farthest, moved), count + len(parts)
        changes[lettering.id] = tuple(parts)
    if not changes:
        raise NothingToDo("split-text", say("there is only one of the {by}", by=by))
    evidence = Split(texts_before=len(changes), texts_after=count, max_deviation_mm=round(farthest, 9))
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


@step("join-text", "Join text", on=On.TEXT, purpose=Purpose.LETTERING)
def join_text(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Makes one live text of several: letters into words, words into lines, lines into a paragraph. Nothing moves.

    Refused if the texts don't share their axes, direction or guide.
    """
    parts = targets("join-text", sheet, items, Lettering)
    if len(parts) < 2:
        raise NothingToDo("join-text", "one text alone can't be joined")
    lead = parts[0]
    for part in parts:
        alike = ("guide", "vertical", "upright", "direction", "stretch_glyphs", "length_mm")
        if any(getattr(part, key) != getattr(lead, key) for key in alike):
            raise StepRefused(
                "join-text", say("“{text}” and “{text_2}” don't run the same way", text=lead.text, text_2=part.text)
            )
        if any(abs(a - b) > 1e-9 for a, b in zip(part.placement[:4], lead.placement[:4], strict=True)):
            raise StepRefused(
                "join-text",
                say("“{text}” and “{text_2}” stand at different angles or scales", text=lead.text, text_2=part.text),
            )
    lines = in_lines([_into(part, lead) for part in parts], workshop.shelf)
    whole = joined(lines, workshop.shelf)
    if whole is None:
        raise StepRefused(
            "join-text", "a face is missing for letters that stand beside some which the file draws itself"
        )
    moved = shifted_mm(whole, itertools.chain.from_iterable(lines), workshop.shelf)
    letters = len(letter_paths(parts, workshop.shelf))
    if moved > SAME_MM or len(letter_paths([whole], workshop.shelf)) != letters:
        raise StepRefused("join-text", "letters would be lost, or change their shape or place; nothing was changed")
    evidence = OneText(
        texts_before=len(parts),
        texts_after=1,
        letters_before=letters,
        letters_after=letters,
        words=whole.text.strip(),
        max_deviation_mm=round(moved, 9),
    )
    changes: dict[str, tuple[Item, ...]] = {part.id: () for part in parts}
    changes[lead.id] = (replace(whole, id=lead.id),)
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _into(part: Lettering, lead: Lettering) -> Lettering:
    """The same text, its places said in the axes of another."""
    across = lead.placement.inverse().transform(part.placement)
    dx, dy = across.dx, across.dy
    if part.guide is not None or (abs(dx) < 1e-12 and abs(dy) < 1e-12):
        return part

    def moved(value: float | None, by: float) -> float | None:
        return None if value is None else value + by

    runs = [replace(run, at=(moved(run.at[0], dx), moved(run.at[1], dy))) for run in part.runs]
    return replace(part, runs=tuple(runs), placement=lead.placement)
