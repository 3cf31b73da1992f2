"""Texts that their file draws with curves of its own, put together and taken apart: no face is asked, no letter is
lost.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

from fontTools.misc.transform import Transform

from unkelt.geometry.measure import bounds
from unkelt.geometry.path import Path
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.sheet.model import Lettering, Pen, Run

Letters = tuple[tuple[str, Path], ...]
Piece = tuple[Run, int, int]
"""The characters of a run from a place up to another."""

BESIDE = 0.3
"""Letters are neighbours of one word where no more than this share of an advance lies between them."""

SAME_LINE = 0.2
"""Baselines nearer than this share of the size are one line."""


def joined_as_drawn(lines: Sequence[Sequence[Lettering]], shelf: Shelf) -> Lettering | None:
    """Lines of texts as one, each text with its place; none where the letters of one of them can't be had."""
    order = [part for line in lines for part in line]
    drawn: list[tuple[str, Path]] = []
    for part in order:
        setting = set_lettering(part, shelf)
        if not setting.complete:
            return None
        drawn += [(letters, path) for letters, _, path in setting.letters(part.placement)]
    runs = tuple(run for part in order for run in part.runs)
    return replace(order[0], runs=runs, anchor="start", length_mm=None, drawn=tuple(drawn), pens=())


def lines_of(parts: Sequence[Lettering]) -> list[list[Lettering]]:
    """Texts that start at their places, by line from the top, each line from its beginning."""

    def off(part: Lettering) -> float:
        return -(part.runs[0].at[0] or 0.0) if part.vertical else part.runs[0].at[1] or 0.0

    def along(part: Lettering) -> float:
        return (part.runs[0].at[1] if part.vertical else part.runs[0].at[0]) or 0.0

    lines: list[list[Lettering]] = []
    for part in sorted(parts, key=off):
        if lines and off(part) - off(lines[-1][0]) <= SAME_LINE * part.runs[0].size_mm:
            lines[-1].append(part)
        else:
            lines.append([part])
    return [sorted(line, key=along) for line in lines]


def parted_as_drawn(lettering: Lettering, by: Literal["lines", "words", "letters"]) -> list[Lettering]:
    """The parts of a text with the curves that the file has for each.

    Where in the line a part begins is known of its ink alone: that is where its text would begin in another face. All
    of it stays one where the file's letters are not those of the text.
    """
    pieces = list(_pieces(lettering, by))
    wanted = ["".join(run.text[a:b] for run, a, b in piece if run.text[a:b].strip()) for piece in pieces]
    shares = _shared(lettering.drawn, ["".join(words.split()) for words in wanted])
    if shares is None:
        return [lettering]
    alone = replace(lettering, anchor="start", length_mm=None, frame=None)
    stops = list(itertools.accumulate(len(drawn) for drawn in shares))
    return [
        replace(alone, runs=_runs(lettering, piece, drawn), drawn=drawn, pens=lettering.pens[stop - len(drawn) : stop])
        for piece, drawn, stop in zip(pieces, shares, stops, strict=True)
    ]


def reworded(lettering: Lettering, text: str) -> Lettering | None:
    """Other words in the letters that the file draws itself, spaced as it spaces them; none where one of them doesn't
    occur, or the file doesn't tell where its letters begin.

    Neighbours that stand beside each other in the file keep their distance, with its kerning; others have the advance
    of the embedded face between them.
    """
    pens, drawn = lettering.pens, lettering.drawn
    if not drawn or len(pens) != len(drawn) or len(lettering.runs) != 1:
        return None
    known: dict[str, int] = {}
    for index, (letters, _) in enumerate(drawn):
        known.setdefault(letters, index)
    if not set(text) - {" "} <= known.keys() or (" " in text and not lettering.space_mm):
        return None
    m = lettering.placement
    x, placed, made = pens[0].x, [], []
    pairs = {(drawn[i][0], drawn[i + 1][0]): i for i in range(len(drawn) - 1) if _beside(pens, i)}
    for place, letter in enumerate(text):
        if letter == " ":
            x += lettering.space_mm
            continue
        index = known[letter]
        if (pair := pairs.get((letter, text[place + 1 : place + 2]))) is not None:
            index = pair
        elif (pair := pairs.get((text[place - 1 : place], letter))) is not None:
            index = pair + 1
        dx, dy = x - pens[index].x, pens[0].y - pens[index].y
        by = Transform(1, 0, 0, 1, m.xx * dx + m.yx * dy, m.xy * dx + m.yy * dy)
        made.append((letter, drawn[index][1].transformed(by)))
        placed.append(replace(pens[index], x=x, y=pens[0].y))
        kerned = pairs.get((letter, text[place + 1 : place + 2]))
        x += pens[kerned + 1].x - pens[kerned].x if kerned is not None else pens[index].advance
    run = replace(lettering.runs[0], text=text, each=None)
    return replace(lettering, runs=(run,), drawn=tuple(made), pens=tuple(placed), length_mm=None)


def _beside(pens: Sequence[Pen], index: int) -> bool:
    """Whether the next letter follows without a space."""
    gap = pens[index + 1].x - pens[index].x - pens[index].advance
    return abs(gap) < BESIDE * pens[index].advance and pens[index + 1].y == pens[index].y


def _pieces(lettering: Lettering, by: str) -> list[list[Piece]]:
    """Which characters belong to each part."""
    pieces: list[list[Piece]] = []
    for run in lettering.runs:
        anew = run.at[1] is not None or not pieces
        for place, letter in enumerate(run.text):
            blank = letter.isspace()
            if by != "lines" and blank:
                anew = True
            elif anew or by == "letters":
                pieces.append([(run, place, place + 1)])
                anew = False
            elif pieces[-1][-1][0] is run:
                pieces[-1][-1] = (run, pieces[-1][-1][1], place + 1)
            else:
                pieces[-1].append((run, place, place + 1))
    return [piece for piece in pieces if any(run.text[a:b].strip() for run, a, b in piece)]


def _shared(drawn: Letters, words: Sequence[str]) -> list[Letters] | None:
    """The letters of each part; none where they don't follow the text, as where one stands for several parts at
    once.
    """
    rest = list(drawn)
    shares: list[Letters] = []
    for word in words:
        share: list[tuple[str, Path]] = []
        while word:
            if not rest or not rest[0][0] or not word.startswith(rest[0][0]):
                return None
            share.append(rest.pop(0))
            word = word[len(share[-1][0]) :]
        shares.append(tuple(share))
    return None if rest else shares


def _runs(lettering: Lettering, piece: Sequence[Piece], drawn: Letters) -> tuple[Run, ...]:
    """The runs of a part: where its line begins it stays, else it begins where its ink does."""
    runs = [replace(run, text=run.text[a:b], each=None, at=run.at if a == 0 else (None, None)) for run, a, b in piece]
    if runs[0].at == (None, None):
        box = bounds(drawn[0][1].transformed(lettering.placement.inverse()))
        place = lettering.runs[0].at
        x, y = (box[0], box[1]) if box else (0.0, 0.0)
        at = (place[0], y) if lettering.vertical else (x, place[1])
        runs[0] = replace(runs[0], at=at)
    return tuple(runs)
