"""The recipe: the steps taken on a file, in order. It can be run, saved, read and taken back.

Undo is a shorter recipe. A step addresses items by id, or by rule: the code of the findings it is to cure, looked for
anew wherever the recipe runs.
"""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import tomlkit

from unkelt.errors import InputError, NothingToDo, StepRefused
from unkelt.sheet.model import Sheet
from unkelt.steps.step import Outcome
from unkelt.steps.steps import SAFE_ORDER, STEPS
from unkelt.survey.check import Workshop
from unkelt.survey.checks import Progress, find_code
from unkelt.survey.finding import Finding

ROUNDS = 5
"""How often "Mend what is safe" goes through its order; a file that isn't settled by then is left for a person."""


@dataclass(frozen=True, slots=True)
class Call:
    """One step of a recipe: its name, the items or the rule that say where, and options where they differ."""

    name: str
    items: tuple[str, ...] = ()
    rule: str | None = None
    options: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Recipe:
    """Steps in order."""

    calls: tuple[Call, ...] = ()

    def then(self, call: Call) -> Recipe:
        return replace(self, calls=(*self.calls, call))

    def shorter(self) -> Recipe:
        """Without the last step: undo."""
        return replace(self, calls=self.calls[:-1])


@dataclass(frozen=True, slots=True)
class Stage:
    """A call, and what came of it: the outcome, or why it was skipped. `sheet` is the sheet after it, either way. An `idle`
    one was skipped because its rule found nothing.
    """

    call: Call
    sheet: Sheet
    outcome: Outcome | None
    skipped: str | None = None
    idle: bool = False

    @property
    def refused(self) -> str | None:
        """Why it was skipped, where that is a promise not kept."""
        return None if self.idle else self.skipped


def apply(call: Call, sheet: Sheet, workshop: Workshop) -> Outcome:
    """Runs one call. Raises StepRefused where the step can't do what it promises, NothingToDo where its rule finds nothing."""
    items = call.items
    if call.rule is not None:
        found = find_code(call.rule, sheet, workshop)
        items = tuple(dict.fromkeys(item for finding in found for item in finding.items))
        if not items:
            raise NothingToDo(call.name, f"there is no {call.rule} on the sheet")
    return STEPS[call.name].run(sheet, items, workshop, call.options)


def run(recipe: Recipe, sheet: Sheet, workshop: Workshop) -> list[Stage]:
    """Runs all calls from the original on. A call that is refused or stale is skipped and says so."""
    stages: list[Stage] = []
    for call in recipe.calls:
        before = stages[-1].sheet if stages else sheet
        try:
            outcome = apply(call, before, workshop)
            stages.append(Stage(call, outcome.sheet, outcome))
        except StepRefused as problem:
            stages.append(Stage(call, before, None, str(problem), isinstance(problem, NothingToDo)))
    return stages


def mend(sheet: Sheet, workshop: Workshop, progress: Progress | None = None) -> list[Stage]:
    """All safe steps, in an order that converges, until nothing safe is left to do.

    A rule is tried for all its findings at once, then finding by finding, so that one that is refused doesn't stop the
    others. What is refused is tried again when something else has changed; what stays refused is listed at the end.
    """
    stages: list[Stage] = []
    refused: dict[tuple[str, tuple[str, ...]], str] = {}
    for round_ in range(ROUNDS):
        changed = False
        refused.clear()
        for index, step in enumerate(SAFE_ORDER):
            for code in step.cures:
                if progress:
                    progress((round_ + index / len(SAFE_ORDER)) / ROUNDS, step.title)
                found = [f for f in find_code(code, sheet, workshop) if f.steps[:1] == (step.name,) and _is_mendable(f)]
                for call in _calls(step.name, code, found, refused):
                    try:
                        outcome = apply(call, sheet, workshop)
                    except StepRefused as problem:
                        if call.rule is None:
                            refused[call.name, call.items] = str(problem)
                        continue
                    sheet, changed = outcome.sheet, True
                    stages.append(Stage(call, sheet, outcome))
                    if call.rule is not None:
                        break
        if not changed:
            break
    return [*stages, *(Stage(Call(name, items), sheet, None, reason) for (name, items), reason in refused.items())]


def _calls(name: str, code: str, found: list[Finding], refused: Mapping[Any, str]) -> Iterator[Call]:
    """First the rule for all, then each finding by itself, where the rule was refused."""
    found = [finding for finding in found if (name, finding.items) not in refused]
    if found:
        yield Call(name, rule=code)
        yield from (Call(name, items=finding.items) for finding in found)


def _is_mendable(finding: Finding) -> bool:
    """A note is for people to know; it asks for no step."""
    return finding.level != "note"


def applied(stages: list[Stage]) -> Recipe:
    """The recipe of the stages that changed something, or would where their rule finds something."""
    return Recipe(tuple(stage.call for stage in stages if stage.outcome is not None or stage.idle))


def read_recipe(path: Path) -> Recipe:
    """A recipe file. Raises InputError naming the step and what is wrong with it."""
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as problem:
        raise InputError(
            str(path), f"can't be read as a recipe: {getattr(problem, 'strerror', None) or problem}"
        ) from problem
    return parse_recipe(text, str(path))


def parse_recipe(text: str, source: str = "recipe") -> Recipe:
    """A recipe from TOML text. Raises InputError."""
    try:
        table = tomllib.loads(text)
    except tomllib.TOMLDecodeError as problem:
        raise InputError(source, f"is not valid TOML: {problem}") from problem
    steps = table.pop("step", [])
    if table or not isinstance(steps, list) or not all(isinstance(entry, dict) for entry in steps):
        raise InputError(source, "must hold [[step]] tables and nothing else", next(iter(table), None))
    return Recipe(tuple(_call(source, index, dict(entry)) for index, entry in enumerate(steps, 1)))


def _call(source: str, index: int, entry: dict[str, Any]) -> Call:
    place = f"step {index}"
    name, items = entry.pop("name", None), entry.pop("items", [])
    rule, options = entry.pop("rule", None), entry.pop("with", {})
    if not isinstance(name, str) or name not in STEPS:
        raise InputError(source, f"there is no step {name!r} (known: {', '.join(STEPS)})", place)
    if not isinstance(items, list) or not all(isinstance(item, str) for item in items):
        raise InputError(source, "items must be a list of ids", place)
    if not isinstance(rule, str | None) or not isinstance(options, dict):
        raise InputError(source, "rule must be the code of a finding, and with a table of options", place)
    if entry:
        raise InputError(source, f"unknown field “{next(iter(entry))}”", place)
    known = {parameter.name: parameter for parameter in STEPS[name].parameters}
    for option, value in options.items():
        if option not in known:
            raise InputError(source, f"{name} has no option “{option}”", place)
        try:
            known[option].value(value)
        except Exception as problem:
            raise InputError(source, f"{option}: {problem}", place) from problem
    return Call(name, tuple(items), rule, options)


def dump_recipe(recipe: Recipe) -> str:
    """The recipe as TOML text that people can read and change."""
    document = tomlkit.document()
    steps = tomlkit.aot()
    for call in recipe.calls:
        table = tomlkit.table()
        table["name"] = call.name
        if call.rule is not None:
            table["rule"] = call.rule
        if call.items:
            table["items"] = list(call.items)
        if call.options:
            inline = tomlkit.inline_table()
            inline.update(dict(call.options))
            table["with"] = inline
        steps.append(table)
    document["step"] = steps
    return tomlkit.dumps(document)
