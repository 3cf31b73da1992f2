"""Guides made to measure: circles that text is set on, and text moved from one guide to another."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

from unkelt.geometry.arcs import arc_to_cubics
from unkelt.geometry.path import Path, PathBuilder
from unkelt.sheet.model import Guide, Lettering

ERROR_MM = 1e-4
"""How far the cubics of a circle may stray from it."""

Tops = Literal["outward", "inward"]
Position = Literal["start", "centre", "end"]
Stand = Literal["turned", "upright"]


def circle(x: float, y: float, radius_mm: float, start_deg: float, clockwise: bool) -> Path:
    """A whole circle from an angle on, 0° at the top and clockwise as seen, run one way or the other."""
    builder = PathBuilder()
    angles = [math.radians(start_deg + (1 if clockwise else -1) * turn) for turn in (0, 180, 360)]
    places = [(x + radius_mm * math.sin(a), y - radius_mm * math.cos(a)) for a in angles]
    builder.move_to(*places[0])
    for begin, end in ((places[0], places[1]), (places[1], places[0])):
        for cubic in arc_to_cubics(*begin, radius_mm, radius_mm, 0, False, clockwise, *end, ERROR_MM):
            builder.cubic_to(*cubic)
    builder.close()
    return builder.path()


def on_circle(
    lettering: Lettering,
    centre: tuple[float, float],
    radius_mm: float,
    around_deg: float,
    tops: Tops,
    position: Position,
    away_mm: float,
    upright: bool = False,
) -> Lettering:
    """The text on a circle of the sheet. Tops outward it runs clockwise, tops inward the other way, so that it reads
    the right way round on the lower half. `around_deg` is where its start, centre or end lies.
    """
    clockwise = tops == "outward"
    sense = 1 if clockwise else -1
    # The circle begins where the text can't reach over its end.
    begin = {"start": 0.0, "centre": -180.0, "end": -360.0}[position] * sense
    path = circle(*centre, radius_mm, around_deg + begin, clockwise)
    return on_path(lettering, path, position, 0.0, away_mm, "", upright)


def on_path(
    lettering: Lettering,
    path: Path,
    position: Position,
    along_mm: float,
    away_mm: float,
    source: str,
    upright: bool = False,
) -> Lettering:
    """The text on a path of the sheet: starting, centred or ending there, shifted along and away to the letters' tops.

    Its letters turn with the path, or stay upright.
    """
    own = path.transformed(lettering.placement.inverse())
    share, anchor = {"start": (0.0, "start"), "centre": (0.5, "middle"), "end": (1.0, "end")}[position]
    guide = Guide(own, offset_mm=along_mm, offset_share=share, source=source, upright=upright)
    runs = [replace(run, at=(None, None), shift=(0.0, 0.0), each=None, baseline_mm=away_mm) for run in lettering.runs]
    runs[0] = replace(runs[0], at=(0.0, 0.0))
    return replace(
        lettering, runs=tuple(runs), guide=guide, anchor=anchor, drawn=(), length_mm=None, vertical=False, upright=False
    )


def off_guide(lettering: Lettering, at: tuple[float, float]) -> Lettering:
    """The text on a straight line again, its anchor at a place in its own axes."""
    runs = [replace(run, at=(None, None), baseline_mm=0.0) for run in lettering.runs]
    runs[0] = replace(runs[0], at=at)
    return replace(lettering, runs=tuple(runs), guide=None, drawn=(), vertical=False, upright=False)


def in_column(lettering: Lettering, at: tuple[float, float], upright: bool) -> Lettering:
    """The text down the page from a place in its own axes, turned by a quarter or stacked upright."""
    straight = off_guide(lettering, at)
    return replace(straight, vertical=True, upright=upright, anchor="start", length_mm=None)
