"""Setting text: which glyph stands where, and its curves.

Shaping is HarfBuzz's: kerning, ligatures, contextual forms. Where letter spacing is not zero, optional ligatures are
switched off (CSS Text, section "letter-spacing").
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import uharfbuzz as hb
from fontTools.misc.transform import Transform

from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.path import Path, PathBuilder
from unkelt.lettering.faces import Face, Shelf, open_face
from unkelt.sheet.model import Lettering, Run


@dataclass(frozen=True, slots=True)
class Glyph:
    """One glyph in place: where its own origin lies (mm, the text's axes), and the characters it stands for."""

    glyph: int
    face: Face
    run: Run
    letters: str
    x: float
    y: float
    advance: float

    @property
    def scale(self) -> float:
        """mm to a font unit."""
        return self.run.size_mm / open_face(self.face).face.upem

    def path(self) -> Path:
        """Its curves in the text's axes, exactly as designed."""
        scale = self.scale
        return glyph_path(self.face, self.glyph).transformed(Transform(scale, 0, 0, -scale, self.x, self.y))


@dataclass(frozen=True, slots=True)
class Setting:
    """A lettering set: its glyphs, or the letters that the file draws itself; the box its frame takes (advances × ascent and
    descent); what could not be had.
    """

    glyphs: tuple[Glyph, ...]
    frame: Box | None
    drawn: tuple[tuple[str, Path], ...]
    missing_faces: tuple[Run, ...]
    missing_letters: str

    @property
    def complete(self) -> bool:
        return bool(self.drawn) or (not self.missing_faces and not self.missing_letters)

    def ink(self, placement: Transform) -> Box | None:
        """The exact box of the ink on the sheet."""
        return join_boxes([box for _, _, path in self.letters(placement) if (box := bounds(path))])

    def letters(self, placement: Transform) -> list[tuple[str, Run | None, Path]]:
        """Letters with their run and curves on the sheet: those the file carries itself, else the glyphs as set."""
        if self.drawn:
            return [(letter, None, path) for letter, path in self.drawn]
        return [(glyph.letters, glyph.run, glyph.path().transformed(placement)) for glyph in self.glyphs]


@lru_cache(maxsize=20_000)
def glyph_path(face: Face, glyph: int) -> Path:
    """A glyph's curves in font units, y up, as the face has them.

    Contours of a single point, which some faces keep as anchors, draw nothing and are left out.
    """
    builder = PathBuilder()
    open_face(face).draw_glyph(glyph, _DRAWING, builder)
    path = builder.path()
    extents = np.array([np.ptp(part.points, axis=(0, 1)).max() for part in path.subpaths()])
    return path.select(extents > 0) if len(path) else path


def _drawing() -> hb.DrawFuncs:
    functions = hb.DrawFuncs()
    functions.set_move_to_func(lambda x, y, pen: pen.move_to(x, y))
    functions.set_line_to_func(lambda x, y, pen: pen.line_to(x, y))
    functions.set_quadratic_to_func(lambda x1, y1, x, y, pen: pen.quad_to(x1, y1, x, y))
    functions.set_cubic_to_func(lambda x1, y1, x2, y2, x, y, pen: pen.cubic_to(x1, y1, x2, y2, x, y))
    functions.set_close_path_func(lambda pen: pen.close())
    return functions


_DRAWING = _drawing()


@lru_cache(maxsize=1024)
def set_lettering(lettering: Lettering, shelf: Shelf) -> Setting:
    """Shapes and places all runs. Runs without a face are left out and listed, as are characters the face lacks."""
    glyphs: list[Glyph] = []
    missing_faces: list[Run] = []
    missing_letters = ""
    boxes: list[Box] = []
    x = y = 0.0
    chunk = 0  # the first glyph of the stretch that the anchor moves as one
    chunk_x = 0.0
    for run in lettering.runs:
        if run.at != (None, None):
            _anchor(glyphs, chunk, x - chunk_x, lettering.anchor)
            x, y = (run.at[0] if run.at[0] is not None else x), (run.at[1] if run.at[1] is not None else y)
            chunk, chunk_x = len(glyphs), x
        x, y = x + run.shift[0], y + run.shift[1]
        face = shelf.match(run.face)
        if face is None:
            if run.text.strip():
                missing_faces.append(run)
            continue
        start = x
        for glyph, letters, dx, dy, advance in _shape(face, run):
            if glyph == 0 and letters.strip():
                missing_letters += letters
            glyphs.append(Glyph(glyph, face, run, letters, x + dx, y + dy, advance))
            x += advance
        extents = open_face(face).get_font_extents("ltr")
        scale = run.size_mm / open_face(face).face.upem
        boxes.append((start, y - extents.ascender * scale, x, y - extents.descender * scale))
    shift = _anchor(glyphs, chunk, x - chunk_x, lettering.anchor)
    frame = join_boxes(boxes)
    if frame and shift:
        frame = (frame[0] + shift, frame[1], frame[2] + shift, frame[3])
    if lettering.drawn:  # the file's own curves are what was meant, whatever is on the shelf
        return Setting((), None, lettering.drawn, (), "")
    return Setting(tuple(glyphs), frame, (), tuple(missing_faces), missing_letters)


def _shape(face: Face, run: Run) -> list[tuple[int, str, float, float, float]]:
    """Glyph, its characters, offset and advance in mm, in visual order."""
    buffer = hb.Buffer()
    buffer.add_str(run.text)
    buffer.guess_segment_properties()
    features = {"liga": False, "clig": False} if run.letter_spacing_mm else {}
    hb.shape(open_face(face), buffer, features)
    scale = run.size_mm / open_face(face).face.upem
    infos, positions = buffer.glyph_infos, buffer.glyph_positions
    starts = [*sorted({info.cluster for info in infos}), len(run.text)]
    ends = dict(itertools.pairwise(starts))
    result, seen = [], set()
    for info, position in zip(infos, positions, strict=True):
        letters = run.text[info.cluster : ends[info.cluster]] if info.cluster not in seen else ""
        seen.add(info.cluster)
        advance = position.x_advance * scale + (run.letter_spacing_mm if letters else 0)
        advance += run.word_spacing_mm * letters.count(" ")
        result.append((info.codepoint, letters, position.x_offset * scale, -position.y_offset * scale, advance))
    return result


def _anchor(glyphs: list[Glyph], first: int, advance: float, anchor: str) -> float:
    """Moves the glyphs from `first` on so that their start, middle or end lies at the anchor; returns the shift."""
    shift = {"middle": -advance / 2, "end": -advance}.get(anchor, 0.0)
    if shift:
        glyphs[first:] = [Glyph(g.glyph, g.face, g.run, g.letters, g.x + shift, g.y, g.advance) for g in glyphs[first:]]
    return shift
