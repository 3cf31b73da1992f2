"""Shaping: which glyphs stand for the characters of a run, how far each moves on, and the curves of a glyph.

HarfBuzz shapes: kerning, ligatures, contextual forms, and the features a run switches. Characters with a position of
their own part a text into stretches, each shaped by itself, as SVG has it.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import uharfbuzz as hb

from unkelt.geometry.path import Ints, Path, PathBuilder
from unkelt.lettering.faces import Face, open_face
from unkelt.sheet.model import Each, Lettering, Run


@lru_cache(maxsize=20_000)
def glyph_path(face: Face, glyph: int) -> Path:
    """A glyph's curves in font units, y up, as the face has them.

    Contours of a single point, which some faces keep as anchors, draw nothing and are left out.
    """
    return glyph_paths(face, [glyph])[0]


def glyph_paths(face: Face, glyphs: Sequence[int]) -> tuple[Path, Ints]:
    """The curves of several glyphs as one path, and (s,) of which of them each subpath is, by its place in the list."""
    builder, font, ends = PathBuilder(), open_face(face), []
    for glyph in glyphs:
        font.draw_glyph(glyph, _DRAWING, builder)
        ends.append(builder.begun)
    path = builder.path()
    of = np.repeat(np.arange(len(glyphs)), np.diff(ends, prepend=0))
    if not len(path):
        return path, of
    flat = path.points.reshape(-1, 8)
    first = np.repeat(np.tile(flat[path.starts, :2], 4), path.counts, axis=0)
    drawn = ~np.logical_and.reduceat((flat == first).all(axis=1), path.starts)
    return (path, of) if drawn.all() else (path.select(drawn), of[drawn])


def _drawing() -> hb.DrawFuncs:
    functions = hb.DrawFuncs()
    functions.set_move_to_func(lambda x, y, pen: pen.move_to(x, y))
    functions.set_line_to_func(lambda x, y, pen: pen.line_to(x, y))
    functions.set_quadratic_to_func(lambda x1, y1, x, y, pen: pen.quad_to(x1, y1, x, y))
    functions.set_cubic_to_func(lambda x1, y1, x2, y2, x, y, pen: pen.cubic_to(x1, y1, x2, y2, x, y))
    functions.set_close_path_func(lambda pen: pen.close())
    return functions


_DRAWING = _drawing()


@dataclass(frozen=True, slots=True)
class Stretch:
    """Characters up to the next absolute position, each with its run, what is added before it, and its rotation."""

    runs: list[Run]
    text: str
    at: tuple[float | None, float | None]
    dx: list[float]
    dy: list[float]
    rotate: list[float]
    first: int = 0


def stretches(lettering: Lettering) -> Iterator[Stretch]:
    """The runs, parted where a character has a position of its own. Lists go on into the runs that follow."""
    xs: list[float] = []
    ys: list[float] = []
    dxs: list[float] = []
    dys: list[float] = []
    turns: list[float] = []
    turn = 0.0
    before = 0
    for run in lettering.runs:
        count = len(run.text)
        at: list[tuple[float | None, float | None]] = [(None, None)] * count
        dx, dy, rotate = [0.0] * count, [0.0] * count, [0.0] * count
        if run.each is not None:
            each = run.each
            # The first of each list came with the run itself, as `at` and `shift`.
            xs, ys = [*each.x[1:]] if each.x else xs, [*each.y[1:]] if each.y else ys
            dxs, dys = [*each.dx[1:]] if each.dx else dxs, [*each.dy[1:]] if each.dy else dys
            turns = [*each.rotate] if each.rotate else turns
        first = 0 if run.each is None else 1
        for index in range(count):
            if index >= first:
                at[index] = (xs.pop(0) if xs else None, ys.pop(0) if ys else None)
                dx[index] = dxs.pop(0) if dxs else 0.0
                dy[index] = dys.pop(0) if dys else 0.0
            turn = turns.pop(0) if turns else turn
            rotate[index] = turn
        at[0] = (run.at[0] if run.at[0] is not None else at[0][0], run.at[1] if run.at[1] is not None else at[0][1])
        dx[0], dy[0] = dx[0] + run.shift[0], dy[0] + run.shift[1]
        cuts = [0, *[i for i in range(1, count) if at[i] != (None, None)], count]
        for a, b in itertools.pairwise(cuts):
            yield Stretch([run] * (b - a), run.text[a:b], at[a], dx[a:b], dy[a:b], rotate[a:b], before + a)
        before += count


def spelled_out(lettering: Lettering) -> Lettering:
    """The same text with a position for every character said with its own run, however the lists were given before."""
    runs = []
    for stretch in stretches(lettering):
        each = Each(dx=tuple(stretch.dx), dy=tuple(stretch.dy), rotate=tuple(stretch.rotate))
        shift = stretch.dx[0], stretch.dy[0]
        runs.append(replace(stretch.runs[0], text=stretch.text, at=stretch.at, shift=shift, each=each))
    return replace(lettering, runs=tuple(runs))


def shape(face: Face, stretch: Stretch, stacked: bool) -> list[tuple[int, int, str, float, float, float]]:
    """Index of the first character, glyph, its characters, offset and advance in mm, in visual order.

    Features that only some of the characters switch are given to the shaper with their range, so that letters still
    join and kern with their neighbours. Stacked letters are shaped top to bottom: their advance is downward.
    """
    run, text = stretch.runs[0], stretch.text
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    if stacked:
        buffer.direction = "ttb"
    features: dict[str, list[tuple[int, int, int]]] = {}
    if run.letter_spacing_mm:
        features = {"liga": [(0, len(text), 0)], "clig": [(0, len(text), 0)]}
    for (_, switched), indices in itertools.groupby(
        range(len(text)), key=lambda index: (id(stretch.runs[index]), stretch.runs[index].features)
    ):
        a, *rest = indices
        for tag, value in switched:
            features.setdefault(tag, []).append((a, a + 1 + len(rest), value))
    hb.shape(open_face(face), buffer, features)
    scale = run.size_mm / open_face(face).face.upem
    infos, positions = buffer.glyph_infos, buffer.glyph_positions
    starts = [*sorted({info.cluster for info in infos}), len(text)]
    ends = dict(itertools.pairwise(starts))
    result, seen = [], set()
    for info, position in zip(infos, positions, strict=True):
        letters = text[info.cluster : ends[info.cluster]] if info.cluster not in seen else ""
        seen.add(info.cluster)
        wide = stretch.runs[info.cluster].width
        advance = -position.y_advance * scale if stacked else position.x_advance * scale * wide
        advance += run.letter_spacing_mm if letters else 0
        advance += run.word_spacing_mm * letters.count(" ")
        offset = (position.x_offset * scale, -position.y_offset * scale)
        result.append((info.cluster, info.codepoint, letters, *offset, advance))
    return result
