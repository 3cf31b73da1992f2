"""Paragraphs taken apart into lines, lines into words, words into letters, and put together again. Nothing moves."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np

from unkelt.geometry.path import Path
from unkelt.lettering.embedded import SAME_LINE, joined_as_drawn, lines_of, parted_as_drawn
from unkelt.lettering.faces import Shelf, open_face
from unkelt.lettering.frames import BREAK, laid_out
from unkelt.lettering.letters import Adjustment, adjusted, forms, glyphs_at, glyphs_between
from unkelt.lettering.setting import Glyph, central_mm, set_lettering
from unkelt.lettering.shaping import spelled_out
from unkelt.sheet.model import Each, Lettering, Run

By = Literal["paragraphs", "lines", "words", "letters"]

SAME_MM = 1e-6
"""Letters that are set again as they stood lie this near to where they were."""

SPACE_SHARE = 0.6
"""A gap wider than this share of the face's own space has a space in it."""


def parted(lettering: Lettering, by: By, shelf: Shelf) -> list[Lettering]:
    """The parts, each beginning at a place of its own; the caller gives them their ids. Single letters leave their
    guide.

    Letters that change shape when they stand alone, as joining scripts do, are for the caller to find: `shifted_mm`
    tells.
    """
    if by == "paragraphs":
        return _paragraphs(lettering, shelf)
    if lettering.drawn:
        return parted_as_drawn(lettering, by)
    lettering = laid_out(lettering, shelf)
    alone = replace(lettering, anchor="start", length_mm=None)
    if lettering.guide is not None and by == "letters":
        return [
            _standing(alone, glyph, shelf) for glyph in set_lettering(lettering, shelf).glyphs if glyph.letters.strip()
        ]
    return [replace(alone, runs=runs) for runs in _part_runs(lettering, by, shelf)]


MORE_ROOM = 1.25
"""A line so much farther below the one before than lines usually are begins a paragraph."""


def _paragraphs(lettering: Lettering, shelf: Shelf) -> list[Lettering]:
    """Lines that follow each other at the usual distance as one; in a frame, what its breaks part."""
    lines = parted(lettering, "lines", shelf)
    if len(lines) < 2:
        return lines
    if lettering.frame is not None:
        said = "".join(run.text for run in lettering.runs).split(BREAK)
        ends = list(itertools.accumulate(len("".join(part.split())) for part in said))
        letters = itertools.accumulate(len("".join(line.text.split())) for line in lines)
        begins = [0, *(number for number, count in enumerate(letters, 1) if count in ends)]
    else:
        ys = [line.runs[0].at[0 if line.vertical else 1] or 0.0 for line in lines]
        steps = np.abs(np.diff(ys))
        begins = [0, *(np.flatnonzero(steps > MORE_ROOM * np.median(steps)) + 1).tolist()]
    groups = [lines[a:b] for a, b in itertools.pairwise(dict.fromkeys([*begins, len(lines)]))]
    return [whole for group in groups if (whole := joined([[line] for line in group], shelf)) is not None]


def _standing(lettering: Lettering, glyph: Glyph, shelf: Shelf) -> Lettering:
    """A letter off its guide, where and as it stood. (Kerning is part of where it stands on a bend, and alone it has
    none.)
    """
    each = Each(dx=(0.0,), dy=(0.0,), rotate=(math.degrees(glyph.turn),))
    run = replace(glyph.run, text=glyph.letters, at=(glyph.x, glyph.y), shift=(0.0, 0.0), each=each, baseline_mm=0.0)
    straight = replace(lettering, guide=None, runs=(run,))
    return replace(straight, runs=_kept(straight, (run,), (glyph.glyph,), shelf))


def _part_runs(lettering: Lettering, by: By, shelf: Shelf) -> list[tuple[Run, ...]]:
    whole = spelled_out(lettering)
    glyphs: dict[int, Glyph] = {}
    for glyph in set_lettering(whole, shelf).glyphs:
        glyphs.setdefault(glyph.first, glyph)
    text = "".join(run.text for run in whole.runs)
    starts = line_starts(whole)
    parts = []
    for begin, end in itertools.pairwise([*starts, len(text)]):
        if by == "lines":
            parts.append((begin, end))
            continue
        for place in range(begin, end):
            if text[place].isspace():
                continue
            if not parts or parts[-1][1] != place or place == begin or (by == "letters" and place in glyphs):
                parts.append((place, place + 1))
            else:
                parts[-1] = (parts[-1][0], place + 1)
    made = [_cut(whole, begin, end, glyphs) for begin, end in parts if text[begin:end].strip()]
    if by == "lines":
        return made
    ranges = [(begin, end) for begin, end in parts if text[begin:end].strip()]
    kept = [
        _kept(lettering, runs, glyphs_between(whole, *places, shelf), shelf)
        for runs, places in zip(made, ranges, strict=True)
    ]
    return [
        _offset(lettering, runs, glyphs[begin], shelf) if begin in glyphs else runs
        for runs, (begin, _) in zip(kept, ranges, strict=True)
    ]


def _offset(lettering: Lettering, runs: tuple[Run, ...], was: Glyph, shelf: Shelf) -> tuple[Run, ...]:
    """The runs of a part moved by what its neighbours had moved its first glyph: old kerning tables do so."""
    now = set_lettering(replace(lettering, runs=runs, anchor="start", length_mm=None), shelf).glyphs
    x, y = runs[0].at
    if not now or now[0].offset == was.offset or x is None:
        return runs
    dx, dy = was.offset[0] - now[0].offset[0], was.offset[1] - now[0].offset[1]
    if lettering.guide is None:
        dx, dy = dx * math.cos(was.turn) - dy * math.sin(was.turn), dx * math.sin(was.turn) + dy * math.cos(was.turn)
    return (replace(runs[0], at=(x + dx, (y or 0.0) + dy)), *runs[1:])


def _kept(lettering: Lettering, runs: tuple[Run, ...], wanted: tuple[int, ...], shelf: Shelf) -> tuple[Run, ...]:
    """The runs of a part, with the features under which its letters keep the forms they had among their neighbours."""
    part = replace(lettering, runs=runs, anchor="start", length_mm=None)
    length = sum(len(run.text) for run in runs)
    if glyphs_between(part, 0, length, shelf) == wanted:
        return runs
    for place in range(length):
        for form in forms(part, place, shelf):
            switched = adjusted(part, [place], Adjustment(features=form.features), shelf)
            if glyphs_between(switched, 0, length, shelf) == wanted:
                return switched.runs
            if glyphs_at(switched, place, shelf) == wanted[place : place + 1]:
                part = switched
                break
    return part.runs


def line_starts(lettering: Lettering) -> list[int]:
    """The places of the characters with which a new line begins, in a text spelled out: runs with a place of their own
    off the baseline so far.
    """
    starts, place, y = [0], 0, None
    for run in lettering.runs:
        across = run.at[0] if lettering.vertical else run.at[1]
        if across is not None:
            if y is not None and abs(across - y) > SAME_LINE * run.size_mm and place not in starts:
                starts.append(place)
            y = across
        place += len(run.text)
    return starts


def _cut(lettering: Lettering, begin: int, end: int, glyphs: dict[int, Glyph]) -> tuple[Run, ...]:
    """The characters from `begin` to `end` as runs that start where they stood."""
    runs: list[Run] = []
    place = 0
    for run in lettering.runs:
        a, b = max(begin - place, 0), min(end - place, len(run.text))
        place += len(run.text)
        if a >= b or run.each is None:
            continue
        dx, dy, rotate = [*run.each.dx[a:b]], [*run.each.dy[a:b]], run.each.rotate[a:b]
        at = run.at if a == 0 else (None, None)
        first = place - len(run.text) + a
        if first in glyphs and (not runs or at != (None, None)):
            at = _start(glyphs[first], lettering)
            dx[0] = dy[0] = 0.0
        each = Each(dx=tuple(dx), dy=tuple(dy), rotate=rotate)
        runs.append(replace(run, text=run.text[a:b], at=at, shift=(dx[0], dy[0]), each=each))
    return tuple(runs)


def _start(glyph: Glyph, lettering: Lettering) -> tuple[float, float]:
    """Where the text of a glyph has to start for it to stand where it stands: on a guide, how far along."""
    if lettering.guide is not None:
        own = lettering.runs[0].at[1] or 0.0
        return glyph.along, own
    if lettering.vertical and lettering.upright:
        return glyph.x - glyph.run.baseline_mm, glyph.y
    if lettering.vertical:
        return glyph.x + central_mm(glyph.face, glyph.scale) - glyph.run.baseline_mm, glyph.y
    return glyph.x, glyph.y + glyph.run.baseline_mm


def shifted_mm(before: Lettering, after: Iterable[Lettering], shelf: Shelf) -> float:
    """How far the farthest point of any letter moved; infinite where one has another shape or is missing."""
    was, now = letter_paths([before], shelf), letter_paths(after, shelf)
    if len(was) != len(now):
        return math.inf
    farthest = 0.0
    for one, other in zip(was, now, strict=True):
        if one.points.shape != other.points.shape:
            return math.inf
        farthest = max(farthest, float(np.abs(one.points - other.points).max(initial=0.0)))
    return farthest


def letter_paths(texts: Iterable[Lettering], shelf: Shelf) -> list[Path]:
    """The curves of all letters on the sheet."""
    return [
        path
        for text in texts
        for letters, _, path in set_lettering(text, shelf).letters(text.placement)
        if letters.strip()
    ]


def in_lines(parts: Sequence[Lettering], shelf: Shelf) -> list[list[Lettering]]:
    """Texts in the order in which they are read, line by line; texts of several lines are taken apart for it."""
    return lines_of([line for part in parts for line in parted(part, "lines", shelf)])


def joined(lines: Sequence[list[Lettering]], shelf: Shelf) -> Lettering | None:
    """Lines of texts, as `in_lines` has them, as one; what stood stays where it was.

    Parts that follow each other as the shaper itself would set them become one run again, so that a text taken apart
    comes back as it was; others keep a place of their own. Where the file draws one with curves of its own, all keep
    the curves that they have; none where one has none. Letters that moved are for the caller to find: `shifted_mm`
    tells.
    """
    if any(part.drawn for line in lines for part in line):
        return joined_as_drawn(lines, shelf)
    runs: list[Run] = []
    lead = lines[0][0]
    for line in lines:
        spaced = [*_with_spaces(line, shelf)]
        natural = tuple(run for part in spaced for run in part.runs)
        natural = (natural[0], *(replace(run, at=(None, None)) for run in natural[1:]))
        common = set(natural[0].features).intersection(*(run.features for run in natural))
        shared = tuple(feature for feature in natural[0].features if feature in common)
        for tried in (tuple(replace(run, features=shared) for run in natural), natural):
            plain = replace(lead, runs=_merged(tried), anchor="start")
            if shifted_mm(plain, spaced, shelf) <= SAME_MM:
                runs += plain.runs
                break
        else:
            runs += _on_one_line([run for part in spaced for run in part.runs], lead.vertical)
    return replace(lead, runs=tuple(runs), anchor="start")


def _on_one_line(runs: list[Run], vertical: bool) -> list[Run]:
    """Runs with places of their own, each said along the line only: what lies off it is a shift."""
    if vertical:
        return runs
    y = runs[0].at[1] or 0.0
    result = runs[:1]
    for run in runs[1:]:
        if run.each is None or run.at[1] is None:
            result.append(run)
            continue
        # A shift off the line goes on to what follows, as in SVG; the next says its own.
        lowered = run.at[1] - y + run.each.dy[0]
        each = replace(run.each, dy=(lowered, *run.each.dy[1:]))
        result.append(replace(run, at=(run.at[0], None), each=each, shift=(each.dx[0], lowered)))
        y = run.at[1]
    return result


def _with_spaces(line: list[Lettering], shelf: Shelf) -> list[Lettering]:
    """The parts of a line, each but the last with the space that follows it, where one does."""
    spaced = []
    for part, following in itertools.pairwise([*line, None]):
        if part is None or following is None:
            spaced += [part] if part else []
            continue
        last = set_lettering(part, shelf).glyphs[-1]
        gap = (following.runs[0].at[1 if part.vertical else 0] or 0.0) - last.along - last.advance
        *before, end = part.runs
        if gap > SPACE_SHARE * _space_mm(last) and end.each is not None:
            each = Each(dx=(*end.each.dx, 0.0), dy=(*end.each.dy, 0.0), rotate=(*end.each.rotate, end.each.rotate[-1]))
            end = replace(end, text=f"{end.text} ", each=each)
        spaced.append(replace(part, runs=(*before, end)))
    return spaced


def _space_mm(glyph: Glyph) -> float:
    font = open_face(glyph.face)
    return font.get_glyph_h_advance(font.get_nominal_glyph(ord(" ")) or 0) * glyph.scale


def _merged(runs: Sequence[Run]) -> tuple[Run, ...]:
    """Runs that differ only in their text as one."""
    merged: list[Run] = []
    for run in runs:
        was = merged[-1] if merged else None
        if was and was.each and run.each and run.at == (None, None):
            each = Each(
                dx=was.each.dx + run.each.dx, dy=was.each.dy + run.each.dy, rotate=was.each.rotate + run.each.rotate
            )
            if replace(run, text="", at=was.at, shift=was.shift, each=None) == replace(was, text="", each=None):
                merged[-1] = replace(was, text=was.text + run.text, each=each)
                continue
        merged.append(run)
    return tuple(merged)
