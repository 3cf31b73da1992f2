"""Tables as dataclasses, by cattrs; `schema.py` says what their fields hold."""

from __future__ import annotations

import typing
from collections.abc import Callable
from dataclasses import fields as dataclass_fields
from dataclasses import is_dataclass
from typing import Annotated, Any, TypeVar

import cattrs
import cattrs.gen
from cattrs.errors import ForbiddenExtraKeysError

from unkelt.errors import InputError, LengthError
from unkelt.job.schema import Toml, Written
from unkelt.messages import say

T = TypeVar("T")


def structured(table: Toml, source: str, kind: type[T], place: str) -> T:
    """See `schema.structured`."""
    try:
        return _CONVERTER.structure(table, kind)
    except (
        cattrs.BaseValidationError,
        ForbiddenExtraKeysError,
        LengthError,
        ValueError,
        TypeError,
        KeyError,
    ) as problem:
        where, words = _first(problem)
        raise InputError(source, words, ".".join(filter(None, (place, *where))) or None) from problem


def _first(problem: BaseException) -> tuple[list[str], str]:
    """Where the first of all that is wrong stands, and what is wrong with it."""
    if isinstance(problem, cattrs.BaseValidationError):
        inner = problem.exceptions[0]
        notes = [note for note in getattr(inner, "__notes__", ()) if isinstance(note, cattrs.AttributeValidationNote)]
        where, words = _first(inner)
        return [*(_written_name(problem.cl, note.name) for note in notes), *where], words
    if isinstance(problem, ForbiddenExtraKeysError):
        return [min(problem.extra_fields)], "unknown field"
    if isinstance(problem, KeyError):
        return [str(problem.args[0])], "is missing"
    return [], str(problem)


def _written_name(kind: type, name: str) -> str:
    """What a field is called in the file."""
    return getattr(kind, "WRITTEN", {}).get(name, name)


def _reader(kind: object) -> Callable[[object], object] | None:
    marks = typing.get_args(kind)[1:] if typing.get_origin(kind) is Annotated else ()
    return next((mark.read for mark in marks if isinstance(mark, Written)), None)


def _reading(kind: object) -> Callable[[object, object], object]:
    read = _reader(kind)
    assert read is not None
    return lambda value, _: read(value)


def _hook(hint: Any) -> Callable[[object, object], object]:  # whatever cattrs takes for a type
    return lambda value, _: _CONVERTER.structure(value, hint)


def _dataclass_hook(kind: type) -> Callable[[object, object], object]:
    written: dict[str, str] = getattr(kind, "WRITTEN", {})
    # cattrs leaves out of annotations what is more than a type, so it is told field by field.
    hints = typing.get_type_hints(kind, include_extras=True)
    fields: Toml = {
        field.name: cattrs.override(
            rename=written.get(field.name),
            struct_hook=_hook(hints[field.name]),
        )
        for field in dataclass_fields(kind)
    }
    structure: Callable[[Any, Any], object] = cattrs.gen.make_dict_structure_fn(
        kind, _CONVERTER, _cattrs_forbid_extra_keys=True, _cattrs_detailed_validation=True, **fields
    )

    def hook(value: object, as_kind: object) -> object:
        if not isinstance(value, dict):
            raise ValueError(say("must be a table, not {value!r}", value=value))
        return structure(value, as_kind)

    return hook


_CONVERTER = cattrs.Converter(forbid_extra_keys=True)
_CONVERTER.register_structure_hook_factory(is_dataclass, _dataclass_hook)
_CONVERTER.register_structure_hook_factory(lambda kind: _reader(kind) is not None, _reading)
