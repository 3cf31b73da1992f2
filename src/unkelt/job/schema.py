"""TOML files that people fill in: each is a dataclass, whose fields say what they hold and how it is written.

A field is annotated with one of the kinds below, such as `Length`; what can't be what it says is refused with its
place.
"""

from __future__ import annotations

import re
import tomllib
import typing
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, TypeVar

from unkelt.errors import InputError
from unkelt.messages import say
from unkelt.units import parse_length

T = TypeVar("T")
Toml = dict[str, Any]
"""A table as tomllib gives it."""


@dataclass(frozen=True, slots=True)
class Written:
    """In a field's annotation: what reads its value. It raises ValueError or LengthError, with what must be there."""

    read: Callable[[object], object]


def loads(text: str, source: str) -> Toml:
    """The tables of a TOML text. Raises InputError."""
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as problem:
        raise InputError(source, say("is not valid TOML: {problem}", problem=problem)) from problem


def structured(table: Toml, source: str, kind: type[T], place: str = "") -> T:
    """A table as the dataclass that it fills in; it may leave out fields that have a value without it.

    Raises InputError with the field's place, within the `place` of the table, where a value isn't what the field holds
    or nobody knows the field.
    """
    from unkelt.job.structuring import structured as by_cattrs  # whose library a file without a ticket does without

    return by_cattrs(table, source, kind, place)


def readers_of(kind: type) -> dict[str, tuple[str, Callable[[Any], Any]]]:
    """By what they are called in the file, the fields of a dataclass that holds no other, each with what reads it."""
    written: dict[str, str] = getattr(kind, "WRITTEN", {})
    found = {}
    for name, hint in typing.get_type_hints(kind, include_extras=True).items():
        parts = (hint, *typing.get_args(hint))
        marks = [mark for part in parts for mark in getattr(part, "__metadata__", ()) if isinstance(mark, Written)]
        if marks:
            found[written.get(name, name)] = name, marks[0].read
    return found


def text(value: object) -> str:
    """Text in quotes. Raises ValueError."""
    if not isinstance(value, str):
        raise ValueError(say("must be text in quotes, not {value!r}", value=value))
    return value


def yes_or_no(value: object) -> bool:
    """true or false. Raises ValueError."""
    if not isinstance(value, bool):
        raise ValueError(say("must be true or false, not {value!r}", value=value))
    return value


def count(value: object) -> int:
    """A whole number from 1 on. Raises ValueError."""
    if not isinstance(value, int) or isinstance(value, bool) or value < 1:
        raise ValueError(say("must be a whole number from 1 on, not {value!r}", value=value))
    return value


def number(value: object) -> float:
    """Any number. Raises ValueError."""
    if not isinstance(value, int | float) or isinstance(value, bool):
        raise ValueError(say("must be a number, not {value!r}", value=value))
    return float(value)


def per_inch(value: object) -> float:
    """So many to the inch, more than none. Raises ValueError."""
    found = number(value)
    if found <= 0:
        raise ValueError(say("must be greater than zero, not {value!r}", value=value))
    return found


def names(value: object) -> tuple[str, ...]:
    """A list of texts. Raises ValueError."""
    if not isinstance(value, list) or not all(isinstance(each, str) for each in value):
        raise ValueError(say("must be a list of names, not {value!r}", value=value))
    return tuple(value)


def numbers(value: object) -> tuple[float, ...]:
    """A list of numbers. Raises ValueError."""
    if not isinstance(value, list):
        raise ValueError(say("must be a list of numbers, not {value!r}", value=value))
    return tuple(map(number, value))


def table_of_anything(value: object) -> Toml:
    """A table whose fields somebody else knows. Raises ValueError."""
    if not isinstance(value, dict):
        raise ValueError(say("must be a table, not {value!r}", value=value))
    return value


def length(value: object) -> float:
    """A length with its unit, in mm, greater than zero. Raises LengthError or ValueError."""
    found = parse_length(text(value))
    if found <= 0:
        raise ValueError(say("“{value}” must be greater than zero", value=value))
    return found


def length_or_none(value: object) -> float:
    """A length with its unit, in mm, not less than zero. Raises LengthError or ValueError."""
    found = parse_length(text(value))
    if found < 0:
        raise ValueError(say("“{value}” must not be less than zero", value=value))
    return found


def two_lengths(value: object) -> tuple[float, float]:
    """Two lengths with their units, in mm. Raises LengthError or ValueError."""
    if not isinstance(value, list) or len(value) != 2:
        raise ValueError(say("must be two lengths, width and height, not {value!r}", value=value))
    return length(value[0]), length(value[1])


def one_of(*words: str) -> Callable[[object], str]:
    """A reader of one of these words; it raises ValueError for any other."""

    def convert(value: object) -> str:
        if value not in words:
            raise ValueError(say("must be one of {listed}, not {value!r}", listed=", ".join(words), value=value))
        return str(value)

    return convert


def colours(value: object) -> list[str]:
    """One or several colours “#rrggbb”, in small letters. Raises ValueError."""
    found = []
    for colour in value if isinstance(value, list) else [value]:
        if not isinstance(colour, str) or not re.fullmatch(r"#[0-9a-fA-F]{6}", colour):
            raise ValueError(say('must be colours such as "#0b5d4c", not {colour!r}', colour=colour))
        found.append(colour.lower())
    return found


def speed(value: object) -> float:
    """“300 mm/s” in mm/s."""
    return _per(value, "/s", "a speed such as 300 mm/s")


def acceleration(value: object) -> float:
    """“3000 mm/s2” in mm/s²."""
    return _per(value, "/s2", "an acceleration such as 3000 mm/s2")


def seconds(value: object) -> float:
    """“0.8 s”, “4 ms” in seconds."""
    match = re.fullmatch(r"\s*(\d+(?:\.\d*)?|\.\d+)\s*(ms|s)\s*", text(value))
    if not match:
        raise ValueError(say("must be a time such as 0.8 s or 4 ms, not {value!r}", value=value))
    return float(match[1]) / (1000 if match[2] == "ms" else 1)


def _per(value: object, ending: str, wanted: str) -> float:
    said = text(value).replace("²", "2").replace(" ", "")
    if not said.endswith(ending):
        raise ValueError(say("must be {wanted}, not {value!r}", wanted=wanted, value=value))
    return length(said.removesuffix(ending))


Text = Annotated[str, Written(text)]
Switch = Annotated[bool, Written(yes_or_no)]
Count = Annotated[int, Written(count)]
Number = Annotated[float, Written(number)]
PerInch = Annotated[float, Written(per_inch)]
Length = Annotated[float, Written(length)]
"""In mm, more than none."""
LengthOrNone = Annotated[float, Written(length_or_none)]
TwoLengths = Annotated[tuple[float, float], Written(two_lengths)]
Speed = Annotated[float, Written(speed)]
"""In mm/s."""
Acceleration = Annotated[float, Written(acceleration)]
"""In mm/s²."""
Seconds = Annotated[float, Written(seconds)]
Colours = Annotated[list[str], Written(colours)]
Names = Annotated[tuple[str, ...], Written(names)]
Numbers = Annotated[tuple[float, ...], Written(numbers)]
Table = Annotated[Toml, Written(table_of_anything)]
