"""How far the letters that a file draws itself lie from those of a face: by their curves, letter by letter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import Path
from unkelt.lettering.faces import Face, Shelf, open_face
from unkelt.lettering.shaping import glyph_path
from unkelt.sheet.model import Lettering

LOOKED_INTO = 12
"""So many faces whose letters have the likeliest boxes are compared by their curves."""

FINE_SHARE = 5e-4
"""How finely curves are followed, as a share of the size."""


@dataclass(frozen=True, slots=True)
class Likeness:
    """A face with the size in mm at which its letters lie nearest to those drawn, and how far off each of them is."""

    face: Face
    size_mm: float
    off_mm: tuple[tuple[str, float], ...]

    @property
    def farthest_mm(self) -> float:
        """Of the letter that differs most."""
        return max(off for _, off in self.off_mm)

    def words(self) -> list[str]:
        """Each letter with its deviation: “Q 0.114 mm”."""
        return [f"{letter} {off:.3f} mm" for letter, off in self.off_mm]


def nearest_faces(lettering: Lettering, shelf: Shelf) -> list[Likeness]:
    """The faces whose letters come nearest to those that the file draws, the nearest first; none where it draws none.

    All faces of the shelf are asked for the boxes of these letters, the likeliest then for their curves.
    """
    letters = _letters(lettering)
    if not letters:
        return []
    ranked = [(off, number, face) for number, face in enumerate(shelf.faces) if (off := _by_boxes(letters, face))]
    found = [
        likeness
        for _, _, face in sorted(ranked)[:LOOKED_INTO]
        if (likeness := likeness_of(lettering, face)) is not None
    ]
    return sorted(found, key=lambda likeness: likeness.farthest_mm)


@lru_cache(maxsize=512)
def likeness_of(lettering: Lettering, face: Face) -> Likeness | None:
    """How far a face's letters lie from those drawn, each by the largest distance between both outlines (Hausdorff);
    none where the face lacks one of them.
    """
    letters = _letters(lettering)
    glyphs = [_glyph(face, letter) for letter, _ in letters]
    if not letters or any(glyph is None for glyph in glyphs):
        return None
    k = _unit_mm(letters, [glyph for glyph in glyphs if glyph is not None])
    size = k * open_face(face).face.upem
    off = []
    for (letter, drawn), glyph in zip(letters, glyphs, strict=True):
        assert glyph is not None
        (x0, y0, x1, y1), (u0, v0, u1, v1) = bounds(drawn) or (0.0,) * 4, bounds(glyph) or (0.0,) * 4
        dx, dy = (x0 + x1) / 2 - k * (u0 + u1) / 2, (y0 + y1) / 2 + k * (v0 + v1) / 2
        own = glyph.transformed(Transform(k, 0, 0, -k, dx, dy))
        both = (lines(path, FINE_SHARE * size) for path in (drawn, own))
        off.append((letter, round(float(shapely.hausdorff_distance(*both, densify=0.2)), 4)))
    return Likeness(face, size, tuple(off))


def _letters(lettering: Lettering) -> list[tuple[str, Path]]:
    """Each letter once, in the text's own axes."""
    own = lettering.placement.inverse()
    found: dict[str, Path] = {}
    for letter, path in lettering.drawn:
        if len(letter) == 1 and letter.strip() and letter != "\ufffd" and letter not in found and len(path):
            found[letter] = path.transformed(own)
    return list(found.items())


def _glyph(face: Face, letter: str) -> Path | None:
    """A letter's curves in font units, y up; none where the face has none."""
    glyph = open_face(face).get_nominal_glyph(ord(letter))
    path = glyph_path(face, glyph) if glyph else None
    return path if path is not None and len(path) else None


def _unit_mm(letters: Sequence[tuple[str, Path]], glyphs: Sequence[Path]) -> float:
    """How many mm a font unit is where the letters are as large as those drawn: the middle of what each says."""
    ratios = []
    for (_, drawn), glyph in zip(letters, glyphs, strict=True):
        a, b = bounds(drawn), bounds(glyph)
        if a and b and b[3] > b[1]:
            ratios.append(np.hypot(a[2] - a[0], a[3] - a[1]) / np.hypot(b[2] - b[0], b[3] - b[1]))
    return float(np.median(ratios))


def _by_boxes(letters: Sequence[tuple[str, Path]], face: Face) -> float:
    """How much the widths and heights of a face's letters differ from those drawn, as shares of their size, above 0;
    0 where it lacks one.
    """
    font = open_face(face)
    sizes = []
    for letter, drawn in letters:
        glyph = font.get_nominal_glyph(ord(letter))
        extents = font.get_glyph_extents(glyph) if glyph else None
        box = bounds(drawn)
        if extents is None or box is None or not extents.width:
            return 0.0
        sizes.append((extents.width, -extents.height, box[2] - box[0], box[3] - box[1]))
    table = np.array(sizes)
    k = float(np.median(np.hypot(table[:, 2], table[:, 3]) / np.hypot(table[:, 0], table[:, 1])))
    off = np.abs(table[:, 2:] - k * table[:, :2]) / np.hypot(table[:, 2], table[:, 3])[:, None]
    return float(off.mean()) + 1e-9
