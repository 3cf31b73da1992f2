"""How a step is declared, and what it returns.

A step is a function (sheet, items, workshop, options…) → Outcome. It plans, proves, then applies: it raises StepRefused
and changes nothing when it can't prove what it promises. Its options are keyword arguments whose annotations say what
they are, so that recipes, the command line, the window and the manual all read one declaration.
"""

from __future__ import annotations

import inspect
import math
import typing
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import Flag, StrEnum, auto
from typing import Any, Literal

from unkelt.account.changes import STILL, Change, Moves, Reason
from unkelt.errors import LengthError, NothingToDo, StaleTarget, StepRefused
from unkelt.geometry.measure import Box
from unkelt.job.workshop import Workshop
from unkelt.messages import listed, say
from unkelt.progress import Progress
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Group, Item, Lettering, Outline, Sheet
from unkelt.sheet.naming import called, meant_in
from unkelt.steps.evidence import Evidence
from unkelt.steps.grip import Grip
from unkelt.units import parse_length

Kind = Literal["length", "number", "angle", "count", "choice", "switch", "text"]
_WANTED = {
    "number": "a number",
    "angle": "an angle in degrees",
    "count": "a whole number, not below 0",
    "switch": "true or false",
    "text": "a text",
}


Lines = Literal["any", "closed", "open"]

Value = Any
"""An option's value: its kind says which type it has."""


@dataclass(frozen=True, slots=True)
class Outcome:
    """The new sheet, the items worked on (by their old ids), and what can be said of the change in numbers.

    `marks` are places to look at, where it closed or enclosed something. `changes` declares what is meant to be painted
    or drawn otherwise, as it lies on the new sheet, and `moves` what was moved; whoever runs the step compares both
    sheets, and refuses what is neither.
    """

    sheet: Sheet
    items: tuple[str, ...]
    evidence: Evidence
    changes: tuple[Change, ...] = ()
    moves: Moves = STILL
    marks: tuple[Box, ...] = ()


@dataclass(frozen=True, slots=True)
class Parameter:
    """One option of a step. Lengths are in mm in code and texts with a unit in recipes; angles are degrees in both.

    `label` is what people read beside its field. A `first` one stands open, the others are folded. `when` is another
    option and the values of it with which this one matters.
    """

    name: str
    kind: Kind
    default: Value
    choices: tuple[str, ...]
    what: str
    pictured: str = ""
    label: str = ""
    first: bool = False
    when: tuple[str, ...] = ()

    def matters(self, values: Mapping[str, Value]) -> bool:
        """Whether it decides anything while the step's options have these values."""
        return not self.when or str(values.get(self.when[0])) in self.when[1:]

    def value(self, given: Value) -> Value:
        """The option as the step takes it. Raises ValueError or LengthError."""
        if given is None:
            return None
        number = isinstance(given, (int, float)) and not isinstance(given, bool)
        match self.kind:
            case "length" if isinstance(given, str):
                return parse_length(given)
            case "length" if number:
                raise LengthError(str(given), "has no unit; write for example “900 mm”")
            case "number" | "angle" if number and math.isfinite(given):
                return float(given)
            case "count" if number and given == int(given) and given >= 0:
                return int(given)
            case "choice" if given in self.choices:
                return given
            case "switch" if isinstance(given, bool):
                return given
            case "text" if isinstance(given, str):
                return given
        raise ValueError(say("must be {wanted}, not {given!r}", wanted=self.wanted, given=given))

    @property
    def wanted(self) -> str:
        """What may be given, in words."""
        words = {
            "length": 'a length such as "0.2 mm"',
            "choice": say("one of {listed}", listed=", ".join(self.choices)),
        }
        return words.get(self.kind) or _WANTED[self.kind]


class Purpose(StrEnum):
    """What people take a step for: the groups that they look for it in."""

    LETTERING = "Lettering"
    SHAPE = "Shape"
    LAYOUT = "Layout"
    LAYERS = "Layers"
    CLEAN = "Clean up"


class On(Flag):
    """What has to be chosen for a step to be offered by hand. Where texts and outlines are chosen, it must work on
    both."""

    NOTHING = 0
    TEXT = auto()
    OUTLINES = auto()
    SHEET = auto()
    ITEMS = TEXT | OUTLINES


@dataclass(frozen=True, slots=True)
class Step:
    """A step as declared: all that survey, recipe, window, command line and manual know of it.

    `cures` are the findings that it would cure, as its line in `steps.py` says. `on`
    says what has to be chosen for it to be offered by hand, `purpose` where people look for it. `safe` ones are taken
    by "Mend what is safe", for the findings that they are the first cure of.

    `redraws` says why the items that it works on may look otherwise afterwards; a step without it declares each change
    itself. Nothing else on the sheet may change either way. `by_length` says that lengths decide what it does, so that
    it waits until the physical size is certain. `keeps_lines` is off where its `max_deviation_mm` is about lines that
    it takes out or joins on purpose, which is no movement of what stays. `grip` is what of it can be dragged on the
    table, `hints` what its fields hold at first, by the sheet and what is chosen. `prepare` is called before
    it is tried in a window, told of progress, where it has to look at much first. `likely` says for what it is often
    the next thing to do, and `of_several` that this is so for more than one of them alone.
    `lines` says whether it needs closed outlines, or open ones.
    """

    name: str
    title: str
    safe: bool
    parameters: tuple[Parameter, ...]
    function: Callable[..., Outcome]
    purpose: Purpose
    redraws: Reason | None = None
    by_length: bool = False
    keeps_lines: bool = True
    on: On = On.NOTHING
    grip: Grip | None = None
    hints: Callable[[Sheet, Sequence[Item]], dict[str, str]] | None = None
    prepare: Callable[[Workshop, Progress | None], object] | None = None
    likely: On = On.NOTHING
    of_several: bool = False
    lines: Lines = "any"
    cures: tuple[str, ...] = ()

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes of the findings that it cures in some case."""
        return tuple(dict.fromkeys(cure.split(":")[0] for cure in self.cures))

    @property
    def promise(self) -> str:
        """What it does and guarantees: its docstring."""
        return listed("\n\n", inspect.cleandoc(self.function.__doc__ or "").split("\n\n"))

    def run(self, sheet: Sheet, items: tuple[str, ...], workshop: Workshop, options: Mapping[str, Value]) -> Outcome:
        """Runs it. Raises StepRefused; the sheet given is never changed."""
        known = {parameter.name: parameter for parameter in self.parameters}
        values = {}
        for name, given in options.items():
            if name not in known:
                raise StepRefused(
                    self.name,
                    say("has no option “{name}” (it has: {value})", name=name, value=", ".join(known) or say("none")),
                )
            try:
                value = known[name].value(given)
                values[name] = meant_in(self.name, sheet, value) if known[name].pictured == "items" and value else value
            except (ValueError, LengthError) as problem:
                raise StepRefused(self.name, say("{name}: {problem}", name=name, problem=problem)) from problem
        return self.function(sheet, items, workshop, **values)


def step(
    name: str,
    title: str,
    *,
    on: On,
    purpose: Purpose,
    safe: bool = False,
    redraws: Reason | None = None,
    by_length: bool = False,
    keeps_lines: bool = True,
    grip: Grip | None = None,
    hints: Callable[[Sheet, Sequence[Item]], dict[str, str]] | None = None,
    prepare: Callable[[Workshop, Progress | None], object] | None = None,
    likely: On = On.NOTHING,
    of_several: bool = False,
    lines: Lines = "any",
) -> Callable[[Callable[..., Outcome]], Step]:
    """Declares a step."""

    def declare(function: Callable[..., Outcome]) -> Step:
        types = typing.get_type_hints(function, include_extras=True)
        signature = inspect.signature(function)
        options = [p for p in signature.parameters.values() if p.kind is inspect.Parameter.KEYWORD_ONLY]
        parameters = tuple(_parameter(p, types[p.name]) for p in options)
        return Step(
            name=name,
            title=title,
            safe=safe,
            parameters=parameters,
            function=function,
            purpose=purpose,
            redraws=redraws,
            by_length=by_length,
            keeps_lines=keeps_lines,
            on=on,
            grip=grip,
            hints=hints,
            prepare=prepare,
            likely=likely,
            of_several=of_several,
            lines=lines,
        )

    return declare


_PYTHON: dict[Kind, type] = {"length": float, "number": float, "angle": float, "count": int, "text": str}
_USUAL: dict[type, Kind] = {float: "length", int: "count", str: "text"}
"""The kind of an option whose annotation names none after what it is."""


@dataclass(frozen=True, slots=True)
class Pictured:
    """In an option's annotation: it is chosen by pictures, of the faces on the shelf, the letters of the text, the
    forms that a face has of them, colours, or the axes of a variable face; or it names items of the sheet, which are
    pointed at.
    """

    by: Literal["faces", "letters", "forms", "items", "colours", "axes"]


@dataclass(frozen=True, slots=True)
class Field:
    """In an option's annotation: how people see it. See `Parameter`."""

    label: str = ""
    first: bool = False
    when: tuple[str, ...] = ()


def _parameter(parameter: inspect.Parameter, hint: object) -> Parameter:
    base, what, *more = typing.get_args(hint)
    kinds = [each for each in more if isinstance(each, str)]
    pictured = next((each.by for each in more if isinstance(each, Pictured)), "")
    field = next((each for each in more if isinstance(each, Field)), Field())
    seen = (pictured, field.label or parameter.name.replace("_", " ").capitalize(), field.first, field.when)
    alternatives = [kind for kind in typing.get_args(base) if kind is not type(None)] if base is not bool else []
    if base is bool:
        return Parameter(parameter.name, "switch", parameter.default, (), what, *seen)
    if typing.get_origin(base) is Literal:
        return Parameter(parameter.name, "choice", parameter.default, tuple(typing.get_args(base)), what, *seen)
    for kind, python in _PYTHON.items():
        if (kinds[0] if kinds else _USUAL.get(python)) == kind and (base is python or alternatives == [python]):
            return Parameter(parameter.name, kind, parameter.default, (), what, *seen)
    raise TypeError(f"option {parameter.name} has no kind that a recipe can hold: {base}")


def targets(name: str, sheet: Sheet, items: Iterable[str], kind: type[Outline] | type[Lettering]) -> list[Any]:
    """The items a step works on, in sheet order: those named, or all of the kind where none is named. A group that is
    named stands for all of the kind in it.

    Raises StaleTarget when a named item is gone, StepRefused when one is of another kind, NothingToDo when there is
    none at all.
    """
    wanted = dict.fromkeys(items)
    on_sheet = {item.id: item for item in sheet.walk()}
    for item_id in list(wanted):
        item = on_sheet.get(item_id)
        if item is None:
            raise StaleTarget(name, say("“{item_id}” is no longer on the sheet", item_id=item_id))
        if isinstance(item, Group):
            wanted |= dict.fromkeys(leaves(sheet, [item_id]))
        elif not isinstance(item, kind):
            raise StepRefused(name, say("{item} is no {kind}", item=called(item), kind=kind.__name__.lower()))
    found = [item for item in on_sheet.values() if isinstance(item, kind) and (not wanted or item.id in wanted)]
    if not found:
        raise (StepRefused if wanted else NothingToDo)(
            name, say("there is no {kind} to work on", kind=kind.__name__.lower())
        )
    return found
