"""`set-text`, `set-face`, `set-spacing`: live text corrected before it is outlined.

Taken before `outline-text` in a recipe they are how a misspelt name is put right afterwards: the steps that follow are
taken again.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Annotated, Literal, cast

from unkelt.account.changes import Reason
from unkelt.errors import NothingToDo, StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.ink_line import keeping_ink
from unkelt.lettering.letters import HeightOf, places_named, scaled, size_for, spelled_out, with_runs
from unkelt.lettering.setting import Glyph, Setting, set_lettering
from unkelt.lettering.taking_apart import line_starts
from unkelt.messages import say
from unkelt.sheet.model import FaceQuery, Item, Lettering, Run, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import Grip, Handle, Handles, InHand, written_mm
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step, targets
from unkelt.survey.text_missing import describe

Fit = Literal["spacing", "letters"]


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

    def caption(self) -> str:
        return say("“{words}”, {width:.1f} mm wide", words=self.words, width=self.width_after_mm)

    def details(self) -> Sequence[str]:
        return "Set with the face's own shaping", say(
            "ink {width_before_mm:.2f} → {width_after_mm:.2f} mm wide",
            width_before_mm=self.width_before_mm,
            width_after_mm=self.width_after_mm,
        )


def line_texts(lettering: Lettering) -> list[str]:
    """The words of each line."""
    whole = spelled_out(lettering)
    text = "".join(run.text for run in whole.runs)
    edges = [*line_starts(whole), len(text)]
    return [text[a:b].strip() for a, b in pairwise(edges)]


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

    def reworded(lettering: Lettering) -> Lettering:
        runs = lines_of(text, replace(lettering.runs[0], each=None), _pitch(lettering))
        if len(runs) > 1 and (lettering.guide or lettering.vertical):
            raise StepRefused("set-text", "text on a guide or down the page has one line")
        return replace(lettering, runs=runs, drawn=(), length_mm=None)

    return set_again("set-text", sheet, items, workshop, reworded)


def lines_of(text: str, first: Run, pitch_mm: float) -> tuple[Run, ...]:
    """A run for each line of a text, below each other from where the first begins."""
    x, y = first.at[0] or 0.0, first.at[1] or 0.0
    words = [line.strip() for line in re.split(r"\s\|\s|\n", text)] if re.search(r"\s\|\s|\n", text) else [text]
    runs = [replace(first, text=line, at=(x, y + number * pitch_mm)) for number, line in enumerate(words) if line]
    runs[0] = replace(runs[0], at=first.at if runs[0].at[1] == y else runs[0].at)
    return tuple(runs)


USUAL_PITCH = 1.2
"""The distance of lines where none is given, as a share of the size (common practice, no source)."""


def _pitch(lettering: Lettering) -> float:
    """The distance from its first baseline to the second; the usual one where there is but one line."""
    whole = spelled_out(lettering)
    ys = [run.at[1] for run in whole.runs if run.at[1] is not None]
    starts = line_starts(whole)
    return abs(ys[1] - ys[0]) if len(starts) > 1 and len(ys) > 1 else USUAL_PITCH * lettering.runs[0].size_mm


WidthOption = Annotated[
    float | None,
    "how wide its letters run, in percent: 75 is condensed; without it, normal in another family",
    "number",
    Field("Width, %"),
]
AxesOption = Annotated[
    str, "places on the axes of a variable face, such as “wght 650, wdth 90”", Pictured("axes"), Field("Axes")
]


@step(
    "set-face",
    "Set face and size",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    likely=On.TEXT,
    cures=("text.font-missing", "text.glyph-missing", "text.face-versions", "text.live:lacking"),
    redraws=Reason.LETTERING,
)
def set_face(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    family: Annotated[
        str,
        "the face's family, as it is on the shelf; without it, the face stays",
        Pictured("faces"),
        Field("Face", first=True),
    ] = "",
    weight: Annotated[
        int | None,
        "its weight, from 1 to 1000: 400 is regular, 700 bold; without it, regular in another family",
        Field("Weight", first=True),
    ] = None,
    italic: Annotated[bool, "the italic of the family", Field("Italic")] = False,
    face_width: WidthOption = None,
    axes: AxesOption = "",
    height: Annotated[
        float | None, "wanted height of the letters; without it, the size stays", Field("Height", first=True)
    ] = None,
    of: Annotated[
        HeightOf,
        "what the height measures: capitals, the letter x, the ink of this text, or the em",
        Field("Height of", first=True),
    ] = "capitals",
    letters: Annotated[
        str,
        "only these letters, counted from 1 with the spaces: “3”, “2-4”, “1, 5”; without it, all",
        Pictured("letters"),
        Field("Only letters"),
    ] = "",
) -> Outcome:
    """Sets live text, or single letters of it, in another face, at a chosen height of its letters. Spacing and place
    stay. The evidence gives the change of width.

    Refused if the face is not installed or lacks a character.
    """
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

    return set_again("set-face", sheet, items, workshop, changed)


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


def named_letters(step: str, text: Lettering, letters: str) -> list[int]:
    """The places of the letters that are named, counted from 0; all where none is. Raises StepRefused."""
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


def _spacing_now(_sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """The spacing as it is, so that what isn't touched stays."""
    texts = [item for item in chosen if isinstance(item, Lettering)]
    if not texts:
        return {}
    run = texts[0].runs[0]
    found = {"letters": run.letter_spacing_mm, "words": run.word_spacing_mm}
    return {name: written_mm(value) for name, value in found.items() if value}


def _spread(held: InHand) -> Handles:
    """The right end of the ink: dragged, it spreads the letters."""
    text = held.chosen[0]
    if not isinstance(text, Lettering) or text.guide is not None or _gaps(text) < 1:
        return Handles()
    now = (held["letters"] - text.runs[0].letter_spacing_mm) * _gaps(text)
    x, y = held.box[2] + now, (held.box[1] + held.box[3]) / 2
    return Handles((Handle("letters", x, y, "the space between letters"),))


def _spread_to(held: InHand, _handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
    text = held.chosen[0]
    assert isinstance(text, Lettering)
    return {"letters": written_mm(text.runs[0].letter_spacing_mm + (to[0] - held.box[2]) / _gaps(text))}


def _gaps(text: Lettering) -> int:
    """How many spaces between letters its longest line has."""
    return max((len(line) for line in line_texts(text)), default=1) - 1


@step(
    "set-spacing",
    "Set the spacing",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    likely=On.TEXT,
    redraws=Reason.LETTERING,
    grip=Grip(_spread, _spread_to),
    hints=_spacing_now,
)
def set_spacing(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    letters: Annotated[
        float, "space added after every letter; negative makes it tighter", Field("Between letters", first=True)
    ] = 0.0,
    words: Annotated[float, "space added between words", Field("Between words", first=True)] = 0.0,
    lines: Annotated[
        float | None,
        "the distance from one baseline to the next; without it, lines stay",
        Field("Line distance", first=True),
    ] = None,
    width: Annotated[
        float | None, "fits the ink of each line to this width; without it, the natural width", Field("Fit to width")
    ] = None,
    by: Annotated[
        Fit, "what to stretch: the space between letters, or the letters themselves", Field("Fit by")
    ] = "spacing",
) -> Outcome:
    """Sets the letter, word and line spacing of live text, or fits the text to a width. Letters keep their shape,
    unless you ask for narrower or wider letters; the evidence says by how much.

    Where letter spacing isn't zero, optional ligatures are off, as CSS asks.
    """
    if (lines is not None and lines <= 0) or (width is not None and width <= 0):
        raise StepRefused("set-spacing", "distances of lines and widths must be greater than zero")
    stretched: list[float] = []

    def changed(text: Lettering) -> Lettering:
        text = _with_runs(text, lambda run: replace(run, letter_spacing_mm=letters, word_spacing_mm=words))
        if lines is not None:
            text = _with_lines(text, lines)
        text = replace(text, length_mm=None, stretch_glyphs=False)
        if width is not None:
            text = _fitted(text, width, by, workshop)
            stretched.extend(glyph.stretch for glyph in set_lettering(text, workshop.shelf).glyphs)
        return text

    outcome = set_again("set-spacing", sheet, items, workshop, changed)
    percent = round(100 * (stretched[0] - 1), 2) if stretched else 0.0
    return saying(outcome, letters_stretched_percent=percent)


def _with_lines(lettering: Lettering, pitch_mm: float) -> Lettering:
    """The same lines at this distance below each other, from the first."""
    whole = spelled_out(lettering)
    starts = line_starts(whole)
    if len(starts) < 2:
        raise StepRefused("set-spacing", say("“{text}” has one line", text=lettering.text))
    runs: list[Run] = []
    place, line, first, own = 0, -1, 0.0, 0.0
    for run in whole.runs:
        if place in starts:
            line += 1
            own = run.at[1] or 0.0
            first = own if line == 0 else first
        y = run.at[1] - own + first + line * pitch_mm if run.at[1] is not None else None
        runs.append(replace(run, at=(run.at[0], y)))
        place += len(run.text)
    return replace(whole, runs=tuple(runs))


def _fitted(lettering: Lettering, width_mm: float, by: Fit, workshop: Workshop) -> Lettering:
    """Set so that its ink has a width. Both ways the ink's width is a straight line over the length asked for."""
    if lettering.guide or lettering.vertical or len(line_starts(spelled_out(lettering))) > 1:
        raise StepRefused("set-spacing", "only a single straight line can be fitted to a width")
    setting = set_lettering(lettering, workshop.shelf)
    if not setting.glyphs:
        raise StepRefused("set-spacing", say("“{text}” can't be set", text=lettering.text))
    natural = sum(glyph.advance for glyph in setting.glyphs)
    lengths = (natural, 1.25 * natural)
    tries = [replace(lettering, length_mm=length, stretch_glyphs=by == "letters") for length in lengths]
    (a, b), (wa, wb) = lengths, [ink_width(set_lettering(text, workshop.shelf), text) for text in tries]
    if abs(wb - wa) < 1e-9 * natural:
        raise StepRefused("set-spacing", "one letter has no room between letters; stretch the letter itself")
    length = a + (width_mm - wa) * (b - a) / (wb - wa)
    if length <= 0 or (
        by == "spacing" and any(second.x <= first.x for first, second in _neighbours(tries[0], length, workshop))
    ):
        raise StepRefused("set-spacing", say("letters would stand on each other at {width_mm:g} mm", width_mm=width_mm))
    return replace(tries[0], length_mm=length)


def _neighbours(text: Lettering, length_mm: float, workshop: Workshop) -> list[tuple[Glyph, Glyph]]:
    glyphs = set_lettering(replace(text, length_mm=length_mm), workshop.shelf).glyphs
    return [(a, b) for a, b in pairwise(glyph for glyph in glyphs if glyph.letters.strip())]


def _with_runs(lettering: Lettering, change: Callable[[Run], Run]) -> Lettering:
    return replace(lettering, runs=tuple(change(run) for run in lettering.runs), drawn=())


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


def saying(
    outcome: Outcome,
    *,
    letters_stretched_percent: float | None = None,
    letters_swapped: int | None = None,
    letters_that_collide: int | None = None,
) -> Outcome:
    """The outcome of a text set again, with more said of it."""
    evidence = replace(
        cast(SetAgain, outcome.evidence),
        letters_stretched_percent=letters_stretched_percent,
        letters_swapped=letters_swapped,
        letters_that_collide=letters_that_collide,
    )
    return replace(outcome, evidence=evidence)


def ink_width(setting: Setting, lettering: Lettering) -> float:
    """The width (mm) of the ink of a text as it is set; 0 without ink."""
    ink = setting.ink(lettering.placement)
    return ink[2] - ink[0] if ink else 0.0
