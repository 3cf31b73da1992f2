"""Segments of a result that are pieces of a source's: which, and from where to where.

A Bézier's piece from its start has its first handle on the way to the curve's own; how far along says where the piece
ends, and the blossom there gives its other handle and its end (R. Goldman, Pyramid Algorithms). So one look tells
whether a segment that begins or ends in a node of the source is a piece of what the source has there, and by how much
it misses: curves are no further apart than their nodes and handles are.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from unkelt.geometry.boolean.row_index import RowIndex
from unkelt.geometry.flatten import Vertices, piece_counts, strung
from unkelt.geometry.path import LINE, Floats, Ints, Path, raised, ranges


@dataclass(frozen=True, slots=True)
class CurvePieces:
    """Of each curved segment of a path (n,) what it is a piece of."""

    source: Ints
    """(n,) the source's segment, or -1: a line, or none was found."""
    begins: Floats
    ends: Floats
    """(n,) where on the source's segment the piece begins and ends, from 0 to 1; it may run backwards."""
    off_mm: Floats
    """(n,) how far it is from that piece, at most."""

    @classmethod
    def of(cls, path: Path, owner: Ints, source: Path, source_owner: Ints, within_mm: float) -> CurvePieces:
        """Each segment (n,) of a path is looked for in the source's of the same owner (m,)."""
        found = cls(np.full(len(owner), -1), np.zeros(len(owner)), np.ones(len(owner)), np.zeros(len(owner)))
        curves = np.flatnonzero(source.degrees != LINE)
        forward = raised(source.points[curves], source.degrees[curves])
        for theirs, backward in ((forward, False), (forward[:, ::-1], True)):
            known = RowIndex(theirs[:, :1] + 0.0, source_owner[curves])
            for from_end in (False, True):
                left = np.flatnonzero((found.source < 0) & (path.degrees != LINE))
                own = raised(path.points[left], path.degrees[left])
                own = own[:, ::-1] if from_end else own
                place = known.find(own[:, :1] + 0.0, owner[left])
                left, own, place = left[place >= 0], own[place >= 0], place[place >= 0]
                end, off = _from_start(own, theirs[place])
                good = off <= within_mm
                left, place, end = left[good], place[good], end[good]
                begin, end = (1.0, 1 - end) if backward else (0.0, end)
                found.source[left], found.off_mm[left] = curves[place], off[good]
                found.begins[left], found.ends[left] = (end, begin) if from_end else (begin, end)
        return found

    def drawn(self, path: Path, source: Path, vertices: Vertices, chord_mm: float) -> tuple[Floats, Ints]:
        """`flatten` of the path, its pieces by the vertices that the source is drawn by."""
        keys, is_piece = vertices.segment + vertices.t, self.source >= 0
        first, last = (
            np.searchsorted(keys, self.source + end)
            for end in (np.minimum(self.begins, self.ends) + SAME, np.maximum(self.begins, self.ends) - SAME)
        )
        of_source = np.where(is_piece, np.maximum(last - first, 0), 0)
        chosen = ranges(first, of_source)
        mirrored = np.repeat(first + last - 1, of_source) - chosen
        chosen = np.where(np.repeat(self.begins > self.ends, of_source), mirrored, chosen)
        own = np.where(is_piece, 0, piece_counts(path, chord_mm) - 1)
        from_source = np.repeat(is_piece, of_source + own)
        between = np.empty((len(from_source), 2))
        between[from_source] = Vertices(vertices.segment[chosen], vertices.t[chosen]).on(source)
        between[~from_source] = Vertices.even(own + 1).on(path)
        return strung(path, of_source + own, between)


SAME = 1e-7
"""Parameters this near are one."""


def _from_start(piece: Floats, whole: Floats) -> tuple[Floats, Floats]:
    """Where on cubics (k, 4, 2) others end that begin where they begin, and how far those miss the pieces up to
    there.
    """
    steps, way = piece[:, 1] - piece[:, 0], whole[:, 1] - whole[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (steps * way).sum(axis=1) / (way * way).sum(axis=1)
    t[(piece[:, 3] == whole[:, 3]).all(axis=1)] = 1.0
    row, off = whole, np.zeros(len(t))
    for k in (1, 2, 3):
        row = row[:, :-1] + (row[:, 1:] - row[:, :-1]) * t[:, None, None]
        off = np.maximum(off, np.hypot(*(piece[:, k] - row[:, 0]).T))
    off[~((t > 0) & (t <= 1))] = np.inf
    return t, off
