"""What kind of lettering a face is, for people who look for one: by its name, by what its file says of it, else by how
its letters are drawn.
"""

from __future__ import annotations

import re
from enum import StrEnum
from functools import lru_cache
from itertools import pairwise

import shapely
import shapely.affinity
from fontTools.ttLib import TTFont, TTLibError

from unkelt.geometry.measure import bounds
from unkelt.geometry.region import region
from unkelt.lettering.faces import Face, open_face
from unkelt.lettering.shaping import glyph_path


class Kind(StrEnum):
    """Kinds of lettering, as sign people part them (common practice, no source)."""

    SCRIPT = "script"
    SERIF = "serif"
    SLAB = "slab"
    SANS = "sans"
    DISPLAY = "display"


_NAMED = (
    (Kind.SCRIPT, r"script|hand\b|handwrit|brush|cursive|calligra"),
    (Kind.SLAB, r"slab|egyptian"),
    (Kind.DISPLAY, r"display|stencil|poster|ornament|blackletter|fraktur"),
    (Kind.SANS, r"sans|grotesk|grotesque|gothic"),
    (Kind.SERIF, r"serif|antiqua|roman\b"),
)
_CLASSES = {1: Kind.SERIF, 2: Kind.SERIF, 3: Kind.SERIF, 4: Kind.SERIF, 5: Kind.SLAB, 7: Kind.SERIF, 8: Kind.SANS} | {
    9: Kind.DISPLAY,
    10: Kind.SCRIPT,
    12: Kind.DISPLAY,
}
"""OS/2 sFamilyClass, high byte (OpenType specification, "IBM Font Class Parameters")."""

_FAMILIES = {3: Kind.SCRIPT, 4: Kind.DISPLAY, 5: Kind.DISPLAY}
"""PANOSE, first digit: Latin Hand Written, Decorative, Symbol (OpenType specification, OS/2 panose)."""

SERIF_SHARE = 1.3
"""A stem whose foot is wider than its middle by so much has serifs."""

SLAB_SHARE = 0.57
"""Serifs as thick as that share of their stem are slabs."""

JOINED = "nuim"
CHORD = 0.002


@lru_cache(maxsize=4096)
def kind_of(face: Face) -> Kind:
    """The kind of a face: as the index of faces knows it, else as its file shows."""
    if face.kind:
        return Kind(face.kind)
    name = f"{face.family} {face.style}".lower()
    found = next((kind for kind, words in _NAMED if re.search(words, name)), None)
    return found or _as_said(face) or _as_drawn(face)


def _as_said(face: Face) -> Kind | None:
    try:
        with TTFont(face.path, fontNumber=face.index, lazy=True) as font:
            os2 = font["OS/2"]
    except (TTLibError, OSError, KeyError, ValueError, AssertionError):
        return None
    panose = getattr(os2, "panose", None)
    first = getattr(panose, "bFamilyType", 0)
    if first in _FAMILIES:
        return _FAMILIES[first]
    if kind := _CLASSES.get((getattr(os2, "sFamilyClass", 0) >> 8) & 0xFF):
        return kind
    style = getattr(panose, "bSerifStyle", 0) if first == 2 else 0
    if style in (6, 9):  # square, exaggerated
        return Kind.SLAB
    return Kind.SERIF if 2 <= style <= 10 else Kind.SANS if 11 <= style <= 15 else None


def _as_drawn(face: Face) -> Kind:
    """A script where small letters join; serifs where the stem of an H has feet, and slabs where those are thick."""
    font = open_face(face)
    em = font.face.upem
    if _joins(face):
        return Kind.SCRIPT
    stem = region(glyph_path(face, font.get_nominal_glyph(ord("H")) or 0), False, CHORD * em)
    if stem.is_empty:
        return Kind.DISPLAY
    x0, y0, x1, y1 = stem.bounds
    height = y1 - y0

    def width(share: float) -> float:
        """Of the left part at a share of the height."""
        level = shapely.LineString([(x0 - em, y0 + share * height), (x1 + em, y0 + share * height)])
        cut = shapely.get_parts(shapely.intersection(stem, level))
        return float(min(cut, key=lambda part: part.bounds[0]).length) if len(cut) else 0.0

    middle, foot = width(0.25), width(0.015)
    if not middle or foot < SERIF_SHARE * middle:
        return Kind.SANS
    # Up to where half of what the foot sticks out is left: a bracket thins out below that.
    thick = next((step for step in range(4, 80) if width(step / 200) < (foot + middle) / 2), 80) / 200 * height
    return Kind.SLAB if thick > SLAB_SHARE * middle else Kind.SERIF


def _joins(face: Face) -> bool:
    """Whether small letters touch the next one, set side by side."""
    font = open_face(face)
    glyphs = [font.get_nominal_glyph(ord(letter)) or 0 for letter in JOINED]
    boxes = [bounds(glyph_path(face, glyph)) for glyph in glyphs]
    advances = [font.get_glyph_h_advance(glyph) for glyph in glyphs]
    if any(box is None for box in boxes):
        return False
    known = [box for box in boxes if box is not None]
    if any(a[2] - advance < b[0] for a, b, advance in zip(known, known[1:], advances, strict=False)):
        return False  # there is air between them
    x, shapes = 0.0, []
    for glyph, advance in zip(glyphs, advances, strict=True):
        area = region(glyph_path(face, glyph), False, CHORD * font.face.upem)
        shapes.append(shapely.affinity.translate(area, x))
        x += advance
    return all(shapely.intersects(a, b) for a, b in pairwise(shapes))
