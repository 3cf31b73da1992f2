"""`set-paragraph`"""

from __future__ import annotations

import re
from collections import Counter as Counts
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Annotated, Literal

from fontTools.misc.transform import Identity

from unkelt.account.changes import Reason
from unkelt.errors import NothingToDo, StepRefused
from unkelt.geometry.path import polygon
from unkelt.job.workshop import Workshop
from unkelt.lettering.frames import BREAK, laid_out, widest_word_mm
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shaping import spelled_out
from unkelt.lettering.taking_apart import MORE_ROOM, line_starts
from unkelt.messages import say, say_count
from unkelt.sheet.model import Each, Frame, Item, Lettering, Run, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import Grip, Handle, Handles, InHand, written_mm
from unkelt.steps.lettering import LineFactor
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets
from unkelt.survey.text_missing import describe

Align = Literal["as now", "left", "centre", "right"]
Hyphens = Literal["keep", "drop"]

_ANCHORS = {"left": "start", "centre": "middle", "right": "end"}
_SHARES = {"start": 0.0, "middle": 0.5, "end": 1.0}
ROUNDING_MM = 1e-6
ROOM_SHARE = 0.01
"""A frame around lines that are there has so much of their size to spare."""
_HYPHEN = re.compile(r"[-\u2010\u00ad]$")


@dataclass(frozen=True, kw_only=True)
class Framed(Evidence):
    """Texts in frames: their lines and letters before and after."""

    texts: int
    lines_before: int
    lines_after: int
    letters_before: int
    letters_after: int

    def caption(self) -> str:
        return say_count("{count} line", "{count} lines", self.lines_after)

    def headline(self) -> Sequence[str]:
        return (say("all {letters} letters are still there", letters=self.letters_after),)


def _right_edge(held: InHand) -> Handles:
    """The right edge of the frame: dragged, it gives the frame its width."""
    text = held.chosen[0]
    if not isinstance(text, Lettering) or text.guide is not None or text.vertical:
        return Handles()
    left, width = _left(text, _frame_now(text, held.workshop).width_mm), held["width"]
    wide = _frame_now(text, held.workshop).width_mm if width is None else width
    x, _ = text.placement.transformPoint((left + wide, text.runs[0].at[1] or 0.0))
    middle = (held.box[1] + held.box[3]) / 2
    edge = polygon((x, held.box[1]), (x, held.box[3]), closed=False)
    return Handles((Handle("width", x, middle, "the width of the frame"),), edge)


def _edge_dragged(held: InHand, _handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
    text = held.chosen[0]
    assert isinstance(text, Lettering)
    left = _left(text, _frame_now(text, held.workshop).width_mm)
    x, _ = text.placement.inverse().transformPoint(to)
    return {"width": written_mm(max(x - left, 1.0))}


def _as_it_is(_sheet: Sheet, chosen: Sequence[Item]) -> dict[str, str]:
    """The frame as it is, so that what isn't touched stays."""
    texts = [item for item in chosen if isinstance(item, Lettering) and item.frame is not None]
    if not texts or texts[0].frame is None:
        return {}
    frame = texts[0].frame
    found = {"width": frame.width_mm, "lines": frame.pitch_mm, "between": frame.between_mm, "gap": frame.gap_mm}
    return {name: written_mm(value) for name, value in found.items() if value} | (
        {"columns": str(frame.columns)} if frame.columns > 1 else {}
    )


WrapOption = Annotated[
    float | None,
    "wraps lines to this width; without it, that of the frame or of the ink",
    Field("Width", first=True),
]
AlignOption = Annotated[Align, "where in the frame the lines lie, by their ink", Field("Lines lie", first=True)]
PitchOption = Annotated[
    float | None,
    "the distance from one baseline to the next; without it, as now",
    Field("Line distance", first=True),
]


@step(
    "set-paragraph",
    "Set as a paragraph",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    redraws=Reason.LETTERING,
    grip=Grip(_right_edge, _edge_dragged),
    hints=_as_it_is,
)
def set_paragraph(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    width: WrapOption = None,
    align: AlignOption = "as now",
    lines: PitchOption = None,
    factor: LineFactor = None,
    between: Annotated[float, "added between two paragraphs", Field("Between paragraphs")] = 0.0,
    columns: Annotated[int, "number of columns, each as wide as the frame", Field("Columns")] = 1,
    gap: Annotated[float, "distance between two columns", Field("Between columns")] = 10.0,
    hyphens: Annotated[
        Hyphens, "hyphens at the ends of lines stay, or go and their words become whole", Field("Hyphens at line ends")
    ] = "keep",
) -> Outcome:
    """Sets live text in a frame: lines flow and are wrapped at spaces. Words are never parted.

    Lines with more room above them begin a paragraph. Proven: every letter is still there. Refused if a word is wider
    than the frame.
    """
    if any(value is not None and value <= 0 for value in (width, lines, factor)) or between < 0 or gap < 0:
        raise StepRefused("set-paragraph", "widths and distances must be greater than zero")
    if not 1 <= columns <= 20:
        raise StepRefused("set-paragraph", "the number of columns must be from 1 to 20")
    changes: dict[str, tuple[Item, ...]] = {}
    totals: Counts[str] = Counts()
    for text in targets("set-paragraph", sheet, items, Lettering):
        _check(text, workshop)
        frame = _frame_now(text, workshop)
        frame = replace(frame, between_mm=between, columns=columns, gap_mm=gap if columns > 1 else 0.0)
        if lines is not None or factor is not None:
            frame = replace(frame, pitch_mm=lines, factor=factor if lines is None else None)
        flowing = text if text.frame is not None else _flowing(text, hyphens)
        new = _aligned(replace(flowing, frame=frame, drawn=(), length_mm=None), frame, width, align)
        if new == text:
            continue
        totals += _counted(text, new, workshop, kept=hyphens == "keep")
        changes[text.id] = (new,)
    if not changes:
        raise NothingToDo("set-paragraph", "that is how it is set already")
    evidence = Framed(
        texts=len(changes),
        lines_before=totals["lines_before"],
        lines_after=totals["lines_after"],
        letters_before=totals["letters_before"],
        letters_after=totals["letters_after"],
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _counted(before: Lettering, after: Lettering, workshop: Workshop, *, kept: bool) -> Counts[str]:
    """Lines and letters before and after. Raises StepRefused where a word finds no room, or letters would be lost."""
    assert after.frame is not None
    needed = widest_word_mm(after, workshop.shelf)
    if needed > after.frame.width_mm + ROUNDING_MM:
        raise StepRefused("set-paragraph", say("a word needs {needed:.1f} mm, more than the frame has", needed=needed))
    was, now = (_letters(text, workshop) for text in (before, after))
    if kept and was != now:
        raise StepRefused("set-paragraph", "letters would be lost; nothing was changed")
    lines = [_lines(text, workshop) for text in (before, after)]
    return Counts(lines_before=lines[0], lines_after=lines[1], letters_before=was, letters_after=now)


def _check(text: Lettering, workshop: Workshop) -> None:
    """Raises StepRefused where text can't be set in a frame."""
    if text.guide is not None or text.vertical:
        raise StepRefused("set-paragraph", "text on a guide or down the page has one line")
    if text.drawn:
        raise StepRefused(
            "set-paragraph",
            "the file draws these letters itself; choose their face first",
            way_out="set-face",
        )
    missing = set_lettering(text, workshop.shelf).missing_faces
    if missing:
        raise StepRefused("set-paragraph", say("{face}; set its face first", face=describe(missing[0].face)))


def _lines(text: Lettering, workshop: Workshop) -> int:
    return len(line_starts(spelled_out(laid_out(text, workshop.shelf))))


def _letters(text: Lettering, workshop: Workshop) -> int:
    return sum(len("".join(glyph.letters.split())) for glyph in set_lettering(text, workshop.shelf).glyphs)


def _frame_now(text: Lettering, workshop: Workshop) -> Frame:
    """Its frame; where it has none, one as wide as its ink with the lines that it has."""
    if text.frame is not None:
        return text.frame
    whole = spelled_out(text)
    starts = set(line_starts(whole))
    ys, place = [], 0
    for run in whole.runs:
        if place in starts and run.at[1] is not None:
            ys.append(run.at[1])
        place += len(run.text)
    pitch = min((b - a for a, b in pairwise(ys) if b > a), default=None)
    own = replace(text, placement=Identity)
    ink = set_lettering(own, workshop.shelf).ink(Identity)
    if ink is None:
        return Frame(text.runs[0].size_mm, pitch)
    # From where its lines begin: a letter's own room before its ink counts.
    wide = ink[2] - (text.runs[0].at[0] or 0.0) if text.anchor == "start" else ink[2] - ink[0]
    return Frame(wide + ROOM_SHARE * text.runs[0].size_mm, pitch)


def _left(text: Lettering, width_mm: float) -> float:
    """The left edge of a frame of this width, in the text's own axes."""
    return (text.runs[0].at[0] or 0.0) - _SHARES[text.anchor] * width_mm


def _aligned(text: Lettering, frame: Frame, width: float | None, align: Align) -> Lettering:
    """The frame at its width, its edge or middle where it was, and its lines where they are asked for."""
    wide = frame.width_mm if width is None else width
    anchor = text.anchor if align == "as now" else _ANCHORS[align]
    # As the lines lie now, so the frame stays: at its left, its middle or its right.
    left = _left(text, wide)
    first = replace(text.runs[0], at=(left + _SHARES[anchor] * wide, text.runs[0].at[1]))
    return replace(text, runs=(first, *text.runs[1:]), anchor=anchor, frame=replace(frame, width_mm=wide))


def _flowing(text: Lettering, hyphens: Hyphens) -> Lettering:
    """Lines as one text: a space between two, a break where more room lies between them."""
    whole = spelled_out(text)
    starts = line_starts(whole)
    ys: list[float] = []
    lines: list[list[Run]] = []
    place = 0
    for run in whole.runs:
        if place in starts or not lines:
            lines.append([])
            ys.append(run.at[1] or 0.0)
        lines[-1].append(run)
        place += len(run.text)
    steps = [b - a for a, b in pairwise(ys)]
    usual = sorted(steps)[len(steps) // 2] if steps else 0.0
    runs: list[Run] = []
    for number, line in enumerate(lines):
        end = ""
        if number + 1 < len(lines):
            end = BREAK if steps[number] > MORE_ROOM * usual else " "
            if hyphens == "drop" and end == " " and _HYPHEN.search(line[-1].text.rstrip()):
                line[-1] = _shortened(line[-1])
                end = ""
        at = line[0].at if number == 0 else (None, None)
        line = [replace(run, at=(None, None)) for run in line]
        line[0] = replace(line[0], at=at)
        line[-1] = _ended(line[-1], end)
        runs += line
    return replace(text, runs=tuple(runs))


def _ended(run: Run, end: str) -> Run:
    """A run with what parts it from the next line in place of the spaces at its end."""
    text = run.text.rstrip() if end else run.text
    return _resized(run, text + end)


def _shortened(run: Run) -> Run:
    """Without the hyphen at its end."""
    return _resized(run, _HYPHEN.sub("", run.text.rstrip()))


def _resized(run: Run, text: str) -> Run:
    each = run.each
    assert each is not None
    size = len(text)
    lists = [[*values[:size], *([0.0] * (size - len(values)))] for values in (each.dx, each.dy)]
    turns = [*each.rotate[:size], *([each.rotate[-1] if each.rotate else 0.0] * (size - len(each.rotate)))]
    return replace(run, text=text, each=Each(dx=tuple(lists[0]), dy=tuple(lists[1]), rotate=tuple(turns)))
