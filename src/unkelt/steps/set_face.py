"""`set-face`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import HeightOf, scaled, size_for, with_runs
from unkelt.lettering.likeness import Likeness, likeness_of, nearest_faces
from unkelt.lettering.nearest import in_face
from unkelt.messages import say
from unkelt.sheet.model import FaceQuery, Lettering, Run, Sheet
from unkelt.steps.lettering import (
    AxesOption,
    OnlyLetters,
    WidthOption,
    axes_asked,
    named_letters,
    saying,
    set_again,
    stretch_asked,
)
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step
from unkelt.survey.text_missing import describe

FamilyOption = Annotated[
    str,
    "the face's family, as it is on the shelf; without it, the face stays",
    Pictured("faces"),
    Field("Face", first=True),
]
WeightOption = Annotated[
    int | None,
    "its weight, from 1 to 1000: 400 is regular, 700 bold; without it, regular in another family",
    Field("Weight", first=True),
]
HeightOption = Annotated[
    float | None, "wanted height of the letters; without it, the size stays", Field("Height", first=True)
]
OfOption = Annotated[
    HeightOf,
    "what the height measures: capitals, the letter x, the ink of this text, or the em",
    Field("Height of", first=True),
]
NearestOption = Annotated[
    bool,
    "of text that its file draws in a face of its own: the installed face whose curves come nearest, at their size",
    Field("Nearest by its curves"),
]


@step(
    "set-face",
    "Set face and size",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    likely=On.TEXT,
    redraws=Reason.LETTERING,
)
def set_face(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    family: FamilyOption = "",
    weight: WeightOption = None,
    italic: Annotated[bool, "the italic of the family", Field("Italic")] = False,
    face_width: WidthOption = None,
    axes: AxesOption = "",
    height: HeightOption = None,
    of: OfOption = "capitals",
    nearest: NearestOption = False,
    letters: OnlyLetters = "",
) -> Outcome:
    """Sets live text, or single letters of it, in another face, at a chosen height of its letters. Spacing and place
    stay. The evidence gives the change of width.

    Some files draw text in a face of their own. The evidence then says how far each letter of the new face lies from
    that, and `nearest` chooses the face by it. Refused if the face is not installed or lacks a character.
    """
    if nearest:
        return _nearest(sheet, items, workshop)
    own_family = bool(family.strip() or weight is not None or italic or face_width is not None or axes.strip())
    if not own_family and height is None:
        raise StepRefused("set-face", "a face is yours to choose; nothing is put in its place by itself")
    if height is not None and height <= 0:
        raise StepRefused("set-face", "the height must be greater than zero")
    turned = axes_asked("set-face", axes)
    stretch = stretch_asked("set-face", face_width)

    def asked(run: Run) -> FaceQuery:
        """The face that a run is to be set in. Weight or slope alone keep the family."""
        if family.strip():
            return FaceQuery((family.strip(),), weight or 400, italic, stretch or "normal", turned)
        return replace(
            run.face,
            weight=weight or run.face.weight,
            italic=italic or run.face.italic,
            stretch=stretch or run.face.stretch,
            axes=tuple((dict(run.face.axes) | dict(turned)).items()),
        )

    def changed(text: Lettering) -> Lettering:
        which = named_letters("set-face", text, letters)
        if own_family:
            text = with_runs(replace(text, drawn=()), which, lambda run: replace(run, face=asked(run)))
            for query in dict.fromkeys(run.face for run in text.runs):
                if workshop.shelf.match(query) is None:
                    raise StepRefused("set-face", describe(query))
        if height is None:
            return text
        return _in_height(text, height, of, workshop, which if letters.strip() else None)

    outcome = set_again("set-face", sheet, items, workshop, changed)
    return saying(outcome, letters_off=_letters_off(sheet, outcome, workshop))


def _nearest(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Each text that its file draws itself in the face that comes nearest by its curves."""
    found: dict[str, Likeness] = {}

    def changed(text: Lettering) -> Lettering:
        alike = nearest_faces(text, workshop.shelf)
        if not alike:
            reason = "no installed face has its letters" if text.drawn else "the file doesn't draw its letters itself"
            raise StepRefused("set-face", say("“{text}”: {reason}", text=text.text, reason=say(reason)))
        found[text.id] = alike[0]
        plain = in_face(text, alike[0].face)
        return replace(plain, runs=tuple(replace(run, size_mm=alike[0].size_mm) for run in plain.runs))

    outcome = set_again("set-face", sheet, items, workshop, changed)
    return saying(outcome, letters_off=" · ".join(each for alike in found.values() for each in alike.words()))


def _letters_off(sheet: Sheet, outcome: Outcome, workshop: Workshop) -> str | None:
    """How far the letters of a face that was chosen lie from those that the file drew; nothing where it drew none."""
    said: list[str] = []
    for name in outcome.items:
        before, after = sheet.find(name), outcome.sheet.find(name)
        if isinstance(before, Lettering) and isinstance(after, Lettering) and before.drawn and not after.drawn:
            face = workshop.shelf.match(after.runs[0].face)
            alike = likeness_of(before, face) if face else None
            said += alike.words() if alike else []
    return " · ".join(said) or None


def _in_height(
    text: Lettering, height: float, of: HeightOf, workshop: Workshop, which: Sequence[int] | None
) -> Lettering:
    """The text, or some characters of it, scaled so that its capitals, or what else is asked for, are `height` high.
    Raises StepRefused.
    """
    size = size_for(text, height, of, workshop.shelf, which)
    if size is None:
        face = workshop.shelf.match(text.runs[0].face)
        lacking = say("{name} has none of the {of}", name=face.name, of=of) if face else describe(text.runs[0].face)
        raise StepRefused("set-face", lacking)
    if which is not None:
        return with_runs(replace(text, drawn=()), which, lambda run: replace(run, size_mm=size, capitals_mm=None))
    factor = size / text.runs[0].size_mm
    return scaled(text, factor) if abs(factor - 1) > 1e-9 else text
