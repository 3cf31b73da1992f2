"""`add-lettering`: words where there were none."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import HeightOf, scaled, size_for
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Lettering, Run, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.lettering import USUAL_PITCH, AxesOption, WidthOption, axes_asked, ink_width, lines_of, stretch_asked
from unkelt.steps.paint import plain
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step
from unkelt.survey.text_missing import describe


@dataclass(frozen=True, kw_only=True)
class Added(Evidence):
    """The words, and the size of their ink (mm)."""

    words: str
    width_mm: float
    height_mm: float

    def caption(self) -> str:
        return f"“{self.words}”"


@step(
    "add-lettering",
    "Add lettering",
    on=On.SHEET,
    purpose=Purpose.LETTERING,
    likely=On.SHEET,
    redraws=Reason.LETTERING,
)
def add_lettering(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    text: Annotated[str, "the words; “ | ” separates two lines", Field("Text", first=True)] = "",
    family: Annotated[
        str, "the face's family, as it is on the shelf", Pictured("faces"), Field("Face", first=True)
    ] = "",
    weight: Annotated[int, "its weight, from 1 to 1000: 400 is regular, 700 bold", Field("Weight")] = 400,
    italic: Annotated[bool, "the italic of the family", Field("Italic")] = False,
    face_width: WidthOption = None,
    axes: AxesOption = "",
    height: Annotated[
        float | None, "wanted height of the letters; without height and width, 20 mm", Field("Height", first=True)
    ] = None,
    of: Annotated[
        HeightOf,
        "what the height measures: capitals, the letter x, the ink of this text, or the em",
        Field("Height of"),
    ] = "capitals",
    width: Annotated[float | None, "wanted width of the ink, where no height is given", Field("Width")] = None,
    x: Annotated[float | None, "where it begins; without it, centred on the page", Field("Left")] = None,
    y: Annotated[
        float | None, "its baseline, from the top; without it, the middle of the page", Field("Baseline")
    ] = None,
    colour: Annotated[str, "its colour", Pictured("colours"), Field("Colour")] = "#000000",
) -> Outcome:
    """Adds live text to the sheet. Everything else stays as it is.

    Refused if the face is not installed or lacks a character: nothing is replaced silently.
    """
    if not text.strip():
        raise StepRefused("add-lettering", "there are no words to set")
    if (height is not None and height <= 0) or (width is not None and width <= 0):
        raise StepRefused("add-lettering", "a size must be greater than zero")
    stretch = stretch_asked("add-lettering", face_width) or "normal"
    query = FaceQuery((family.strip(),), weight, italic, stretch, axes_asked("add-lettering", axes))
    if not family.strip() or workshop.shelf.match(query) is None:
        raise StepRefused("add-lettering", describe(query) if family.strip() else "no face is named for the new text")
    lettering = _at_size(
        _set(sheet, text.strip(), query, (x, y), plain("add-lettering", colour)), height, width, of, workshop
    )
    setting = set_lettering(lettering, workshop.shelf)
    if setting.missing_letters:
        raise StepRefused(
            "add-lettering", say("the face has no “{missing_letters}”", missing_letters=setting.missing_letters)
        )
    if y is None and (ink := setting.ink(lettering.placement)) is not None:  # in the middle by what is seen
        down = sheet.page_mm[1] / 2 - (ink[1] + ink[3]) / 2
        right = sheet.page_mm[0] / 2 - (ink[0] + ink[2]) / 2 if x is None else 0.0
        lettering = replace(lettering, placement=lettering.placement.translate(right, down))
    box = set_lettering(lettering, workshop.shelf).ink(lettering.placement) or (0.0, 0.0, 0.0, 0.0)
    evidence = Added(words=text.strip(), width_mm=round(box[2] - box[0], 4), height_mm=round(box[3] - box[1], 4))
    return Outcome(replace(sheet, items=(*sheet.items, lettering)), (lettering.id,), evidence)


def _set(sheet: Sheet, text: str, query: FaceQuery, at: tuple[float | None, float | None], colour: str) -> Lettering:
    """The words at a size of 20 mm, where they are to begin."""
    width, height = sheet.page_mm
    x, y = (width / 2 if at[0] is None else at[0]), (height / 2 if at[1] is None else at[1])
    run = Run("", query, 20.0, Appearance(fill=colour), at=(x, y))
    runs = lines_of(text, run, USUAL_PITCH * run.size_mm)
    return Lettering(sheet.fresh_id("lettering"), runs, anchor="middle" if at[0] is None else "start")


def _at_size(text: Lettering, height: float | None, width: float | None, of: HeightOf, workshop: Workshop) -> Lettering:
    """The text at the size that its letters, or the width of its ink, ask for. Raises StepRefused."""
    if height is None and width is not None:
        now = ink_width(set_lettering(text, workshop.shelf), text)
        if not now:
            raise StepRefused("add-lettering", "these words have no ink")
        return scaled(text, width / now)
    wanted = 20.0 if height is None else height
    size = size_for(text, wanted, of, workshop.shelf)
    if size is None:
        face = workshop.shelf.match(text.runs[0].face)
        raise StepRefused("add-lettering", say("{name} has none of the {of}", name=face.name if face else "", of=of))
    return scaled(text, size / text.runs[0].size_mm)
