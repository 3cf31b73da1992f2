"""`set-spacing`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Annotated, Literal

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import Glyph, set_lettering
from unkelt.lettering.shaping import spelled_out
from unkelt.lettering.taking_apart import line_starts
from unkelt.messages import say
from unkelt.sheet.model import Item, Lettering, Run, Sheet
from unkelt.steps.grip import Grip, Handle, Handles, InHand, written_mm
from unkelt.steps.lettering import LineFactor, ink_width, joins_opened, line_texts, saying, set_again, with_all_runs
from unkelt.steps.step import Field, On, Outcome, Purpose, step

Fit = Literal["spacing", "letters"]


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
    factor: LineFactor = None,
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
    if (lines is not None and lines <= 0) or (factor is not None and factor <= 0) or (width is not None and width <= 0):
        raise StepRefused("set-spacing", "distances of lines and widths must be greater than zero")
    stretched: list[float] = []

    def changed(text: Lettering) -> Lettering:
        text = with_all_runs(text, lambda run: replace(run, letter_spacing_mm=letters, word_spacing_mm=words))
        pitch = lines if lines is not None else factor * text.runs[0].size_mm if factor is not None else None
        if pitch is not None:
            text = _with_lines(text, pitch)
        text = replace(text, length_mm=None, stretch_glyphs=False)
        if width is not None:
            text = _fitted(text, width, by, workshop)
            stretched.extend(glyph.stretch for glyph in set_lettering(text, workshop.shelf).glyphs)
        return text

    outcome = set_again("set-spacing", sheet, items, workshop, changed)
    percent = round(100 * (stretched[0] - 1), 2) if stretched else 0.0
    opened = joins_opened(sheet, outcome, workshop)
    return saying(outcome, letters_stretched_percent=percent, joins_opened=opened)


def _with_lines(lettering: Lettering, pitch_mm: float) -> Lettering:
    """The same lines at this distance below each other, from the first."""
    if lettering.frame is not None:
        return replace(lettering, frame=replace(lettering.frame, pitch_mm=pitch_mm, factor=None))
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
