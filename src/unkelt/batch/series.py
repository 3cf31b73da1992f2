"""A series: one recipe and a list of names, each set, composed, proofed and released. "{text}" in the recipe stands for
the column of that name.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from unkelt.app.work import mended, opened
from unkelt.batch.folder import Row
from unkelt.batch.journal import facts_of
from unkelt.batch.readback import asked_for, misread
from unkelt.batch.releasing import Handing, handed, mark_of
from unkelt.errors import InputError, UnkeltError
from unkelt.formats.files import read_bytes
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.shelves import standard_shelf
from unkelt.messages import each_once, listed, say
from unkelt.recipe import Call, Recipe
from unkelt.release.sheets import slug
from unkelt.sheet.model import Sheet
from unkelt.verdict.case import Case

PAGE_MM = (300.0, 200.0)
"""The page that a series begins with where no file is given."""

_FIELD = re.compile(r"\{(\w+)\}")


@dataclass(frozen=True)
class Orders:
    """What is made of every line."""

    recipe: Recipe
    ticket: Ticket
    how: Handing
    base: Path | None = None
    faces: tuple[Path, ...] = ()

    @property
    def mark(self) -> str:
        """Changes where the answers might."""
        base = facts_of(self.base) if self.base else ""
        return mark_of(repr(self.ticket), self.how, self.recipe, repr(self.faces), f"{self.base}{base}")


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the list: its number, counted from 1 after the heading, and its columns."""

    number: int
    columns: dict[str, str]

    @property
    def name(self) -> str:
        """What it is called: its number and its first column."""
        return f"{self.number:04d} {next(iter(self.columns.values()), '')}".strip()


def read_lines(path: Path) -> list[Line]:
    """The lines of a CSV file with a heading; lines with nothing in them are passed over. Raises InputError."""
    try:
        text = read_bytes(path).decode("utf-8-sig")
        dialect = (
            csv.Sniffer().sniff(text.split("\n", 1)[0] + "\n", delimiters=",;\t")
            if re.search("[,;\t]", text.split("\n", 1)[0])
            else csv.excel
        )
        table = list(csv.reader(io.StringIO(text), dialect, strict=True))
    except UnicodeDecodeError as problem:
        raise InputError(str(path), "is not UTF-8 text") from problem
    except csv.Error as problem:
        raise InputError(str(path), say("is no CSV: {problem}", problem=problem)) from problem
    heading = [name.strip().lower() for name in table[0]]
    if len(set(heading)) != len(heading) or not all(re.fullmatch(r"\w+", name) for name in heading):
        raise InputError(str(path), "needs a heading of different names, such as text,size,colour", "line 1")
    found: list[Line] = []
    for number, row in enumerate(table[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) > len(heading):
            raise InputError(
                str(path),
                say("has {count} cells under {count_2} headings", count=len(row), count_2=len(heading)),
                say("line {number}", number=number),
            )
        cells = [cell.strip() for cell in row] + [""] * (len(heading) - len(row))
        found.append(Line(len(found) + 1, dict(zip(heading, cells, strict=True))))
    if not found:
        raise InputError(str(path), "has no line under its heading")
    return found


def filled(recipe: Recipe, columns: dict[str, str]) -> Recipe:
    """The recipe with each "{column}" in its options replaced. Raises InputError where there is no such column.

    An option that comes out empty is left out, so that it has its default.
    """

    def put(text: str) -> str:
        for name in _FIELD.findall(text):
            if name not in columns:
                raise InputError(
                    "the recipe",
                    say(
                        "asks for the column “{name}”, which the list doesn't have (it has {listed})",
                        name=name,
                        listed=", ".join(columns),
                    ),
                )
        return _FIELD.sub(lambda field: columns[field[1]], text)

    calls: list[Call] = []
    for call in recipe.calls:
        options = {name: put(value) if isinstance(value, str) else value for name, value in call.options.items()}
        calls.append(replace(call, options={name: value for name, value in options.items() if value != ""}))
    return Recipe(tuple(calls))


_orders: Orders
_workshop: Workshop


def prepare(orders: Orders) -> None:
    """Once in each process."""
    global _orders, _workshop  # as in folder.py
    _orders, _workshop = orders, Workshop(orders.ticket, standard_shelf(orders.faces))


def made(line: Line) -> Row:
    """One line: set, composed, proofed and released into a package of its own."""
    try:
        recipe = filled(_orders.recipe, line.columns)
        case = mended(_begun(slug(line.name), line), recipe)
        if case.refused or not case.sheet.outlines():  # a name that is not what the list says must not go out
            problem = listed("; ", each_once(case.refused)) or "the recipe made nothing"
            return Row(line.name, problem=problem, refused=case.refused)
        if wrong := misread(asked_for(_orders.recipe, recipe), case.original, case.stages, _workshop.shelf):
            return Row(line.name, problem=say("not released: {wrong}", wrong=wrong))
    except UnkeltError as problem:
        return Row(line.name, problem=str(problem))
    return handed(line.name, case, _orders.how, _orders.ticket.source)


def _begun(name: str, line: Line) -> Case:
    """What a line begins with: the base, or an empty sheet; the job is called as the line is. Raises InputError."""
    workshop = Workshop(replace(_workshop.ticket, name=line.name), _workshop.shelf)
    if _orders.base:
        return opened(_orders.base, workshop)
    return Case(Path(f"{name}.svg"), Sheet(PAGE_MM), workshop, received=b"")


def check_columns(recipe: Recipe, lines: Sequence[Line]) -> None:
    """Raises InputError, before anything is made, where the recipe asks for a column that the list doesn't have, or for
    none of the list's: then all packages would be the same, under different names.
    """
    columns = lines[0].columns
    filled(recipe, columns)
    used = {name for call in recipe.calls for value in call.options.values() for name in _FIELD.findall(str(value))}
    if not used:
        first = next(iter(columns))
        raise InputError(
            "the recipe",
            say(
                "uses no column of the list ({listed}), so that every package would be the same; write “{{{first}}}” "
                "where its words belong",
                listed=", ".join(columns),
                first=first,
            ),
        )
