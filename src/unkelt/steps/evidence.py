"""Evidence: what a step says of its change, in figures, and in words wherever the step is shown.

Each step has a kind of its own beside it, whose fields say their units; what several steps say alike is here. Who shows
a step asks for `caption()`, `rows()` and `proof_lines()` and knows no kind.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np
import shapely

from unkelt.geometry.matching import Matched, match_counters
from unkelt.geometry.near import pairs_within
from unkelt.geometry.region import parts, regions
from unkelt.language import grouped
from unkelt.messages import listed, say, say_count, sentence
from unkelt.sheet.model import Outline, Sheet
from unkelt.tolerance import Tolerance

Figure = float | int | str

UNITS = (("_mm2", " mm²"), ("_mm", " mm"), ("_deg", "°"), ("_percent", " %"))
"""How the names of figures end, and what they are then in."""


@dataclass(frozen=True, slots=True)
class Counted:
    """Counters, how many there were and are, and which of them are the same."""

    before: int
    after: int
    kept: int
    closed: int
    new: int

    @classmethod
    def of(cls, matched: Matched) -> Counted:
        """Of counters that were matched."""
        return cls(
            len(matched.kept) + len(matched.closed),
            len(matched.kept) + len(matched.new),
            len(matched.kept),
            len(matched.closed),
            len(matched.new),
        )

    def words(self) -> str:
        """ "7 of 8 counters kept, 1 closed\""""
        if not self.before:
            return say_count("{count} new counter", "{count} new counters", self.new) if self.new else "no counters"
        closed = say(", {closed} closed", closed=self.closed) if self.closed else ""
        new = say(", {new} new", new=self.new) if self.new else ""
        return say(
            "{kept} of {before} counters kept{closed}{new}", kept=self.kept, before=self.before, closed=closed, new=new
        )


@dataclass(frozen=True, kw_only=True)
class Evidence:
    """What every step may say: how far it moved any line (mm), and what became of the counters."""

    max_deviation_mm: float | None = None
    counters: Counted | None = None

    def caption(self) -> str:
        """A few words on what it changed, for under the step's title; empty where the title says it."""
        return ""

    def rows(self) -> list[tuple[str, str]]:
        """Each figure by its name, with its unit; what has a before and an after in one row."""
        figures = self.figures()
        said: list[tuple[str, str]] = []
        for name, value in figures.items():
            base, unit = next(((name.removesuffix(end), unit) for end, unit in UNITS if name.endswith(end)), (name, ""))
            if base.endswith("_before") and (after := name.replace("_before", "_after")) in figures:
                was, now = _figure(name, value), _figure(name, figures[after])
                words: str = (
                    say("{now} as before", now=now) if was == now else say("from {was} to {now}", was=was, now=now)
                )
                base = base.removesuffix("_before")
            elif base.endswith("_after") and name.replace("_after", "_before") in figures:
                continue
            else:
                words = _figure(name, value)
            said.append((base.replace("_", " "), listed("", (words, unit))))
        return said

    def proof_lines(self) -> tuple[str, ...]:
        """What is proven: a headline and details."""
        lines = [*self.headline(), *([self.counters.words()] if self.counters else []), *self.details()]
        if (bound := self.bound()) is not None:
            lines.append(bound if lines else say("Certified: {bound}", bound=bound))
        return tuple(lines)

    def in_a_sentence(self) -> str:
        """What it changed and what is proven, for people: "8 → 3 outlines. 7 of 8 counters kept." """
        return listed(" ", [sentence(part) for part in (self.caption(), *self.proof_lines()) if part])

    def headline(self) -> Sequence[str]:
        """What a kind says first."""
        return ()

    def details(self) -> Sequence[str]:
        """What a kind says after its counters."""
        return ()

    def bound(self) -> str | None:
        """How far any line moved, in words; None where the step is about something else."""
        if self.max_deviation_mm is None:
            return None
        return (
            say("no line moves more than {small}", small=small(self.max_deviation_mm))
            if self.max_deviation_mm
            else "no line moves"
        )

    def figures(self) -> dict[str, Figure]:
        """All figures by name: what the command line's JSON holds."""
        inherited = {field.name for field in fields(Evidence)}
        own = [field.name for field in fields(self) if field.name not in inherited]
        found = {name: value for name in own if (value := getattr(self, name)) is not None}
        if self.counters is not None:
            found |= {f"counters_{field.name}": getattr(self.counters, field.name) for field in fields(self.counters)}
        if self.max_deviation_mm is not None:
            found["max_deviation_mm"] = self.max_deviation_mm
        return found


@dataclass(frozen=True, kw_only=True)
class Renoded(Evidence):
    """What draws outlines with other nodes."""

    nodes_before: int
    nodes_after: int

    def caption(self) -> str:
        return say(
            "{nodes_before} → {nodes_after} nodes",
            nodes_before=grouped(self.nodes_before),
            nodes_after=grouped(self.nodes_after),
        )


@dataclass(frozen=True, kw_only=True)
class ByTwoEngines(Evidence):
    """What a second engine finds to fill the same area (mm²)."""

    area_mm2: float
    area_second_engine_mm2: float

    def headline(self) -> Sequence[str]:
        apart = abs(self.area_mm2 - self.area_second_engine_mm2)
        share = apart / self.area_second_engine_mm2 * 100 if self.area_second_engine_mm2 else 0.0
        return "Proven by a second engine", say(
            "area within {most:.4f} %", most=max(math.ceil(share * 10000.0), 1) / 10000.0
        )


@dataclass(frozen=True, kw_only=True)
class Dropped(Evidence):
    """What takes subpaths out."""

    subpaths_dropped: int

    def caption(self) -> str:
        return say_count("{count} subpath dropped", "{count} subpaths dropped", self.subpaths_dropped)


@dataclass(frozen=True, kw_only=True)
class Worked(Evidence):
    """What says no more than how many items it worked on."""

    items: int

    def caption(self) -> str:
        return say_count("{count} item", "{count} items", self.items)


def small(mm: float) -> str:
    """A short length in the unit that reads best."""
    return f"{mm * 1000:.1f} µm" if mm < 0.1 else f"{mm:.2f} mm"


def _figure(name: str, value: Figure) -> str:
    """As exact as a person reads it: lengths to 0.1 µm, areas to 0.1 mm²."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return str(value)
    if isinstance(value, int):
        return f"{value:,}"
    return f"{value:,.{1 if name.endswith('_mm2') else 4}f}".rstrip("0").rstrip(".")


def counters_matched(before: Sheet, after: Sheet, tolerance: Tolerance) -> Matched | None:
    """The counters of all outlines that a step drew otherwise, before and after; None where it drew none otherwise."""
    old, new = ({id(outline.path): outline for outline in sheet.outlines()} for sheet in (before, after))
    gone = [outline for key, outline in old.items() if key not in new]
    come = [outline for key, outline in new.items() if key not in old]
    if not gone or not come:
        return None
    holes = [_counters(outlines, tolerance) for outlines in (gone, come)]
    return match_counters(holes[0], holes[1], tolerance.sliver_mm2) if any(holes) else None


def _counters(outlines: list[Outline], tolerance: Tolerance) -> list[shapely.Polygon]:
    shapes = regions([(each.path, each.look.even_odd) for each in outlines], tolerance.chord_mm / 2)
    return unlike_holes(list(parts(shapes, tolerance.sliver_mm2)[2]), tolerance)


def unlike_holes(holes: Sequence[shapely.Polygon], tolerance: Tolerance) -> list[shapely.Polygon]:
    """Counters without copies of others: those of an outline that is there twice are there twice, too."""
    boxes = shapely.bounds(np.array(holes, object)).reshape(-1, 4)
    copies: set[int] = set()
    # Pairs come by their first, so that one which is a copy itself is known as that before anything is compared to it.
    for first, again in pairs_within(boxes, 2 * tolerance.same_shape_mm).tolist():
        if first in copies or again in copies or np.abs(boxes[first] - boxes[again]).max() > tolerance.same_shape_mm:
            continue
        apart_mm2 = holes[again].symmetric_difference(holes[first]).area
        if apart_mm2 <= tolerance.same_shape_mm * holes[again].length:
            copies.add(again)
    return [hole for index, hole in enumerate(holes) if index not in copies]
