"""`set-text`"""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.embedded import reworded
from unkelt.lettering.frames import BREAK
from unkelt.lettering.shaping import spelled_out
from unkelt.lettering.taking_apart import line_starts
from unkelt.sheet.model import Item, Lettering, Run, Sheet
from unkelt.steps.lettering import USUAL_PITCH, keep_own_face, line_texts, lines_in, lines_of, set_again
from unkelt.steps.step import Field, On, Outcome, Purpose, step


def _first_words(_sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """The words as they are."""
    texts = [item for item in chosen if isinstance(item, Lettering)]
    return {"text": " | ".join(line_texts(texts[0]))} if texts else {}


@step(
    "set-text",
    "Change the text",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    redraws=Reason.LETTERING,
    hints=_first_words,
)
def set_text(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    text: Annotated[
        str, "the new words; “ | ” separates two lines, or two paragraphs in a frame", Field("Text", first=True)
    ] = "",
) -> Outcome:
    """Changes the words of live text. Face, size, spacing, place, guide, frame and line distance stay, and letters that
    stay keep what is their own.

    Refused if the face lacks a character, or if the words don't fit on their guide: nothing is replaced silently.
    """
    if not text.strip():
        raise StepRefused("set-text", "there are no words to set")

    def worded(lettering: Lettering) -> Lettering:
        if lettering.drawn and (own := reworded(lettering, text.strip())) is not None:
            return own
        if lettering.drawn:
            lacking = "".join(
                dict.fromkeys(each for each in text if each.strip() and each not in dict(lettering.drawn))
            )
            keep_own_face("set-text", lettering, workshop, lacking)
        first = replace(lettering.runs[0], each=None)
        if lettering.frame is not None:
            runs: tuple[Run, ...] = (replace(first, text=BREAK.join(lines_in(text))),)
        else:
            runs = lines_of(text, first, _pitch(lettering))
        if len(runs) > 1 and (lettering.guide or lettering.vertical):
            raise StepRefused("set-text", "text on a guide or down the page has one line")
        return replace(lettering, runs=_as_before(lettering.runs, runs), drawn=(), length_mm=None)

    return set_again("set-text", sheet, items, workshop, worded)


def _as_before(before: Sequence[Run], runs: Sequence[Run]) -> tuple[Run, ...]:
    """New words with what was set differently from the rest: letters that stay keep their face, size, colour and form,
    and new ones have those of the letter before them.
    """
    plain = [replace(run, text="", at=(None, None), shift=(0.0, 0.0), each=None) for run in before]
    if len(set(plain)) < 2:
        return tuple(runs)
    was = [style for run, style in zip(before, plain, strict=True) for _ in run.text]
    old, new = "".join(run.text for run in before), "".join(run.text for run in runs)
    styles: list[Run | None] = [None] * len(new)
    for i, j, count in difflib.SequenceMatcher(a=old, b=new, autojunk=False).get_matching_blocks():
        styles[j : j + count] = was[i : i + count]
    following = next((style for style in styles if style is not None), was[0])
    found: list[Run] = []
    place = 0
    for run in runs:
        for number, letter in enumerate(run.text):
            following = styles[place] or following
            place += 1
            if number and replace(found[-1], text="", at=(None, None)) == following:
                found[-1] = replace(found[-1], text=found[-1].text + letter)
            else:
                found.append(replace(following, text=letter, at=(None, None) if number else run.at))
    return tuple(found)


def _pitch(lettering: Lettering) -> float:
    """The distance from its first baseline to the second; the usual one where there is but one line."""
    whole = spelled_out(lettering)
    ys = [run.at[1] for run in whole.runs if run.at[1] is not None]
    starts = line_starts(whole)
    return abs(ys[1] - ys[0]) if len(starts) > 1 and len(ys) > 1 else USUAL_PITCH * lettering.runs[0].size_mm
