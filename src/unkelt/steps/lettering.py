"""What steps that correct live text share.

Taken before `outline-text` in a recipe they are how a misspelt name is put right afterwards: the steps that follow are
taken again.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Annotated, cast

import shapely

from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.region import regions
from unkelt.job.workshop import Workshop
from unkelt.lettering.frames import BREAK
from unkelt.lettering.ink_line import keeping_ink
from unkelt.lettering.letters import places_named
from unkelt.lettering.likeness import likeness_of
from unkelt.lettering.setting import Setting, set_lettering
from unkelt.lettering.shaping import spelled_out
from unkelt.lettering.taking_apart import line_starts
from unkelt.messages import say, say_count
from unkelt.sheet.model import Item, Lettering, Run, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, Outcome, Pictured, targets
from unkelt.survey.text_missing import describe


@dataclass(frozen=True, kw_only=True)
class SetAgain(Evidence):
    """Live text that was set: how many, the width of its ink (mm) before and after, and its words."""

    texts: int
    width_before_mm: float
    width_after_mm: float
    words: str
    letters_stretched_percent: float | None = None
    letters_swapped: int | None = None
    letters_that_collide: int | None = None
    letters_off: str | None = None
    joins_opened: int | None = None

    def caption(self) -> str:
        return say("“{words}”, {width:.1f} mm wide", words=self.words, width=self.width_after_mm)

    def details(self) -> Sequence[str]:
        wide = say(
            "ink {width_before_mm:.2f} → {width_after_mm:.2f} mm wide",
            width_before_mm=self.width_before_mm,
            width_after_mm=self.width_after_mm,
        )
        if self.joins_opened:
            return wide, say_count(
                "{count} join between letters is open now",
                "{count} joins between letters are open now",
                self.joins_opened,
            )
        if self.letters_off:
            return wide, say("farthest from what the file draws, letter by letter: {off}", off=self.letters_off)
        return "Set with the face's own shaping", wide


def line_texts(lettering: Lettering) -> list[str]:
    """The words of each line; in a frame, of each paragraph."""
    if lettering.frame is not None:
        return [part.strip() for part in "".join(run.text for run in lettering.runs).split(BREAK)]
    whole = spelled_out(lettering)
    text = "".join(run.text for run in whole.runs)
    edges = [*line_starts(whole), len(text)]
    return [text[a:b].strip() for a, b in pairwise(edges)]


def lines_in(text: str) -> list[str]:
    """What is written as lines: “ | ” or a line's end separates two."""
    return [line.strip() for line in re.split(r"\s\|\s|\n", text)]


def lines_of(text: str, first: Run, pitch_mm: float) -> tuple[Run, ...]:
    """A run for each line of a text, below each other from where the first begins."""
    x, y = first.at[0] or 0.0, first.at[1] or 0.0
    words = lines_in(text) if re.search(r"\s\|\s|\n", text) else [text]
    runs = [replace(first, text=line, at=(x, y + number * pitch_mm)) for number, line in enumerate(words) if line]
    runs[0] = replace(runs[0], at=first.at if runs[0].at[1] == y else runs[0].at)
    return tuple(runs)


USUAL_PITCH = 1.2
"""The distance of lines where none is given, as a share of the size (common practice, no source)."""


OnlyLetters = Annotated[
    str,
    "of live text only these letters, counted from 1 with the spaces: “3”, “2-4”, “1, 5”",
    Pictured("letters"),
    Field("Only letters"),
]
WhichLetters = Annotated[
    str,
    "which letters, counted from 1 with the spaces: “3”, “2-4”, “1, 5”; without it, all",
    Pictured("letters"),
    Field("Letters", first=True),
]
LineFactor = Annotated[
    float | None,
    "the distance of lines as a multiple of the letters' size; 1.2 is usual",
    "number",
    Field("Line distance, ×"),
]
WidthOption = Annotated[
    float | None,
    "how wide its letters run, in percent: 75 is condensed; without it, normal in another family",
    "number",
    Field("Width, %"),
]
AxesOption = Annotated[
    str, "places on the axes of a variable face, such as “wght 650, wdth 90”", Pictured("axes"), Field("Axes")
]


def named_letters(step: str, text: Lettering, letters: str) -> list[int]:
    """The places of the letters that are named, counted from 0; all where none is. Raises StepRefused."""
    if letters.strip() and text.drawn:
        raise StepRefused(
            step, "the file draws these letters itself; split them, or choose their face first", way_out="split-text"
        )
    try:
        return places_named(letters, sum(len(run.text) for run in text.runs))
    except ValueError as problem:
        raise StepRefused(step, str(problem)) from problem


def axes_asked(step: str, axes: str) -> tuple[tuple[str, float], ...]:
    """“wght 650, wdth 90” as places on the axes of a variable face. Raises StepRefused."""
    found = []
    for part in filter(None, (each.strip() for each in axes.split(","))):
        match = re.fullmatch(r"(\w{4})\s*[= ]\s*(-?\d+(?:\.\d+)?)", part)
        if not match:
            raise StepRefused(step, say("“{part}” is no place on an axis such as “wght 650”", part=part))
        found.append((match[1], float(match[2])))
    return tuple(found)


def stretch_asked(step: str, width: float | None) -> str:
    """A width in percent as CSS writes it; empty where none is asked for. Raises StepRefused."""
    if width is None:
        return ""
    if not 10 <= width <= 1000:
        raise StepRefused(step, "the width must be from 10 to 1000 percent")
    return "normal" if width == 100 else f"{width:g}%"


def set_again(
    name: str,
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    change: Callable[[Lettering], Lettering],
    *,
    keep_ink: bool = True,
) -> Outcome:
    """Every chosen text changed, set, and measured before and after. Where `keep_ink`, its ink stays centred, or
    starts or ends, where it did. Raises StepRefused where it can't be set so.
    """
    changes: dict[str, tuple[Item, ...]] = {}
    before = after = 0.0
    for lettering in targets(name, sheet, items, Lettering):
        new = change(lettering)
        if new == lettering:
            continue
        if lettering.drawn and not new.drawn and name not in OWN_FACE:
            keep_own_face(name, lettering, workshop)
        new = keeping_ink(lettering, new, workshop.shelf) if keep_ink else new
        setting = set_lettering(new, workshop.shelf)
        if setting.missing_faces:
            raise StepRefused(
                name, say("{describe}; set its face first", describe=describe(setting.missing_faces[0].face))
            )
        if setting.missing_letters:
            raise StepRefused(name, say("the face has no “{missing_letters}”", missing_letters=setting.missing_letters))
        if setting.off_guide:
            raise StepRefused(
                name, say("{off_guide} letters would find no room on their guide", off_guide=setting.off_guide)
            )
        before += ink_width(set_lettering(lettering, workshop.shelf), lettering)
        after += ink_width(setting, new)
        changes[lettering.id] = (new,)
    if not changes:
        raise NothingToDo(name, "that is how it is set already")
    evidence = SetAgain(
        texts=len(changes),
        width_before_mm=round(before, 3),
        width_after_mm=round(after, 3),
        words=" · ".join(item.text for new in changes.values() for item in new if isinstance(item, Lettering)),
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


OWN_FACE = ("set-face", "set-text")
"""These ask for themselves what letters become that the file draws."""

SAME_FACE = 2e-3
"""Letters of one face lie this near to those that a file draws, as a share of their size: rounding alone parts them."""


def keep_own_face(name: str, lettering: Lettering, workshop: Workshop, lacking: str = "") -> None:
    """Letters that the file draws itself are set in an installed face only where that is the file's own by its curves:
    it is never guessed. Raises StepRefused.
    """
    run = lettering.runs[0]
    face = workshop.shelf.match(run.face)
    alike = likeness_of(lettering, face) if face is not None else None
    if alike is not None and alike.farthest_mm <= SAME_FACE * run.size_mm:
        return
    if lacking:
        why = say("its own letters have no “{lacking}”", lacking=lacking)
    else:
        why = say("the file draws these letters itself")
    if face is None or alike is None:
        reason = say("{why}, and {face}; choose the face first", why=why, face=describe(run.face))
    else:
        reason = say(
            "{why}, and those of {face} differ by {off:.2f} mm; choose the face first",
            why=why,
            face=face.name,
            off=alike.farthest_mm,
        )
    raise StepRefused(name, reason, way_out="set-face")


def saying(
    outcome: Outcome,
    *,
    letters_stretched_percent: float | None = None,
    letters_swapped: int | None = None,
    letters_that_collide: int | None = None,
    letters_off: str | None = None,
    joins_opened: int | None = None,
) -> Outcome:
    """The outcome of a text set again, with more said of it."""
    evidence = replace(
        cast(SetAgain, outcome.evidence),
        letters_stretched_percent=letters_stretched_percent,
        letters_swapped=letters_swapped,
        letters_that_collide=letters_that_collide,
        letters_off=letters_off,
        joins_opened=joins_opened,
    )
    return replace(outcome, evidence=evidence)


def joins_opened(sheet: Sheet, outcome: Outcome, workshop: Workshop) -> int:
    """How many neighbouring letters of the texts that were worked on touched before and don't any more."""
    opened = 0
    for name in outcome.items:
        before, after = sheet.find(name), outcome.sheet.find(name)
        if isinstance(before, Lettering) and isinstance(after, Lettering):
            was, now = joints(before, workshop), joints(after, workshop)
            opened += max(0, sum(was) - sum(now)) if len(was) == len(now) else 0
    return opened


def joints(text: Lettering, workshop: Workshop) -> list[bool]:
    """Of each two neighbouring letters of a live text, whether they touch."""
    chord = workshop.ticket.tolerance.chord_mm
    letters = [path for said, _, path in set_lettering(text, workshop.shelf).letters(text.placement) if said.strip()]
    areas = regions([(path, False) for path in letters], chord)
    return [bool(shapely.intersects(a, b)) for a, b in pairwise(areas)]


def ink_width(setting: Setting, lettering: Lettering) -> float:
    """The width (mm) of the ink of a text as it is set; 0 without ink."""
    ink = setting.ink(lettering.placement)
    return ink[2] - ink[0] if ink else 0.0


def with_all_runs(lettering: Lettering, change: Callable[[Run], Run]) -> Lettering:
    return replace(lettering, runs=tuple(change(run) for run in lettering.runs), drawn=())
