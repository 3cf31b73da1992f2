"""Text in a frame: wrapped to a width at its spaces, in paragraphs and columns. Words are never parted.

SVG 2, section 11.7 (`inline-size`): the anchor of the text says where in the frame its lines lie. Without a distance of
lines they lie as far apart as the face's ascent, descent and line gap together (CSS 2, `line-height: normal`).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from unkelt.geometry.measure import bounds
from unkelt.lettering.faces import Face, Shelf, open_face
from unkelt.lettering.shaping import Stretch, glyph_path, shape, spelled_out
from unkelt.sheet.model import Each, Lettering, Run

BREAK = "\n"
"""Ends a paragraph."""

_SHARES = {"start": 0.0, "middle": 0.5, "end": 1.0}


@dataclass(frozen=True, slots=True)
class _Word:
    """Letters up to the next space, with the spaces that follow; several runs where they are set differently.

    `with_space` is the advance of all; `left` and `right` are where ink begins and ends.
    """

    runs: tuple[Run, ...]
    with_space: float
    left: float
    right: float
    ends: bool


def laid_out(lettering: Lettering, shelf: Shelf) -> Lettering:
    """The text of a frame as lines of their own; as it is without a frame, or where its lines have places already.

    Lines in the middle or at the end of the frame lie so by their ink.
    """
    frame, first = lettering.frame, lettering.runs[0]
    face = shelf.match(first.face)
    alone = all(run.at == (None, None) for run in lettering.runs[1:])
    if frame is None or face is None or not alone or lettering.guide or lettering.vertical:
        return lettering
    whole = spelled_out(lettering)
    if any(run.at != (None, None) for run in whole.runs[1:]):
        return lettering
    lines = list(_lines(_words(whole, shelf, face), frame.width_mm))
    x, y = first.at[0] or 0.0, first.at[1] or 0.0
    rows = -(-len(lines) // frame.columns)
    pitch, share = pitch_of(lettering, face), _SHARES[lettering.anchor]
    runs: list[Run] = []
    down = 0.0
    for number, line in enumerate(lines):
        column, row = divmod(number, rows)
        down = 0.0 if row == 0 else down + pitch + (frame.between_mm if lines[number - 1][-1].ends else 0.0)
        length = sum(word.with_space for word in line)
        end = length - line[-1].with_space + line[-1].right
        # Where the anchor puts the middle or the end of the advances, the ink is to be.
        off = share * length - (line[0].left + share * (end - line[0].left)) if share else 0.0
        at = (x + column * (frame.width_mm + frame.gap_mm) + off, y + down)
        own = [run for word in line for run in word.runs]
        runs += [replace(own[0], at=at), *(replace(run, at=(None, None)) for run in own[1:])]
    return replace(lettering, runs=tuple(_merged(runs)), frame=None)


def pitch_of(lettering: Lettering, face: Face) -> float:
    """The distance from one baseline of a frame to the next, in mm."""
    frame, size = lettering.frame, lettering.runs[0].size_mm
    if frame is not None and frame.pitch_mm is not None:
        return frame.pitch_mm
    if frame is not None and frame.factor is not None:
        return frame.factor * size
    extents, upem = open_face(face).get_font_extents("ltr"), open_face(face).face.upem
    return float((extents.ascender - extents.descender + extents.line_gap) / upem * size)


def widest_word_mm(lettering: Lettering, shelf: Shelf) -> float:
    """The narrowest frame that holds each word whole."""
    face = shelf.match(lettering.runs[0].face)
    return max((word.right for word in _words(spelled_out(lettering), shelf, face)), default=0.0) if face else 0.0


def _words(whole: Lettering, shelf: Shelf, usual: Face) -> Iterator[_Word]:
    """The words of a text that is spelled out; a break is a space that ends its paragraph."""
    pieces: list[Run] = []
    blank = False
    for run in whole.runs:
        start = 0
        for place, letter in enumerate(run.text):
            if blank and not (letter.isspace() and letter != BREAK):
                if place > start:
                    pieces.append(_part(run, start, place))
                    start = place
                if pieces:
                    yield _word(pieces, shelf, usual, ends=False)
                    pieces = []
                blank = False
            if letter == BREAK:
                pieces.append(_part(run, start, place + 1))
                start = place + 1
                yield _word(pieces, shelf, usual, ends=True)
                pieces = []
                continue
            blank = letter.isspace()
        if start < len(run.text):
            pieces.append(_part(run, start, len(run.text)))
    if pieces:
        yield _word(pieces, shelf, usual, ends=False)


def _part(run: Run, start: int, stop: int) -> Run:
    """Some characters of a run, a break as a space."""
    each = run.each
    assert each is not None
    own = Each(dx=each.dx[start:stop], dy=each.dy[start:stop], rotate=each.rotate[start:stop])
    text = run.text[start:stop].replace(BREAK, " ")
    return replace(run, text=text, at=run.at if start == 0 else (None, None), shift=(own.dx[0], own.dy[0]), each=own)


def _word(pieces: list[Run], shelf: Shelf, usual: Face, *, ends: bool) -> _Word:
    with_space = 0.0
    left, right = None, 0.0
    for run in pieces:
        face = shelf.match(run.face) or usual
        assert run.each is not None
        k = run.size_mm / open_face(face).face.upem
        dx = list(run.each.dx)
        stretch = Stretch([run] * len(run.text), run.text, (None, None), dx, list(run.each.dy), list(run.each.rotate))
        for index, glyph, _, offset, _, width in shape(face, stretch, False):
            box = bounds(glyph_path(face, glyph))
            with_space += dx[index]
            if box is not None:
                left = with_space + offset + k * run.width * box[0] if left is None else left
                right = with_space + offset + k * run.width * box[2]
            with_space += width
    return _Word(tuple(pieces), with_space, left or 0.0, right, ends)


def _lines(words: Iterator[_Word], width_mm: float) -> Iterator[list[_Word]]:
    """Words while there is room for them, to the end of their paragraph."""
    line: list[_Word] = []
    used = 0.0
    for word in words:
        if line and used + word.right > width_mm:
            yield line
            line, used = [], 0.0
        line.append(word)
        used += word.with_space
        if word.ends:
            yield line
            line, used = [], 0.0
    if line:
        yield line


def _merged(runs: list[Run]) -> Iterator[Run]:
    """Runs that follow each other and differ in nothing as one, so that letters kern across."""
    held: Run | None = None
    for run in runs:
        alike = held is not None and run.at == (None, None) and held.each is not None and run.each is not None
        if alike and replace(run, text="", at=(None, None), shift=(0.0, 0.0), each=None) == replace(
            held,
            text="",
            at=(None, None),
            shift=(0.0, 0.0),
            each=None,  # type: ignore[type-var]
        ):
            assert held is not None
            assert held.each is not None
            assert run.each is not None
            each = Each(
                dx=held.each.dx + run.each.dx, dy=held.each.dy + run.each.dy, rotate=held.each.rotate + run.each.rotate
            )
            held = replace(held, text=held.text + run.text, each=each)
            continue
        if held is not None:
            yield held
        held = run
    if held is not None:
        yield held
