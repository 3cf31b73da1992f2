"""What importing software is left with after reading a file."""

from __future__ import annotations

from dataclasses import dataclass

from unkelt.geometry.path import Path


@dataclass(frozen=True, slots=True)
class Body:
    """One compound path as imported: its curves in mm, its paints as "#rrggbb" or None, its fill rule."""

    path: Path
    fill: str | None
    stroke: str | None
    even_odd: bool

    @property
    def colour(self) -> str | None:
        return self.stroke or self.fill


@dataclass(frozen=True, slots=True)
class Imported:
    """What is left of a file after importing: page size in mm, bodies, and how many texts were ignored."""

    page_mm: tuple[float, float]
    bodies: tuple[Body, ...]
    text_left: int
