"""Where a job goes: a machine's or a partner's software, in which format, how it imports, and what it gets a file for
each of.

    [destination.bench-plotter]
    format = "svg"
    reads = "seventy-two"
    each = ["material"]
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Annotated

from unkelt.errors import InputError
from unkelt.job.habit_names import HABITS, PLAIN
from unkelt.job.importing import Habits, known_habits, plain_habits
from unkelt.job.schema import Count, Names, PerInch, Switch, Toml, Written, one_of, structured
from unkelt.messages import listed, say

MATERIAL, OPERATION, GROUP = "material", "operation", "group"
EACH = (MATERIAL, OPERATION, GROUP)
ONE_FOR_EACH = {
    MATERIAL: "a file for each material",
    OPERATION: "a file for each operation",
    GROUP: "a file for each group",
}
FORMATS = ("svg", "dxf", "pdf", "plt")
DXF_PER_INCH = (1.0, 25.4)
"""DXF counts in units of its own, of which the inch and the millimetre are read everywhere."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Destination:
    """One place that a release goes to. Without a name it is the package itself.

    `each` names what gets a file of its own: materials, operations, groups; none where all goes into one file.
    `mirrored` are the materials that are cut from behind. With `marks` every material's file carries the same
    registration marks.
    """

    name: str = ""
    ending: str = ".svg"
    habits: Habits = field(default_factory=plain_habits)
    each: tuple[str, ...] = ()
    marks: bool = False
    mirrored: tuple[str, ...] = ()

    def in_one_line(self) -> str:
        """For people: "SVG, 72 to the inch, a file for each material"."""
        words = ["HPGL" if self.ending == ".plt" else self.ending[1:].upper()]
        own = self.habits.in_words() if self.habits.name in (self.name, plain_habits().name) else self.habits.name
        words += [own] if own else []
        words += [say(ONE_FOR_EACH[kind]) for kind in self.each]
        words += [say("registration marks")] if self.marks else []
        words += [say("{names} mirrored", names=", ".join(self.mirrored))] if self.mirrored else []
        return listed(", ", words)


@dataclass(frozen=True, slots=True)
class _Said:
    """What a table `[destination.NAME]` may say: where it goes, and habits beside those that `reads` names."""

    format: Annotated[str, Written(one_of(*FORMATS))] = "svg"
    reads: Annotated[str, Written(one_of(*HABITS))] = PLAIN
    each: Names = ()
    marks: Switch = False
    mirrored: Names = ()
    fill_rule: Annotated[str, Written(one_of("even-odd", "nonzero"))] | None = None
    per_inch: PerInch | None = None
    styles: Switch | None = None
    groups: Switch | None = None
    most_nodes: Count | None = None
    curves: Switch | None = None


OWN_HABITS = tuple(each.name for each in fields(Habits) if each.name not in ("name", "says"))


def destinations_from(tables: Mapping[str, Toml], source: str) -> tuple[Destination, ...]:
    """The destinations of a ticket, in its order. Raises InputError naming the field, or two names that a file system
    can't tell apart.
    """
    made = [_destination_from(name, table, source) for name, table in tables.items()]
    seen: dict[str, str] = {}
    for name in tables:
        plain = re.sub(r"[^\w]+", "-", name).strip("-").lower()
        if not plain:
            raise InputError(source, "needs a name of letters or digits", f"destination.{name}")
        if plain in seen:
            words = say("has the same name as “{other}”, as far as folders go", other=seen[plain])
            raise InputError(source, words, f"destination.{name}")
        seen[plain] = name
    return tuple(made)


def _destination_from(name: str, table: Toml, source: str) -> Destination:
    """A destination from its table in a ticket. Raises InputError naming the field."""
    place = f"destination.{name}"
    said = structured(table, source, _Said, place)
    habits = known_habits()[said.reads]
    own = {habit: given for habit in OWN_HABITS if (given := getattr(said, habit)) is not None}
    if own:
        habits = replace(habits, **own, name=name)
    made = Destination(
        name=name,
        ending=f".{said.format}",
        habits=habits,
        each=said.each,
        marks=said.marks,
        mirrored=said.mirrored,
    )
    for wrong, where in _contradictions(made):
        raise InputError(source, wrong, f"{place}.{where}")
    return made


def _contradictions(asked: Destination) -> list[tuple[str, str]]:
    """What can't be as it was asked for, in words, with the field that asks for it."""
    found: list[tuple[str, str]] = []
    unknown = [kind for kind in asked.each if kind not in EACH]
    if unknown:
        found.append(
            (say("must hold {listed}, not {value!r}", listed=" or ".join(EACH), value=unknown[0]), "each"),
        )
    if MATERIAL not in asked.each:
        found += [(say('needs each = ["material"]'), "marks")] if asked.marks else []
        found += [(say('needs each = ["material"]'), "mirrored")] if asked.mirrored else []
    per_inch = asked.habits.per_inch
    if per_inch is not None and asked.ending == ".dxf" and per_inch not in DXF_PER_INCH:
        found.append(
            (say("must be 1 (inches) or 25.4 (millimetres) in DXF, not {value:g}", value=per_inch), "per_inch")
        )
    if per_inch is not None and asked.ending in (".pdf", ".plt"):
        found.append((say("has no place in {kind}, whose unit is fixed", kind=asked.ending[1:].upper()), "per_inch"))
    return found
