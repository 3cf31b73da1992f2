"""`set-text`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.embedded import reworded
from unkelt.lettering.letters import spelled_out
from unkelt.lettering.likeness import likeness_of
from unkelt.lettering.taking_apart import line_starts
from unkelt.messages import say
from unkelt.sheet.model import Item, Lettering, Sheet
from unkelt.steps.lettering import USUAL_PITCH, line_texts, lines_of, set_again
from unkelt.steps.step import Field, On, Outcome, Purpose, step
from unkelt.survey.text_missing import describe

SAME_FACE = 2e-3
"""Letters of one face lie this near to those that a file draws, as a share of their size: rounding alone parts them."""


def _first_words(_sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """The words as they are."""
    texts = [item for item in chosen if isinstance(item, Lettering)]
    return {"text": " | ".join(line_texts(texts[0]))} if texts else {}


@step(
    "set-text",
    "Change the text",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    cures=("text.live:beyond",),
    redraws=Reason.LETTERING,
    hints=_first_words,
)
def set_text(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    text: Annotated[str, "the new words; “ | ” separates two lines", Field("Text", first=True)] = "",
) -> Outcome:
    """Changes the words of live text. Face, size, spacing, place, guide and line distance stay, and so do parts of
    it that are set alike.

    Refused if the face lacks a character, or if the words don't fit on their guide: nothing is replaced silently.
    """
    if not text.strip():
        raise StepRefused("set-text", "there are no words to set")

    def worded(lettering: Lettering) -> Lettering:
        if lettering.drawn and (own := reworded(lettering, text.strip())) is not None:
            return own
        if lettering.drawn:
            _refuse_other_face(lettering, text, workshop)
        runs = lines_of(text, replace(lettering.runs[0], each=None), _pitch(lettering))
        if len(runs) > 1 and (lettering.guide or lettering.vertical):
            raise StepRefused("set-text", "text on a guide or down the page has one line")
        return replace(lettering, runs=runs, drawn=(), length_mm=None)

    return set_again("set-text", sheet, items, workshop, worded)


def _refuse_other_face(lettering: Lettering, text: str, workshop: Workshop) -> None:
    """Letters that the file doesn't draw come from the installed face only where that is the file's own by its curves.
    Raises StepRefused.
    """
    lacking = "".join(dict.fromkeys(each for each in text if each.strip() and each not in dict(lettering.drawn)))
    run = lettering.runs[0]
    face = workshop.shelf.match(run.face)
    alike = likeness_of(lettering, face) if face is not None else None
    if alike is not None and alike.farthest_mm <= SAME_FACE * run.size_mm:
        return
    if face is None or alike is None:
        reason = say("{face}, and its own letters have no “{lacking}”", face=describe(run.face), lacking=lacking)
    else:
        reason = say(
            "its own letters have no “{lacking}”, and those of {face} differ by {off:.2f} mm; choose the face first",
            lacking=lacking,
            face=face.name,
            off=alike.farthest_mm,
        )
    raise StepRefused("set-text", reason, way_out="set-face")


def _pitch(lettering: Lettering) -> float:
    """The distance from its first baseline to the second; the usual one where there is but one line."""
    whole = spelled_out(lettering)
    ys = [run.at[1] for run in whole.runs if run.at[1] is not None]
    starts = line_starts(whole)
    return abs(ys[1] - ys[0]) if len(starts) > 1 and len(ys) > 1 else USUAL_PITCH * lettering.runs[0].size_mm
