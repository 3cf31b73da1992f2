"""The ticket: what a job must be. A TOML file in which every field may be left out."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, TypeVar

import tomlkit

from unkelt.errors import InputError, LengthError
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.model import Outline
from unkelt.tolerance import STANDARD, Tolerance
from unkelt.units import parse_length

T = TypeVar("T")


@dataclass(frozen=True, slots=True, kw_only=True)
class Machine:
    """What the machine can do. Speeds serve the estimate of time only.

    The defaults are common practice in the trade, no source; a shop that has measured its own writes them in its ticket.
    """

    profile: str = "film-knife"
    bed_mm: tuple[float, float] | None = None
    hairline_mm: float = 25.4 / 96
    smallest_stroke_mm: float | None = None
    smallest_gap_mm: float | None = None
    speed_mm_s: float = 300.0
    travel_mm_s: float = 600.0
    acceleration_mm_s2: float = 3000.0
    pierce_s: float = 0.05
    node_s: float = 0.004
    kerf_mm: float = 0.0
    """How wide a beam or jet cuts; its head runs half of that beside the line."""
    blade_offset_mm: float = 0.25
    """How far a knife's blade touches down behind the axis it turns about."""
    lines_only: bool = False
    """Whether what reads its DXF files knows no curves, so that they are written as polylines within the chord."""


PROFILES = {
    # A strip of film under a millimetre lifts as it is weeded, and half a millimetre is what a weeding hook gets into.
    "film-knife": Machine(smallest_stroke_mm=1.0, smallest_gap_mm=0.5),
    # Kerf and char take about 0.15 mm off either side.
    "laser": Machine(
        profile="laser", speed_mm_s=25, travel_mm_s=500, acceleration_mm_s2=5000, pierce_s=0.02, node_s=0.001,
        smallest_stroke_mm=0.5, smallest_gap_mm=0.3, kerf_mm=0.2, blade_offset_mm=0.0,
    ),
    # The kerf alone is 1 to 1.5 mm, and what is left between two of them must stand the heat.
    "plasma": Machine(
        profile="plasma", speed_mm_s=40, travel_mm_s=250, acceleration_mm_s2=800, pierce_s=0.8, node_s=0.002,
        smallest_stroke_mm=3.0, smallest_gap_mm=2.0, kerf_mm=1.2, blade_offset_mm=0.0,
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Ticket:
    """Wanted size, machine, and the key of colours. `given` is False when no ticket came with the job."""

    given: bool = False
    name: str = ""
    width_mm: float | None = None
    height_mm: float | None = None
    size_tolerance_mm: float = 0.5
    size_of: str = "ink"
    mirrored: bool | None = None
    """Whether the sheet has to be mirrored, as film that is cut from behind; None where the ticket doesn't say."""
    machine: Machine = Machine()
    tolerance: Tolerance = STANDARD
    key: dict[str, Operation] = field(default_factory=dict)
    source: str = field(default="", compare=False)
    """The TOML it was read from, as it was written."""

    def operation(self, look: Appearance) -> Operation | None:
        """The operation of an item painted so: by the key where there is one, else everything painted is cut.

        None where the key doesn't know the colour.
        """
        if look.colour is None or not look.visible or look.opacity == 0:
            return Operation.LEAVE
        return self.key.get(look.colour) if self.key else Operation.CUT

    def by_operation(self, outlines: Iterable[Outline]) -> dict[Operation | None, list[Outline]]:
        """Outlines by what is done with them, in the order of the sheet."""
        grouped: dict[Operation | None, list[Outline]] = {}
        for outline in outlines:
            grouped.setdefault(self.operation(outline.look), []).append(outline)
        return grouped

    def in_one_line(self) -> str:
        """For people, the job in a line: "900 mm wide ± 0.5 · film-knife · cut, score"."""
        if not self.given:
            return "no ticket"
        sizes = [f"{value:g} mm {word}" for value, word in ((self.width_mm, "wide"), (self.height_mm, "high")) if value]
        parts = [f"{' by '.join(sizes)} ± {self.size_tolerance_mm:g}"] if sizes else []
        parts.append(self.machine.profile.replace("-", " "))
        parts += ["mirrored"] if self.mirrored else []
        if self.key:
            parts.append(", ".join(dict.fromkeys(self.key.values())))
        return " · ".join(parts)


def read_ticket(path: Path) -> Ticket:
    """Reads a ticket file. Raises InputError naming the file, the field and what is wrong with it."""
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as problem:
        raise InputError(str(path), f"can't be read as a ticket: {_reason(problem)}") from problem
    return parse_ticket(text, str(path))


def parse_ticket(text: str, source: str = "ticket") -> Ticket:
    """A ticket from TOML text. Raises InputError."""
    try:
        table = tomllib.loads(text)
    except tomllib.TOMLDecodeError as problem:
        raise InputError(source, f"is not valid TOML: {problem}") from problem
    form = _Form(source, table)
    width, height = form.take("size", "width", _length), form.take("size", "height", _length)
    profile = form.take("machine", "profile", _one_of(*PROFILES)) or "film-knife"
    machine = PROFILES[profile]
    changes: dict[str, Any] = {
        "bed_mm": form.take("machine", "bed", _two_lengths),
        "hairline_mm": form.take("machine", "hairline", _length),
        "smallest_stroke_mm": form.take("machine", "smallest_stroke", _length),
        "smallest_gap_mm": form.take("machine", "smallest_gap", _length),
        "kerf_mm": form.take("machine", "kerf", _length_or_none),
        "blade_offset_mm": form.take("machine", "blade_offset", _length_or_none),
        "lines_only": form.take("machine", "lines_only", _yes_or_no),
    }
    chord = form.take("machine", "chord", _length)
    ticket = Ticket(
        given=True,
        name=form.take("job", "name", _text) or "",
        mirrored=form.take("job", "mirrored", _yes_or_no),
        width_mm=width,
        height_mm=height,
        size_tolerance_mm=form.take("size", "tolerance", _length) or 0.5,
        size_of=form.take("size", "of", _one_of("ink", "cut", "visible")) or "ink",
        machine=replace(machine, **{name: value for name, value in changes.items() if value is not None}),
        tolerance=replace(STANDARD, chord_mm=chord) if chord else STANDARD,
        key=_key(form),
        source=text,
    )
    form.refuse_rest()
    return ticket


def with_key(ticket: Ticket, key: Mapping[str, Operation]) -> Ticket:
    """The ticket with another key, in its text too; what else the text says, and how it is written, stays."""
    document = tomlkit.parse(ticket.source) if ticket.source else tomlkit.document()
    table = tomlkit.table()
    for operation in Operation:
        if colours := [colour for colour, meaning in key.items() if meaning is operation]:
            table[operation.value] = colours
    document["key"] = table
    return replace(ticket, given=True, key=dict(key), source=tomlkit.dumps(document))


class _Form:
    """The ticket's tables; what is taken is crossed off, and what is left at the end is an unknown field."""

    def __init__(self, source: str, table: dict[str, Any]) -> None:
        self.source = source
        for name, value in table.items():
            if not isinstance(value, dict):
                raise InputError(source, "stands outside a table such as [job] or [size]", name)
        self.tables: dict[str, dict[str, Any]] = {name: dict(value) for name, value in table.items()}

    def take(self, table: str, name: str, convert: Callable[[Any], T]) -> T | None:
        if name not in self.tables.get(table, {}):
            return None
        try:
            return convert(self.tables[table].pop(name))
        except (LengthError, ValueError) as problem:
            raise InputError(self.source, str(problem), f"{table}.{name}") from problem

    def refuse_rest(self) -> None:
        known = {"job", "size", "machine", "key"}
        for table, fields in self.tables.items():
            if table not in known:
                raise InputError(self.source, f"unknown table (known: {', '.join(sorted(known))})", f"[{table}]")
            for name in fields:
                raise InputError(self.source, "unknown field", f"{table}.{name}")


def _key(form: _Form) -> dict[str, Operation]:
    key: dict[str, Operation] = {}
    for operation in Operation:
        for colour in form.take("key", operation.value, _colours) or []:
            if colour in key:
                raise InputError(form.source, f"{colour} already means {key[colour]}", f"key.{operation.value}")
            key[colour] = operation
    return key


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise ValueError(f"must be text in quotes, not {value!r}")
    return value


def _yes_or_no(value: Any) -> bool:
    if not isinstance(value, bool):
        raise ValueError(f"must be true or false, not {value!r}")
    return value


def _length(value: Any) -> float:
    length = parse_length(_text(value))
    if length <= 0:
        raise ValueError(f"“{value}” must be greater than zero")
    return length


def _length_or_none(value: Any) -> float:
    length = parse_length(_text(value))
    if length < 0:
        raise ValueError(f"“{value}” must not be less than zero")
    return length


def _two_lengths(value: Any) -> tuple[float, float]:
    if not isinstance(value, list) or len(value) != 2:
        raise ValueError(f"must be two lengths, width and height, not {value!r}")
    return _length(value[0]), _length(value[1])


def _one_of(*words: str) -> Callable[[Any], str]:
    def convert(value: Any) -> str:
        if value not in words:
            raise ValueError(f"must be one of {', '.join(words)}, not {value!r}")
        return str(value)

    return convert


def _colours(value: Any) -> list[str]:
    colours = value if isinstance(value, list) else [value]
    for colour in colours:
        if not isinstance(colour, str) or not re.fullmatch(r"#[0-9a-fA-F]{6}", colour):
            raise ValueError(f'must be colours such as "#0b5d4c", not {colour!r}')
    return [colour.lower() for colour in colours]


def _reason(problem: Exception) -> str:
    if isinstance(problem, UnicodeDecodeError):
        return "it is not UTF-8 text"
    return getattr(problem, "strerror", None) or str(problem)
