"""Unkelt checks, repairs and proves lettering files before they go to a cutting machine.

Glossary, used alike in code, window, messages and docs:

path        one or more subpaths; the shape of an outline
subpath     one run of segments, closed or open
segment     a line, quadratic or cubic piece between two nodes
node        an on-curve point where segments meet; handle: an off-curve control point
ring        a closed subpath seen as the boundary of an area; counter: a ring that is a hole
piece       one connected region of material: an outer ring with its counters
sheet       what a file holds; outline, lettering, picture, group: its items
lettering   live text; once outlined it is the outline's origin
ticket      what the job asks for: size, machine, key of colours to operations
finding     what the survey reports; step: what cures it; recipe: the steps in order
evidence    what a step changed and what it guarantees, in numbers

As a library: read, survey, mend, run, write and proof are in `unkelt.scripting`, and here by their names.
"""

from __future__ import annotations

import importlib
import sys
from types import ModuleType
from typing import Any

__version__ = "0.1.0"

_SCRIPTING = ("mend", "proof", "read", "recipe", "run", "survey", "ticket", "write")


def __getattr__(name: str) -> Any:
    """The library's functions, loaded when the first of them is asked for: whoever needs one module only waits for that."""
    if name in _SCRIPTING:
        return getattr(importlib.import_module("unkelt.scripting"), name)
    raise AttributeError(f"module 'unkelt' has no attribute {name!r}")


class _Room(ModuleType):
    """A room that has the name of a function of the library (survey, proof, recipe): calling it calls that."""

    def __call__(self, *given: Any, **named: Any) -> Any:
        name = self.__name__.removeprefix("unkelt.")
        return getattr(importlib.import_module("unkelt.scripting"), name)(*given, **named)


class _Package(ModuleType):
    def __setattr__(self, name: str, value: Any) -> None:
        if name in _SCRIPTING and type(value) is ModuleType:  # Python names a room here as it is imported
            value.__class__ = _Room
        super().__setattr__(name, value)


sys.modules[__name__].__class__ = _Package
