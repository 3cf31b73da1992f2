"""The engraving as raster lines would burn it: how often each place is passed over, at a chosen pitch.

Each body is burnt by itself, by its own fill rule, the way a laser takes objects one after the other: overlapping
letters that are one even-odd body leave gaps where they lie on each other, separate ones burn there twice.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from unkelt.geometry.flatten import polylines
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.job.ticket import Ticket
from unkelt.proof.imported import Body
from unkelt.sheet.appearance import Appearance, Operation

MOST_CELLS = 60_000_000
"""A raster of more cells is made at a wider pitch, which the answer tells."""

Passes = NDArray[np.uint8]


@dataclass(frozen=True, slots=True)
class Burn:
    """`passes` (rows, columns) says how often each cell is burnt; the raster begins at (x, y) mm and its lines lie
    `pitch_mm` apart.
    """

    passes: Passes
    x: float
    y: float
    pitch_mm: float

    @property
    def box(self) -> Box:
        """Around the whole picture, in mm."""
        rows, columns = self.passes.shape
        return self.x, self.y, self.x + columns * self.pitch_mm, self.y + rows * self.pitch_mm

    @property
    def burnt_mm2(self) -> float:
        """The area of all that is burnt."""
        return float(np.count_nonzero(self.passes)) * self.pitch_mm**2

    @property
    def twice_mm2(self) -> float:
        """What is burnt more than once."""
        return float(np.count_nonzero(self.passes > 1)) * self.pitch_mm**2

    @property
    def lines_mm(self) -> float:
        """How far the beam is on, in mm."""
        return float(self.passes.sum(dtype=np.int64)) * self.pitch_mm

    def shades(self, per_pass: float = 0.6) -> NDArray[np.uint8]:
        """Grey values: each pass leaves the share `1 - per_pass` of what light the place still gave back."""
        return np.asarray(255 * (1 - per_pass) ** self.passes.astype(float)).astype(np.uint8)

    def png(self) -> bytes:
        """The picture, at its true resolution."""
        out = io.BytesIO()
        per_inch = 25.4 / self.pitch_mm
        Image.fromarray(self.shades(), "L").save(out, "PNG", dpi=(per_inch, per_inch))
        return out.getvalue()


def burn(bodies: Sequence[Body], ticket: Ticket, pitch_mm: float = 0.1, most_cells: int = MOST_CELLS) -> Burn | None:
    """What is engraved of imported bodies, as raster lines; None where nothing is.

    A cell is burnt where its line runs through the fill at the cell's middle.
    """
    engraved = [
        b for b in bodies if b.fill and ticket.operation(Appearance(fill=b.fill, stroke=b.stroke)) is Operation.ENGRAVE
    ]
    if not ticket.key:  # without a key a fill without a line is what would be engraved
        engraved = [body for body in bodies if body.fill and not body.stroke]
    box = join_boxes([found for body in engraved if (found := bounds(body.path))])
    if box is None or pitch_mm <= 0:
        return None
    width, height = box[2] - box[0], box[3] - box[1]
    pitch_mm = max(pitch_mm, (width * height / most_cells) ** 0.5)
    columns, rows = max(1, int(np.ceil(width / pitch_mm))), max(1, int(np.ceil(height / pitch_mm)))
    passes = np.zeros((rows, columns), np.uint8)
    for body in engraved:
        passes += _filled(body, box[0], box[1], pitch_mm, rows, columns)
    return Burn(passes, box[0], box[1], pitch_mm)


def _filled(body: Body, x0: float, y0: float, pitch: float, rows: int, columns: int) -> NDArray[np.bool_]:
    """Which cells of the raster the body's fill covers, by winding numbers counted along each line."""
    changes = np.zeros((rows, columns + 1), np.int32)
    for line in polylines(body.path, pitch / 20):
        ring = line if np.array_equal(line[0], line[-1]) else np.concatenate([line, line[:1]])
        (ax, ay), (bx, by) = ring[:-1].T, ring[1:].T
        way = np.where(by > ay, 1, -1)
        low, high = np.minimum(ay, by), np.maximum(ay, by)
        # Raster lines run through the middles of cells: those with low <= middle < high are crossed.
        first = np.ceil((low - y0) / pitch - 0.5).astype(np.int64)
        stop = np.ceil((high - y0) / pitch - 0.5).astype(np.int64)
        counts = np.maximum(stop - first, 0)
        edge = np.repeat(np.arange(len(counts)), counts)
        row = first[edge] + np.arange(len(edge)) - np.repeat(np.cumsum(counts) - counts, counts)
        middle = y0 + (row + 0.5) * pitch
        share = (middle - ay[edge]) / (by[edge] - ay[edge])
        at = ax[edge] + share * (bx[edge] - ax[edge])
        column = np.clip(np.ceil((at - x0) / pitch - 0.5).astype(np.int64), 0, columns)
        inside = (row >= 0) & (row < rows)
        np.add.at(changes, (row[inside], column[inside]), way[edge][inside])
    winding = np.cumsum(changes[:, :-1], axis=1)
    return np.asarray(winding % 2 != 0 if body.even_odd else winding != 0)
