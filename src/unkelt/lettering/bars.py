"""The bars of decorated text: under, over and through its letters (CSS Text Decoration 3, section 2)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

import uharfbuzz as hb

from unkelt.geometry.path import Path, polygon
from unkelt.lettering.faces import Face, open_face
from unkelt.sheet.model import DECORATIONS, Run

TOUCHING_MM = 1e-6


@dataclass(frozen=True, slots=True)
class Span:
    """What lies beneath one glyph: from where to where along its line, and the height of its baseline, in mm of the
    text's axes.
    """

    face: Face
    run: Run
    start: float
    end: float
    baseline: float

    def goes_on(self, other: Span) -> bool:
        """Whether another span follows that its bars reach through."""
        alike = self.face is other.face and self.run.size_mm == other.run.size_mm and self.run.look == other.run.look
        near = abs(other.start - self.end) + abs(other.baseline - self.baseline) < TOUCHING_MM
        return alike and near and self.run.decoration == other.run.decoration


def bars(spans: Iterable[Span]) -> Iterator[tuple[Run, Path]]:
    """The bars of spans in reading order, each with the run whose paint it has."""
    held: Span | None = None
    for span in spans:
        if held is not None and held.goes_on(span):
            held = replace(held, end=span.end)
            continue
        if held is not None:
            yield from _of(held)
        held = span
    if held is not None:
        yield from _of(held)


def _of(span: Span) -> Iterator[tuple[Run, Path]]:
    if span.end <= span.start:
        return
    asked = span.run.decoration.split()
    for bar in (bar for bar in DECORATIONS if bar in asked):
        top, thick = (share * span.run.size_mm for share in _shares(span.face, bar))
        y0, y1 = span.baseline - top, span.baseline - top + thick
        yield span.run, polygon((span.start, y0), (span.end, y0), (span.end, y1), (span.start, y1))


def _shares(face: Face, bar: str) -> tuple[float, float]:
    """How high a bar's upper edge lies above the baseline and how thick it is, as shares of the em: what the face says
    (OpenType, `post` and `OS/2`); an overline lies along the ascent, as thick as an underline.
    """
    font, tags = open_face(face), hb.OTMetricsTag
    size, offset = {
        "underline": (tags.UNDERLINE_SIZE, tags.UNDERLINE_OFFSET),
        "overline": (tags.UNDERLINE_SIZE, tags.HORIZONTAL_ASCENDER),
        "line-through": (tags.STRIKEOUT_SIZE, tags.STRIKEOUT_OFFSET),
    }[bar]
    per_em = font.face.upem
    return tuple(font.get_metric_position_with_fallback(tag) / per_em for tag in (offset, size))
