"""The ticket: what a job must be. A TOML file in which every field may be left out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Annotated, TypeVar

from unkelt.errors import InputError
from unkelt.job import schema
from unkelt.job.destination import Destination, destinations_from
from unkelt.job.machine import Machine, machine_of, standard_machine
from unkelt.messages import listed, say
from unkelt.sheet.appearance import Appearance, Operation, Paint
from unkelt.sheet.materials import Family, family_of, material_of, materials_of
from unkelt.sheet.model import Outline
from unkelt.tolerance import STANDARD, Tolerance

T = TypeVar("T", bound=str)


@dataclass(frozen=True, slots=True, kw_only=True)
class Ticket:
    """Wanted size, machine, the key of colours and what they are materials of. `given` is False when no ticket came
    with the job.
    """

    given: bool = False
    name: str = ""
    width_mm: float | None = None
    height_mm: float | None = None
    size_tolerance_mm: float = 0.5
    size_of: str = "ink"
    mirrored: bool | None = None
    """Whether the sheet has to be mirrored, as film that is cut from behind; None where the ticket doesn't say."""
    machine: Machine = field(default_factory=standard_machine)
    tolerance: Tolerance = STANDARD
    key: dict[str, Operation] = field(default_factory=dict)
    materials: dict[str, str] = field(default_factory=dict)
    """The material of each colour that isn't one of its own."""
    pieces: int | None = None
    """How many pieces the job may have; None where the ticket doesn't say."""
    sheet_stays: bool = False
    """Whether the sheet itself is the work, as a stencil is: what letters are cut out of must not fall apart."""
    destinations: tuple[Destination, ...] = ()
    """Where it goes, in the ticket's order; none where the package alone is wanted."""
    source: str = field(default="", compare=False)
    """The TOML it was read from, as it was written."""

    def operation(self, look: Appearance) -> Operation | None:
        """The operation of an item painted so: by the key where there is one, else everything painted is cut.

        None where the key doesn't know the colour.
        """
        if look.colour is None or not look.shown:
            return Operation.LEAVE
        return self.key.get(look.colour) if self.key else Operation.CUT

    def is_cut(self, look: Appearance) -> bool:
        """Whether an item painted so is cut: what the key doesn't know may be."""
        return self.operation(look) in (Operation.CUT, None)

    def by_operation(self, outlines: Iterable[Outline]) -> dict[Operation | None, list[Outline]]:
        """Outlines by what is done with them, in the order of the sheet."""
        grouped: dict[Operation | None, list[Outline]] = {}
        for outline in outlines:
            grouped.setdefault(self.operation(outline.look), []).append(outline)
        return grouped

    def material(self, paint: Paint) -> str:
        """The name of the material that a paint stands for."""
        return material_of(paint, self.materials)

    def materials_of(self, look: Appearance) -> tuple[str, ...]:
        """The names of the materials that an item painted so is of; none where nothing is seen of it."""
        return materials_of(look, self.materials)

    def family(self, look: Appearance) -> Family:
        """What items must have in common to be made one: materials, operation, and how thick and how a stroke is
        drawn.
        """
        return family_of(look, self.materials, self.operation(look), self.machine.hairline_mm)

    def by_material(self, outlines: Iterable[Outline]) -> dict[str, list[Outline]]:
        """Outlines by material, in the order of the sheet; one that is of several is among each of them."""
        grouped: dict[str, list[Outline]] = {}
        for outline in outlines:
            for material in self.materials_of(outline.look):
                grouped.setdefault(material, []).append(outline)
        return grouped

    def sent_to(self, names: Sequence[str] | None = None) -> tuple[Destination, ...]:
        """The destinations, or those of them that are named. Raises InputError where there is none of that name."""
        if names is None:
            return self.destinations
        known = {destination.name: destination for destination in self.destinations}
        for name in names:
            if name not in known:
                has = say("it has {listed}", listed=", ".join(known)) if known else say("it has none")
                raise InputError("the ticket", say("names no destination “{name}” ({has})", name=name, has=has))
        return tuple(known[name] for name in names)

    def in_one_line(self) -> str:
        """For people, the job in a line: "900 mm wide ± 0.5 · film-knife · cut, score"."""
        if not self.given:
            return "no ticket"
        wide = say("{width:g} mm wide", width=self.width_mm) if self.width_mm else ""
        high = say("{height:g} mm high", height=self.height_mm) if self.height_mm else ""
        size = say("{wide} by {high}", wide=wide, high=high) if wide and high else wide or high
        parts: list[str] = []
        if size:
            parts.append(say("{size} ± {tolerance:g}", size=size, tolerance=self.size_tolerance_mm))
        parts.append(self.machine.profile.replace("-", " "))
        parts += ["mirrored"] if self.mirrored else []
        if self.key:
            parts.append(listed(", ", dict.fromkeys(self.key.values())))
        return listed(" · ", parts)


def read_ticket(path: Path) -> Ticket:
    """Reads a ticket file. Raises InputError naming the file, the field and what is wrong with it."""
    return parse_ticket(read_text(path), str(path))


def read_text(path: Path) -> str:
    """The text of a ticket file. Raises InputError."""
    try:
        return path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as problem:
        raise InputError(str(path), say("can't be read as a ticket: {reason}", reason=_reason(problem))) from problem


@dataclass(frozen=True, slots=True)
class _Job:
    name: schema.Text = ""
    mirrored: schema.Switch | None = None
    pieces: schema.Count | None = None
    sheet_stays: schema.Switch = False


SIZE_OF = ("ink", "cut", "visible")


@dataclass(frozen=True, slots=True)
class _Size:
    width: schema.Length | None = None
    height: schema.Length | None = None
    tolerance: schema.Length = 0.5
    of: Annotated[str, schema.Written(schema.one_of(*SIZE_OF))] = "ink"


@dataclass(frozen=True, slots=True)
class _Tables:
    """What a ticket may say; `[machine]` is read by `machine_of`, each destination by `destinations_from`."""

    job: _Job = field(default_factory=_Job)
    size: _Size = field(default_factory=_Size)
    key: dict[Operation, schema.Colours] = field(default_factory=dict)
    materials: dict[str, schema.Colours] = field(default_factory=dict)
    destination: dict[str, schema.Table] = field(default_factory=dict)


def parse_ticket(text: str, source: str = "ticket") -> Ticket:
    """A ticket from TOML text. Raises InputError."""
    tables = schema.loads(text, source)
    known = ["machine", *_Tables.__dataclass_fields__]
    for name, value in tables.items():
        if not isinstance(value, dict):
            raise InputError(source, "stands outside a table such as [job] or [size]", name)
        if name not in known:
            raise InputError(
                source, say("unknown table (known: {listed})", listed=", ".join(sorted(known))), f"[{name}]"
            )
    said = dict(tables.pop("machine", {}))
    chord = (
        schema.structured({"chord": said.pop("chord")}, source, _Chord, "machine").chord if "chord" in said else None
    )
    machine, given = machine_of(said, source), schema.structured(tables, source, _Tables)
    return Ticket(
        given=True,
        name=given.job.name,
        mirrored=given.job.mirrored,
        pieces=given.job.pieces,
        width_mm=given.size.width,
        height_mm=given.size.height,
        size_tolerance_mm=given.size.tolerance,
        size_of=given.size.of,
        machine=machine,
        tolerance=replace(STANDARD, chord_mm=chord) if chord else STANDARD,
        key=_by_colour(given.key, source, "key"),
        materials=_by_colour(given.materials, source, "materials"),
        sheet_stays=given.job.sheet_stays,
        destinations=destinations_from(given.destination, source),
        source=text,
    )


@dataclass(frozen=True, slots=True)
class _Chord:
    """The one thing that `[machine]` says of the tolerance."""

    chord: schema.Length


def with_key(ticket: Ticket, key: Mapping[str, Operation]) -> Ticket:
    """The ticket with another key, in its text too; what else the text says, and how it is written, stays."""
    lists = {operation.value: [c for c, meaning in key.items() if meaning is operation] for operation in Operation}
    return replace(ticket, given=True, key=dict(key), source=_with_lists(ticket, "key", lists))


def with_materials(ticket: Ticket, materials: Mapping[str, str]) -> Ticket:
    """The ticket with other materials (each colour's name), in its text too; what else the text says stays."""
    lists: dict[str, list[str]] = {}
    for colour, name in materials.items():
        lists.setdefault(name, []).append(colour)
    return replace(ticket, given=True, materials=dict(materials), source=_with_lists(ticket, "materials", lists))


def _with_lists(ticket: Ticket, table: str, lists: Mapping[str, list[str]]) -> str:
    """The ticket's text with a table of lists in place of the one it had; empty lists are left out."""
    import tomlkit  # for whoever writes a ticket

    document = tomlkit.parse(ticket.source) if ticket.source else tomlkit.document()
    made = tomlkit.table()
    for name, colours in lists.items():
        if colours:
            made[name] = colours
    if len(made):
        document[table] = made
    elif table in document:
        del document[table]
    return tomlkit.dumps(document)


def _by_colour(given: Mapping[T, list[str]], source: str, table: str) -> dict[str, T]:
    """Of each colour the name whose list it stands in, from tables such as birch = ["#0b5d4c", "#20262b"]. Raises
    InputError where it stands in two.
    """
    meanings: dict[str, T] = {}
    for name, colours in given.items():
        for colour in colours:
            if colour in meanings:
                words = say("{colour} already means {other}", colour=colour, other=meanings[colour])
                raise InputError(source, words, f"{table}.{name}")
            meanings[colour] = name
    return meanings


def _reason(problem: Exception) -> str:
    if isinstance(problem, UnicodeDecodeError):
        return "it is not UTF-8 text"
    return getattr(problem, "strerror", None) or str(problem)
