"""Setting text: which glyph stands where, and its curves.

Shaping is HarfBuzz's: kerning, ligatures, contextual forms, and the features a run switches. Positions follow SVG:
character by character where a file gives them (each stretch with an absolute position is shaped by itself), along a
guide, stretched to a length. Where letter spacing is not zero, optional ligatures are switched off (CSS Text, section
"letter-spacing").
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import uharfbuzz as hb
from fontTools.misc.transform import Transform

from unkelt.geometry.arc_length import Along
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.path import Path, concat
from unkelt.lettering.bars import Span, bars
from unkelt.lettering.faces import Face, Shelf, open_face
from unkelt.lettering.frames import laid_out
from unkelt.lettering.shaping import Stretch, glyph_path, shape, stretches
from unkelt.sheet.model import Lettering, Run


@dataclass(frozen=True, slots=True)
class Glyph:
    """One glyph in place: the text position it is set at (mm, the text's axes), and the characters it stands for.

    `turn` rotates it about that position, in radians; `stretch` widens it; the shaper's own offset moves it from there.
    `up` is where its stems point, along and off its line, (0, 1) as designed.
    `first` is the place of its first character in the whole text; `along` where it begins on the line or guide, in mm.
    """

    glyph: int
    face: Face
    run: Run
    letters: str
    x: float
    y: float
    advance: float
    turn: float = 0.0
    stretch: float = 1.0
    offset: tuple[float, float] = (0.0, 0.0)
    first: int = 0
    along: float = 0.0
    up: tuple[float, float] = (0.0, 1.0)

    @property
    def has_ink(self) -> bool:
        """Whether it draws anything."""
        return len(glyph_path(self.face, self.glyph)) > 0

    @property
    def scale(self) -> float:
        """mm to a font unit."""
        return self.run.size_mm / open_face(self.face).face.upem

    def path(self) -> Path:
        """Its curves in the text's axes, exactly as designed."""
        k, cos, sin = self.scale, math.cos(self.turn), math.sin(self.turn)
        wide = k * self.stretch
        dx, dy = self.offset[0] * self.stretch, self.offset[1]
        x, y = self.x + cos * dx - sin * dy, self.y + sin * dx + cos * dy
        along, off = self.up[0] * k, self.up[1] * k
        matrix = Transform(cos * wide, sin * wide, cos * along + sin * off, sin * along - cos * off, x, y)
        return glyph_path(self.face, self.glyph).transformed(matrix)


@dataclass(frozen=True, slots=True)
class Setting:
    """A lettering set: its glyphs, or the letters that the file draws itself; the box its frame takes (advances ×
    ascent and descent); what could not be had; how many letters found no room on their guide; the bars of what is
    underlined or struck through, in the text's axes.
    """

    glyphs: tuple[Glyph, ...]
    frame: Box | None
    drawn: tuple[tuple[str, Path], ...]
    missing_faces: tuple[Run, ...]
    missing_letters: str
    off_guide: int = 0
    bars: tuple[tuple[Run, Path], ...] = ()

    @property
    def complete(self) -> bool:
        """Whether all letters were set: no face, no letter and no room on a guide is missing."""
        return bool(self.drawn) or (not self.missing_faces and not self.missing_letters and not self.off_guide)

    def ink(self, placement: Transform) -> Box | None:
        """The exact box of the ink on the sheet."""
        if self.drawn:
            return join_boxes([box for _, path in self.drawn if (box := bounds(path))])
        return _ink(self, placement)

    def letters(self, placement: Transform) -> list[tuple[str, Run | None, Path]]:
        """Letters with their run and curves on the sheet: those the file carries itself, else the glyphs as set, after
        the bars beneath them, which are no letters ("").
        """
        if self.drawn:
            return [(letter, None, path) for letter, path in self.drawn]
        found: list[tuple[str, Run | None, Path]] = [("", run, path.transformed(placement)) for run, path in self.bars]
        found += [(glyph.letters, glyph.run, glyph.path().transformed(placement)) for glyph in self.glyphs]
        return found


@lru_cache(maxsize=20_000)
def _ink(setting: Setting, placement: Transform) -> Box | None:
    return bounds(concat([path for _, _, path in setting.letters(placement)]))


@lru_cache(maxsize=1024)
def set_lettering(lettering: Lettering, shelf: Shelf) -> Setting:
    """Shapes and places all runs. Runs without a face are left out and listed, as are characters the face lacks."""
    if lettering.drawn:  # the file's own curves are what was meant, whatever is on the shelf
        return Setting((), None, lettering.drawn, (), "")
    lettering = laid_out(sized(lettering, shelf), shelf)
    missing_faces: list[Run] = []
    missing_letters = ""
    chunks: list[_Chunk] = []
    boxes: list[Box] = []
    down = lettering.vertical
    # `x` runs along the line and `y` off it: for vertical text down the page and to its left.
    x = y = 0.0
    for stretch in _joined(stretches(lettering)):
        if stretch.at != (None, None) or not chunks:
            at_x, at_y = stretch.at if not down else stretch.at[::-1]
            x, y = (at_x if at_x is not None else x), (at_y if at_y is not None else y)
            chunks.append(_Chunk(x, stretch.runs[0].anchor or lettering.anchor))
        lead = stretch.runs[0]
        face = shelf.match(lead.face)
        if face is None:
            missing_faces += [run for run in dict.fromkeys(stretch.runs) if run.text.strip()]
            continue
        start = x
        for index, glyph, letters, dx, dy, advance in shape(face, stretch, down and lettering.upright):
            if glyph == 0 and letters.strip():
                missing_letters += letters
            shift = stretch.dx[index], stretch.dy[index]
            x, y = (x + shift[1], y + shift[0]) if down else (x + shift[0], y + shift[1])
            if not chunks[-1].glyphs:
                chunks[-1].start = x  # a shift before its first letter is no part of it (SVG 2, 11.5, step 7)
            run, turn = stretch.runs[index], math.radians(stretch.rotate[index])
            raised = run.baseline_mm - line_share(face, run.line) * run.size_mm
            lifted = y + raised if down else y - raised
            first = stretch.first + index
            chunks[-1].glyphs.append(
                Glyph(glyph, face, run, letters, x, lifted, advance, turn, run.width, (dx, dy), first, 0.0, _up(run))
            )
            x += advance
        chunks[-1].end = x
        extents = open_face(face).get_font_extents("ltr")
        scale = lead.size_mm / open_face(face).face.upem
        boxes.append((start, y - extents.ascender * scale, x, y - extents.descender * scale))
    placed = [_anchored(_fitted(chunk, lettering), lettering) for chunk in chunks]
    glyphs = [replace(glyph, along=glyph.x) for chunk in placed for glyph in chunk.glyphs]
    off_guide = 0
    straight = not down and lettering.guide is None
    under = bars(_spans(glyphs, lettering.length_mm is not None)) if straight else ()
    if down:
        glyphs = [_down(glyph, lettering.upright) for glyph in glyphs]
    elif lettering.guide is not None:
        whole = len(glyphs)
        glyphs = list(_on_guide(glyphs, lettering))
        off_guide = whole - len(glyphs)
    frame = join_boxes(boxes)
    if frame and len(placed) == 1:
        frame = (placed[0].start, frame[1], placed[0].end, frame[3])
    if frame and down:
        frame = (-frame[3], frame[0], -frame[1], frame[2])
    return Setting(tuple(glyphs), frame, (), tuple(missing_faces), missing_letters, off_guide, tuple(under))


def _spans(glyphs: Sequence[Glyph], fitted: bool) -> Iterator[Span]:
    """Where decorated letters lie; where a length is asked for, each reaches to the next."""
    for glyph, following in itertools.zip_longest(glyphs, glyphs[1:]):
        if not glyph.run.decoration:
            continue
        end = glyph.x + glyph.advance
        if fitted and following is not None and following.y == glyph.y and following.x > end:
            end = following.x
        yield Span(glyph.face, glyph.run, glyph.x, end, glyph.y)


def sized(lettering: Lettering, shelf: Shelf) -> Lettering:
    """The same with the sizes at which capitals have the heights that were asked for, where the face is there."""
    runs = []
    for run in lettering.runs:
        face = shelf.match(run.face) if run.capitals_mm is not None else None
        share = capital_share(face) if face else 0.0
        runs.append(
            replace(run, size_mm=run.capitals_mm / share, capitals_mm=None) if share and run.capitals_mm else run
        )
    return replace(lettering, runs=tuple(runs))


@lru_cache(maxsize=1024)
def capital_share(face: Face) -> float:
    """The height of a face's H, as it is drawn, as a share of its em; 0 where it has none."""
    font = open_face(face)
    box = bounds(glyph_path(face, font.get_nominal_glyph(ord("H")) or 0))
    return box[3] / font.face.upem if box else 0.0


def x_height_share(face: Face) -> float:
    """The height of a face's x, as it is drawn, as a share of its em; 0 where it has none."""
    font = open_face(face)
    box = bounds(glyph_path(face, font.get_nominal_glyph(ord("x")) or 0))
    return box[3] / font.face.upem if box else 0.0


class _Chunk:
    """Glyphs that the anchor moves as one: from one absolute position to the next."""

    def __init__(self, start: float, anchor: str) -> None:
        self.start = self.end = start
        self.anchor = anchor
        self.glyphs: list[Glyph] = []


def _up(run: Run) -> tuple[float, float]:
    """Where the stems of its letters point."""
    return math.tan(math.radians(run.slant_deg)), 1.0


def _joined(stretches: Iterator[Stretch]) -> Iterator[Stretch]:
    """Stretches that follow each other in one face and size, as one: letters join and kern across a mere change of
    colour.
    """
    held: Stretch | None = None
    for stretch in stretches:
        if held and stretch.at == (None, None) and _shaped_alike(held.runs[0], stretch.runs[0]):
            held = Stretch(
                held.runs + stretch.runs,
                held.text + stretch.text,
                held.at,
                held.dx + stretch.dx,
                held.dy + stretch.dy,
                held.rotate + stretch.rotate,
                held.first,
            )
            continue
        if held:
            yield held
        held = stretch
    if held:
        yield held


def _shaped_alike(a: Run, b: Run) -> bool:
    keys = ("face", "size_mm", "letter_spacing_mm", "word_spacing_mm")
    return all(getattr(a, key) == getattr(b, key) for key in keys)


def _fitted(chunk: _Chunk, lettering: Lettering) -> _Chunk:
    """Stretched to the length the file asks for: by the gaps between letters, or with the letters themselves.

    SVG 1.1, section 10.5: the difference is shared by the n - 1 gaps; with glyphs, all is scaled along the line.
    """
    length, natural = lettering.length_mm, chunk.end - chunk.start
    if length is None or not chunk.glyphs or natural <= 0:
        return chunk
    fitted = _Chunk(chunk.start, chunk.anchor)
    fitted.end = chunk.start + length
    if lettering.stretch_glyphs:
        k = length / natural
        fitted.glyphs = [
            replace(g, x=chunk.start + (g.x - chunk.start) * k, advance=g.advance * k, stretch=g.stretch * k)
            for g in chunk.glyphs
        ]
        return fitted
    gaps = sum(bool(glyph.letters) for glyph in chunk.glyphs) - 1
    step = (length - natural) / gaps if gaps > 0 else 0.0
    number = -1
    for glyph in chunk.glyphs:
        number += bool(glyph.letters)
        fitted.glyphs.append(replace(glyph, x=glyph.x + step * number))
    return fitted


def _anchored(chunk: _Chunk, lettering: Lettering) -> _Chunk:
    """Moved so that its start, middle or end lies at its anchor; text that runs to the left starts at its right end."""
    shares = {"middle": -0.5, "start" if lettering.direction == "rtl" else "end": -1.0}
    shift = shares.get(chunk.anchor, 0.0) * (chunk.end - chunk.start)
    if not shift:
        return chunk
    moved = _Chunk(chunk.start + shift, chunk.anchor)
    moved.end = chunk.end + shift
    moved.glyphs = [replace(glyph, x=glyph.x + shift) for glyph in chunk.glyphs]
    return moved


def line_share(face: Face, line: str) -> float:
    """How far above the baseline that part of a face lies which CSS names for the line, as a share of its em.

    CSS Inline 3, "Baseline alignment"; where a face has no table of baselines, hanging is four fifths and mathematical
    half of the ascent, as renderers commonly take them.
    """
    if not line:
        return 0.0
    font = open_face(face)
    extents = font.get_font_extents("ltr")
    ascent, descent = extents.ascender / font.face.upem, extents.descender / font.face.upem
    return {
        "central": (ascent + descent) / 2,
        "middle": _x_height(face) / 2,
        "hanging": 0.8 * ascent,
        "mathematical": 0.5 * ascent,
        "text-before-edge": ascent,
        "text-top": ascent,
        "before-edge": ascent,
        "text-after-edge": descent,
        "text-bottom": descent,
        "after-edge": descent,
        "ideographic": descent,
    }.get(line, 0.0)


def _x_height(face: Face) -> float:
    """As the face's own table says; as its x is drawn where the table is silent."""
    font = open_face(face)
    stated = font.get_metric_position(hb.OTMetricsTag.X_HEIGHT)
    return stated / font.face.upem if stated else x_height_share(face)


def _down(glyph: Glyph, upright: bool) -> Glyph:
    """A glyph set along a line that runs down the page: upright, or turned by a quarter to the right.

    A turned one has the middle of its face's ascent and descent on the line, as CSS Writing Modes has it (section 4.2,
    central baseline).
    """
    if upright:
        return replace(glyph, x=glyph.y, y=glyph.x)
    central = central_mm(glyph.face, glyph.scale)
    return replace(glyph, x=glyph.y - central, y=glyph.x, turn=glyph.turn + math.pi / 2)


def central_mm(face: Face, scale: float) -> float:
    """How far the middle of a face's ascent and descent lies above its baseline, at so many mm to a font unit."""
    extents = open_face(face).get_font_extents("ltr")
    return (extents.ascender + extents.descender) / 2 * scale


def _on_guide(glyphs: list[Glyph], lettering: Lettering) -> Iterator[Glyph]:
    """Glyphs with the middle of their advance on the guide, turned to its tangent (SVG 1.1, section 10.13.3).

    A glyph whose middle lies off the guide is not set; whoever asks is told how many.
    """
    guide = lettering.guide
    assert guide is not None
    path = guide.path.reversed() if guide.right_side else guide.path
    along = Along.of(path)
    offset = guide.offset_mm + guide.offset_share * along.length
    for glyph in glyphs:
        middle = glyph.advance / 2
        place = along.at(offset + glyph.x + middle)
        if place is None:
            continue
        x, y, angle = place
        cos, sin = math.cos(angle), math.sin(angle)
        if guide.stand == "upright":
            yield replace(glyph, x=x - middle - glyph.y * sin, y=y + glyph.y * cos)
            continue
        up = (glyph.up[0] - sin * glyph.up[1], cos * glyph.up[1]) if guide.stand == "slanted" else glyph.up
        # From the middle back by half the advance along the tangent, and off the line by what lifts the glyph.
        yield replace(
            glyph,
            x=x - middle * cos - glyph.y * sin,
            y=y - middle * sin + glyph.y * cos,
            turn=glyph.turn + angle,
            up=up,
        )
