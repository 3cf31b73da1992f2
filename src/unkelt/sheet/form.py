"""TOML files that people fill in: fields taken one by one, each refused with its place where it can't be what it
says.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Callable
from typing import Any, TypeVar

from unkelt.errors import InputError, LengthError
from unkelt.units import parse_length

T = TypeVar("T")


class Form:
    """The tables of a TOML text; what is taken is crossed off, and what is left at the end is an unknown field."""

    def __init__(self, text: str, source: str) -> None:
        """Raises InputError where the text is no TOML, or says something outside a table."""
        self.source = source
        try:
            table = tomllib.loads(text)
        except tomllib.TOMLDecodeError as problem:
            raise InputError(source, f"is not valid TOML: {problem}") from problem
        for name, value in table.items():
            if not isinstance(value, dict):
                raise InputError(source, "stands outside a table such as [job] or [size]", name)
        self.tables: dict[str, dict[str, Any]] = {name: dict(value) for name, value in table.items()}

    def take(self, table: str, name: str, convert: Callable[[Any], T]) -> T | None:
        """A field as what `convert` makes of it, None where it isn't given. Raises InputError naming it."""
        if name not in self.tables.get(table, {}):
            return None
        try:
            return convert(self.tables[table].pop(name))
        except (LengthError, ValueError) as problem:
            raise InputError(self.source, str(problem), f"{table}.{name}") from problem

    def refuse_rest(self, *known: str) -> None:
        """Raises InputError where anything is left that nobody took."""
        for table, fields in self.tables.items():
            if table not in known:
                raise InputError(self.source, f"unknown table (known: {', '.join(sorted(known))})", f"[{table}]")
            for name in fields:
                raise InputError(self.source, "unknown field", f"{table}.{name}")


def text(value: Any) -> str:
    if not isinstance(value, str):
        raise ValueError(f"must be text in quotes, not {value!r}")
    return value


def yes_or_no(value: Any) -> bool:
    if not isinstance(value, bool):
        raise ValueError(f"must be true or false, not {value!r}")
    return value


def count(value: Any) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or value < 1:
        raise ValueError(f"must be a whole number from 1 on, not {value!r}")
    return value


def length(value: Any) -> float:
    found = parse_length(text(value))
    if found <= 0:
        raise ValueError(f"“{value}” must be greater than zero")
    return found


def length_or_none(value: Any) -> float:
    found = parse_length(text(value))
    if found < 0:
        raise ValueError(f"“{value}” must not be less than zero")
    return found


def two_lengths(value: Any) -> tuple[float, float]:
    if not isinstance(value, list) or len(value) != 2:
        raise ValueError(f"must be two lengths, width and height, not {value!r}")
    return length(value[0]), length(value[1])


def one_of(*words: str) -> Callable[[Any], str]:
    def convert(value: Any) -> str:
        if value not in words:
            raise ValueError(f"must be one of {', '.join(words)}, not {value!r}")
        return str(value)

    return convert


def colours(value: Any) -> list[str]:
    given = value if isinstance(value, list) else [value]
    for colour in given:
        if not isinstance(colour, str) or not re.fullmatch(r"#[0-9a-fA-F]{6}", colour):
            raise ValueError(f'must be colours such as "#0b5d4c", not {colour!r}')
    return [colour.lower() for colour in given]


def speed(value: Any) -> float:
    """“300 mm/s” in mm/s."""
    return _per(value, "/s", "a speed such as 300 mm/s")


def acceleration(value: Any) -> float:
    """“3000 mm/s2” in mm/s²."""
    return _per(value, "/s2", "an acceleration such as 3000 mm/s2")


def seconds(value: Any) -> float:
    """“0.8 s”, “4 ms” in seconds."""
    match = re.fullmatch(r"\s*(\d+(?:\.\d*)?|\.\d+)\s*(ms|s)\s*", text(value))
    if not match:
        raise ValueError(f"must be a time such as 0.8 s or 4 ms, not {value!r}")
    return float(match[1]) / (1000 if match[2] == "ms" else 1)


def _per(value: Any, ending: str, wanted: str) -> float:
    said = text(value).replace("²", "2").replace(" ", "")
    if not said.endswith(ending):
        raise ValueError(f"must be {wanted}, not {value!r}")
    return length(said.removesuffix(ending))
