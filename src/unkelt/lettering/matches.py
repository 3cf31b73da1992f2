"""What was recognised, and what it reads: the letters of a face on some outlines, in lines and words."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from fontTools.misc.transform import Transform

from unkelt.lettering.faces import Face, open_face
from unkelt.lettering.lookalikes import in_one_script


@dataclass(frozen=True, slots=True)
class Letterform:
    """A glyph where it stands: `matrix` carries its ems, y down, onto the sheet; `hidden` is the share of its boundary
    that lies inside its neighbours.
    """

    glyph: int
    text: str
    matrix: Transform
    hidden: float

    @property
    def origin(self) -> complex:
        """Where its baseline begins, in mm."""
        return complex(self.matrix.dx, self.matrix.dy)

    @property
    def em_mm(self) -> float:
        """The size that it is set in."""
        return math.hypot(self.matrix.xx, self.matrix.xy)

    @property
    def turn(self) -> float:
        """The direction of its baseline, radians."""
        return math.atan2(self.matrix.xy, self.matrix.xx)


@dataclass(frozen=True, slots=True)
class Match:
    """A face whose letters were found. `explained` is the share of all the outlines' length that its letters account
    for, `sure` that of the subpaths they touch, `off_mm` how far from them the farthest of that lies; `rings` are the
    subpaths that are letters of it, `unclear` those that are so in part.
    """

    face: Face
    letters: tuple[Letterform, ...]
    explained: float
    sure: float
    off_mm: float
    rings: tuple[int, ...]
    unclear: tuple[int, ...]
    mirrored: bool


MOST_ALIKE = 0.7
"""Letters of which so many stand at one angle are lines; others run along a bend."""


def ordered(match: Match) -> list[list[Letterform]]:
    """The letters line by line from the top, each from its start to its end, as seen along their common direction."""
    if not match.letters:
        return []
    turns = np.array([form.turn for form in match.letters])
    apart = np.abs(np.angle(np.exp(1j * (turns[:, None] - turns))))
    turn = turns[int(apart.sum(axis=1).argmin())]
    if (apart[int(apart.sum(axis=1).argmin())] < 0.02).mean() < MOST_ALIKE:  # on a bend: their mean
        turn = np.angle(np.mean(np.exp(1j * turns)))

    def place(form: Letterform) -> complex:
        """Of the middle of its advance, in the axes of the common direction; a mirrored word runs the other way."""
        font = open_face(match.face)
        half = font.get_glyph_h_advance(form.glyph) / font.face.upem / 2
        middle = complex(*form.matrix.transformPoint((half, 0.0)))
        there = complex(middle * np.exp(-1j * turn))
        return there.conjugate() if match.mirrored else there

    rest = sorted(match.letters, key=lambda form: place(form).imag)
    em = rest[0].em_mm
    same_turn = (np.abs(np.angle(np.exp(1j * (turns - turn)))) < 0.02).mean() >= MOST_ALIKE
    result: list[list[Letterform]] = []
    for form in rest:
        if result and (not same_turn or abs(place(form).imag - place(result[-1][0]).imag) < 0.3 * em):
            result[-1].append(form)
        else:
            result.append([form])
    return [sorted(line, key=lambda form: place(form).real) for line in result]


def words(match: Match) -> str:
    """What the letters say, a space where the face's own would stand, lines parted by a space."""
    return " ".join("".join(text for _, text in spaced(match, line)) for line in ordered(match))


SPACE_SHARE = 0.7
"""A gap of this share of the face's own space is one."""


def spaced(match: Match, line: Sequence[Letterform]) -> list[tuple[Letterform, str]]:
    """The letters of a line with their characters, and the space that follows where the gap has room for one."""
    font = open_face(match.face)
    em = font.face.upem
    space = font.get_glyph_h_advance(font.get_nominal_glyph(ord(" ")) or 0) / em
    result = []
    for number, form in enumerate(line):
        text = form.text
        if number + 1 < len(line):
            end = complex(*form.matrix.transformPoint((font.get_glyph_h_advance(form.glyph) / em, 0.0)))
            gap = ((line[number + 1].origin - end) * np.exp(-1j * form.turn)).real / form.em_mm
            text += " " if gap > SPACE_SHARE * space else ""
        result.append((form, text))
    return result


def in_scripts_of_their_words(match: Match) -> Match:
    """The match with each of its words in one script: an A, a Greek Alpha and a Cyrillic А may be one shape."""
    parted: list[list[Letterform]] = []
    for line in ordered(match):
        begins = True
        for form, text in spaced(match, line):
            if begins:
                parted.append([])
            parted[-1].append(form)
            begins = text.endswith(" ")
    said = in_one_script(match.face, [[(form.glyph, form.text) for form in word] for word in parted])
    changed = {
        id(form): replace(form, glyph=glyph, text=text)
        for word, letters in zip(parted, said, strict=True)
        for form, (glyph, text) in zip(word, letters, strict=True)
    }
    return replace(match, letters=tuple(changed[id(form)] for form in match.letters))
