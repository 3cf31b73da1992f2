"""The machine: what it can do and how fast. Each profile is a TOML file beside this one, and a ticket may differ from
it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from importlib.resources import files
from typing import ClassVar

from unkelt.errors import InputError
from unkelt.job.schema import (
    Acceleration,
    Count,
    Length,
    LengthOrNone,
    Seconds,
    Speed,
    Switch,
    Toml,
    TwoLengths,
    loads,
    one_of,
    readers_of,
    structured,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Machine:
    """What the machine can do. Speeds serve the estimate of time only.

    The profiles' figures are common practice in the trade, no source; a shop that has measured its own writes them in
    its ticket.
    """

    WRITTEN: ClassVar[dict[str, str]] = {
        "bed_mm": "bed",
        "hairline_mm": "hairline",
        "smallest_stroke_mm": "smallest_stroke",
        "smallest_gap_mm": "smallest_gap",
        "speed_mm_s": "speed",
        "travel_mm_s": "travel",
        "acceleration_mm_s2": "acceleration",
        "pierce_s": "pierce",
        "node_s": "node",
        "kerf_mm": "kerf",
        "blade_offset_mm": "blade_offset",
        "overcut_mm": "overcut",
        "lead_mm": "lead",
        "raster_mm_s": "raster",
        "pitch_mm": "pitch",
        "turn_s": "turn",
    }
    """What fields are called in `[machine]`, where the unit stands beside the number."""

    profile: str = ""
    bed_mm: TwoLengths | None = None
    hairline_mm: Length = 25.4 / 96
    smallest_stroke_mm: Length | None = None
    smallest_gap_mm: Length | None = None
    speed_mm_s: Speed = 300.0
    travel_mm_s: Speed = 600.0
    acceleration_mm_s2: Acceleration = 3000.0
    pierce_s: Seconds = 0.0
    node_s: Seconds = 0.0
    kerf_mm: LengthOrNone = 0.0
    """How wide a beam or jet cuts; its head runs half of that beside the line."""
    blade_offset_mm: LengthOrNone = 0.0
    """How far a knife's blade touches down behind the axis it turns about."""
    overcut_mm: LengthOrNone = 0.0
    """How far a knife runs over its start, so that the film parts there."""
    lead_mm: LengthOrNone = 0.0
    """How far from the line a jet pierces, on the side that falls away."""
    raster_mm_s: Speed = 0.0
    """How fast the head burns areas line by line; 0 where it doesn't, and follows their edges."""
    pitch_mm: Length = 0.1
    """How far apart those lines lie."""
    turn_s: Seconds = 0.0
    """How long the head takes to turn round between two lines, beside speeding up and slowing down."""
    passes: Count = 1
    """How often it burns each line."""
    backed: Switch = False
    """Whether what is cut stays on a backing; else what comes loose falls."""
    lines_only: Switch = False
    """Whether what reads its DXF files knows no curves, so that they are written as polylines within the chord."""


STANDARD_PROFILE = "film-knife"


def machine_of(table: Toml, source: str) -> Machine:
    """What `[machine]` says: a profile's figures, and what a shop has measured of its own in their place. Raises
    InputError naming the field.
    """
    given = dict(table)
    try:
        name = one_of(*profiles())(given.pop("profile", STANDARD_PROFILE))
    except ValueError as problem:
        raise InputError(source, str(problem), "machine.profile") from problem
    return structured({**_tables()[name], **given, "profile": name}, source, Machine, "machine")


@lru_cache(maxsize=1)
def _tables() -> dict[str, Toml]:
    """What each profile says, by its name."""
    folder = files("unkelt") / "job" / "machines"
    entries = sorted(
        (entry for entry in folder.iterdir() if entry.name.endswith(".toml")), key=lambda entry: entry.name
    )
    return {
        entry.name.removesuffix(".toml"): loads(entry.read_text(encoding="utf-8"), entry.name)["machine"]
        for entry in entries
    }


@lru_cache(maxsize=1)
def profiles() -> dict[str, Machine]:
    """The machines that come with the product, by name."""
    return {name: _shipped(name, table) for name, table in _tables().items()}


def _shipped(name: str, table: Toml) -> Machine:
    """A profile that comes with the product, read without the library that says what is wrong in what people write: it
    takes a while to import, and a file without a ticket does without.
    """
    readers = readers_of(Machine)
    return Machine(
        profile=name, **{field: read(table[word]) for word, (field, read) in readers.items() if word in table}
    )


def standard_machine() -> Machine:
    """The one that is meant without a ticket; what is too fine, only a ticket says."""
    return replace(profiles()[STANDARD_PROFILE], smallest_stroke_mm=None, smallest_gap_mm=None)
