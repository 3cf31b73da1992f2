"""Letters of other scripts that look the same: a word that was read is kept in one script."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from functools import lru_cache

from fontTools import unicodedata as unicode

from unkelt.geometry.alike import shape_key
from unkelt.lettering.faces import Face, open_face
from unkelt.lettering.shaping import glyph_path

NO_SCRIPT = ("Zyyy", "Zinh", "Zzzz")
"""Of digits and punctuation, which belong to every script (Unicode Standard Annex 24)."""

LAST = 0x2000
"""Letters that look alike lie below: Latin, Greek, Cyrillic, Armenian, Cherokee and their extensions."""

Option = tuple[int, str]
"""A glyph and the character that it stands for."""


def in_one_script(face: Face, words: Sequence[Sequence[Option]]) -> list[list[Option]]:
    """The letters of some words, each word in one script as far as the face has the same shape in it.

    That is the script in which most of its letters can be; of several, the one that the other words need, then Latin.
    """
    known = _alike(face)
    options = [[_scripts(known, letter) for letter in word] for word in words]
    needed = Counter(next(iter(each)) for word in options for each in word if len(each) == 1)
    found: list[list[Option]] = []
    for word, per_letter in zip(words, options, strict=True):
        can = Counter(script for each in per_letter for script in each)
        if not can:
            found.append(list(word))
            continue
        chosen = max(can, key=lambda script: (can[script], needed[script], script == "Latn"))
        found.append([each.get(chosen, letter) for letter, each in zip(word, per_letter, strict=True)])
    return found


def _scripts(known: dict[str, dict[str, Option]], letter: Option) -> dict[str, Option]:
    """The scripts in which a letter can be, with the glyph and character that it is there; none for what has no
    script.
    """
    own = script_of(letter[1])
    if own in NO_SCRIPT:
        return {}
    return {own: letter} | {k: v for k, v in known.get(letter[1], {}).items() if k != own}


def script_of(text: str) -> str:
    """The script of the first character that has one, as its four letters."""
    return next((script for char in text if (script := unicode.script(char)) not in NO_SCRIPT), NO_SCRIPT[0])


@lru_cache(maxsize=64)
def _alike(face: Face) -> dict[str, dict[str, Option]]:
    """Of each character that others look like: those, by script."""
    font = open_face(face)
    by_shape: dict[object, dict[str, Option]] = {}
    chars: dict[object, list[str]] = {}
    for code in sorted(font.face.unicodes):
        glyph = font.get_nominal_glyph(code) if code < LAST else None
        letter = chr(code)
        if not glyph or not letter.isalpha():
            continue
        path = glyph_path(face, glyph)
        if len(path):
            key = (shape_key(path), tuple(path.points[0, 0].round(2).tolist()), font.get_glyph_h_advance(glyph))
            by_shape.setdefault(key, {}).setdefault(script_of(letter), (glyph, letter))
            chars.setdefault(key, []).append(letter)
    return {letter: by_shape[key] for key, letters in chars.items() if len(by_shape[key]) > 1 for letter in letters}
