"""The machine: what it can do and how fast. Each profile is a TOML file beside this one, and a ticket may differ from
it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.resources import files
from typing import Any

from unkelt.sheet import form
from unkelt.sheet.form import Form


@dataclass(frozen=True, slots=True, kw_only=True)
class Machine:
    """What the machine can do. Speeds serve the estimate of time only.

    The profiles' figures are common practice in the trade, no source; a shop that has measured its own writes them in
    its ticket.
    """

    profile: str = ""
    bed_mm: tuple[float, float] | None = None
    hairline_mm: float = 25.4 / 96
    smallest_stroke_mm: float | None = None
    smallest_gap_mm: float | None = None
    speed_mm_s: float = 300.0
    travel_mm_s: float = 600.0
    acceleration_mm_s2: float = 3000.0
    pierce_s: float = 0.0
    node_s: float = 0.0
    kerf_mm: float = 0.0
    """How wide a beam or jet cuts; its head runs half of that beside the line."""
    blade_offset_mm: float = 0.0
    """How far a knife's blade touches down behind the axis it turns about."""
    overcut_mm: float = 0.0
    """How far a knife runs over its start, so that the film parts there."""
    lead_mm: float = 0.0
    """How far from the line a jet pierces, on the side that falls away."""
    backed: bool = False
    """Whether what is cut stays on a backing; else what comes loose falls."""
    lines_only: bool = False
    """Whether what reads its DXF files knows no curves, so that they are written as polylines within the chord."""


FIELDS: dict[str, tuple[str, Callable[[Any], Any]]] = {
    "bed": ("bed_mm", form.two_lengths),
    "hairline": ("hairline_mm", form.length),
    "smallest_stroke": ("smallest_stroke_mm", form.length),
    "smallest_gap": ("smallest_gap_mm", form.length),
    "speed": ("speed_mm_s", form.speed),
    "travel": ("travel_mm_s", form.speed),
    "acceleration": ("acceleration_mm_s2", form.acceleration),
    "pierce": ("pierce_s", form.seconds),
    "node": ("node_s", form.seconds),
    "kerf": ("kerf_mm", form.length_or_none),
    "blade_offset": ("blade_offset_mm", form.length_or_none),
    "overcut": ("overcut_mm", form.length_or_none),
    "lead": ("lead_mm", form.length_or_none),
    "backed": ("backed", form.yes_or_no),
    "lines_only": ("lines_only", form.yes_or_no),
}
"""What `[machine]` may say, in a profile and in a ticket: the field it sets, and what reads it."""

STANDARD_PROFILE = "film-knife"


def taken(fields: Form, machine: Machine) -> Machine:
    """The machine with what `[machine]` says of it. Raises InputError naming the field."""
    found = {field: fields.take("machine", name, convert) for name, (field, convert) in FIELDS.items()}
    return replace(machine, **{field: value for field, value in found.items() if value is not None})


@lru_cache(maxsize=1)
def profiles() -> dict[str, Machine]:
    """The machines that come with the product, by name."""
    folder = files("unkelt") / "sheet" / "machines"
    found = {}
    for entry in sorted(folder.iterdir(), key=lambda entry: entry.name):
        if entry.name.endswith(".toml"):
            name = entry.name.removesuffix(".toml")
            fields = Form(entry.read_text(encoding="utf-8"), entry.name)
            found[name] = taken(fields, Machine(profile=name))
            fields.refuse_rest("machine")
    return found


def standard_machine() -> Machine:
    """The one that is meant without a ticket; what is too fine, only a ticket says."""
    return replace(profiles()[STANDARD_PROFILE], smallest_stroke_mm=None, smallest_gap_mm=None)
