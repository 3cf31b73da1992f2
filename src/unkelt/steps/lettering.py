"""`set-text`, `set-face`, `set-spacing`: live text corrected before it is outlined.

Taken before `outline-text` in a recipe they are how a misspelt name is put right afterwards: the steps that follow are
taken again.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Annotated

from unkelt.errors import StepRefused
from unkelt.lettering.setting import Setting, capital_share, set_lettering
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Item, Lettering, Run, Sheet
from unkelt.steps.step import Outcome, step, targets
from unkelt.survey.check import Workshop
from unkelt.survey.text_missing import describe


@step("set-text", "Change the wording", cures=())
def set_text(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    text: Annotated[str, "the words as they are to be"] = "",
    new: Annotated[bool, "a new line of lettering, instead of other words for one that is there"] = False,
    family: Annotated[str, "of a new line: the face's family, as it is on the shelf"] = "",
    capitals: Annotated[float, "of a new line: the height of its capitals"] = 20.0,
    x: Annotated[float | None, "of a new line: where it begins; without it, where the page's middle centres it"] = None,
    y: Annotated[float | None, "of a new line: its baseline; without it, the middle of the page"] = None,
    colour: Annotated[str, "of a new line: its colour"] = "#000000",
) -> Outcome:
    """Gives live text other words, or adds a new line of it. Of a text that is there, face, size, spacing, place and guide
    stay; so do pieces set alike at its start.

    Refused when the face lacks a character or the words find no room on their guide: nothing is replaced silently.
    """
    if not text.strip():
        raise StepRefused("set-text", "there are no words to set")
    if new:
        return _added(sheet, workshop, text.strip(), family.strip(), capitals, (x, y), colour)

    def reworded(lettering: Lettering) -> Lettering:
        first = lettering.runs[0]
        return replace(lettering, runs=(replace(first, text=text, each=None),), drawn=(), length_mm=None)

    return set_again("set-text", sheet, items, workshop, reworded)


@step("set-face", "Set in another face", cures=("text.font-missing", "text.glyph-missing"))
def set_face(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    family: Annotated[str, "the face's family, as it is on the shelf"] = "",
    weight: Annotated[int, "its weight, from 1 to 1000; 400 is regular"] = 400,
    italic: Annotated[bool, "the italic of the family"] = False,
) -> Outcome:
    """Sets live text in a face of the shelf; size, spacing and place stay. The change of width is part of the evidence.

    Refused when the face is not on the shelf or lacks a character.
    """
    if not family.strip():
        raise StepRefused("set-face", "no face is named")
    query = FaceQuery((family.strip(),), weight, italic)
    if workshop.shelf.match(query) is None:
        raise StepRefused("set-face", describe(query))
    return set_again(
        "set-face", sheet, items, workshop, lambda text: _with_runs(text, lambda run: replace(run, face=query))
    )


@step("set-spacing", "Set the spacing", cures=())
def set_spacing(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    letters: Annotated[float, "room added after every letter; a negative amount takes it away"] = 0.0,
    words: Annotated[float, "room added to every space between words"] = 0.0,
) -> Outcome:
    """Sets the letter and word spacing of live text. The letters themselves keep their shape.

    Where letter spacing isn't zero, optional ligatures are switched off, as CSS asks.
    """
    return set_again(
        "set-spacing",
        sheet,
        items,
        workshop,
        lambda text: _with_runs(text, lambda run: replace(run, letter_spacing_mm=letters, word_spacing_mm=words)),
    )


def _added(
    sheet: Sheet,
    workshop: Workshop,
    text: str,
    family: str,
    capitals_mm: float,
    at: tuple[float | None, float | None],
    colour: str,
) -> Outcome:
    query = FaceQuery((family,))
    face = workshop.shelf.match(query) if family else None
    share = capital_share(face) if face else 0.0
    if face is None:
        raise StepRefused("set-text", describe(query) if family else "no face is named for the new line")
    if capitals_mm <= 0 or not share:
        raise StepRefused(
            "set-text", "the height must be greater than zero" if share else f"{face.name} has no capitals"
        )
    if not re.fullmatch("#[0-9a-f]{6}", colour.lower()):
        raise StepRefused("set-text", f"“{colour}” is no colour such as #0b5d4c")
    width, height = sheet.page_mm
    x, y = (width / 2 if at[0] is None else at[0]), (height / 2 if at[1] is None else at[1])
    run = Run(text, query, capitals_mm / share, Appearance(fill=colour.lower()), at=(x, y))
    lettering = Lettering(sheet.fresh_id("lettering"), (run,), anchor="middle" if at[0] is None else "start")
    setting = set_lettering(lettering, workshop.shelf)
    if setting.missing_letters:
        raise StepRefused("set-text", f"the face has no “{setting.missing_letters}”")
    evidence: dict[str, float | int | str] = {
        "texts": 1,
        "width_before_mm": 0.0,
        "width_after_mm": round(_width(setting, lettering), 3),
        "words": text,
    }
    return Outcome(replace(sheet, items=(*sheet.items, lettering)), (lettering.id,), evidence)


def _with_runs(lettering: Lettering, change: Callable[[Run], Run]) -> Lettering:
    return replace(lettering, runs=tuple(change(run) for run in lettering.runs), drawn=())


def set_again(
    name: str, sheet: Sheet, items: tuple[str, ...], workshop: Workshop, change: Callable[[Lettering], Lettering]
) -> Outcome:
    """Every chosen text changed, set, and measured before and after. Raises StepRefused where it can't be set so."""
    changes: dict[str, tuple[Item, ...]] = {}
    before = after = 0.0
    for lettering in targets(name, sheet, items, Lettering):
        new = change(lettering)
        if new == lettering:
            continue
        setting = set_lettering(new, workshop.shelf)
        if setting.missing_faces:
            raise StepRefused(name, f"{describe(setting.missing_faces[0].face)}; set its face first")
        if setting.missing_letters:
            raise StepRefused(name, f"the face has no “{setting.missing_letters}”")
        if setting.off_guide:
            raise StepRefused(name, f"{setting.off_guide} letters would find no room on their guide")
        before += _width(set_lettering(lettering, workshop.shelf), lettering)
        after += _width(setting, new)
        changes[lettering.id] = (new,)
    if not changes:
        raise StepRefused(name, "that is how it is set already")
    evidence: dict[str, float | int | str] = {
        "texts": len(changes),
        "width_before_mm": round(before, 3),
        "width_after_mm": round(after, 3),
        "words": " · ".join(item.text for new in changes.values() for item in new if isinstance(item, Lettering)),
    }
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _width(setting: Setting, lettering: Lettering) -> float:
    ink = setting.ink(lettering.placement)
    return ink[2] - ink[0] if ink else 0.0
