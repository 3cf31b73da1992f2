"""The recipe: the steps taken on a file, in order. It can be run, saved, read and taken back.

Undo is a shorter recipe. A step addresses items by id, or by rule: the code of the findings it is to cure, looked for
anew wherever the recipe runs.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import ClassVar

from unkelt.account.balance import Account, unexplained
from unkelt.account.changes import STILL, Change
from unkelt.account.declare import redrawn
from unkelt.errors import GeometryRefused, InputError, NothingToDo, StepRefused
from unkelt.geometry.region import box_of
from unkelt.job.budget import Budget
from unkelt.job.schema import Names, Table, Text, Toml, loads, structured
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Group, Outline, Sheet
from unkelt.sheet.naming import meant
from unkelt.steps.evidence import Counted, counters_matched
from unkelt.steps.step import Outcome, Step, Value
from unkelt.steps.steps import STEPS
from unkelt.survey.checks import find_code


@dataclass(frozen=True, slots=True)
class Call:
    """One step of a recipe: its name, the items or the rule that say where, and options where they differ."""

    name: str
    items: tuple[str, ...] = ()
    rule: str | None = None
    options: Mapping[str, Value] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Recipe:
    """Steps in order."""

    calls: tuple[Call, ...] = ()

    def then(self, call: Call) -> Recipe:
        """The recipe with another step at its end."""
        return replace(self, calls=(*self.calls, call))

    def shorter(self) -> Recipe:
        """Without the last step: undo."""
        return replace(self, calls=self.calls[:-1])


@dataclass(frozen=True, slots=True)
class Stage:
    """A call, and what came of it: the outcome, or why it was skipped. `sheet` is the sheet after it, either way. An
    `idle` one was skipped because its rule found nothing.
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
    """Runs one call and balances it: what is painted and drawn afterwards is what was, but for what the step declares.

    The step may move lines by what the steps before it have left of the chord tolerance. Raises StepRefused where the
    step can't do what it promises, or changes more than it declares; NothingToDo where all is so already.
    """
    items = meant(call.name, sheet, call.items)
    if call.rule is not None:
        found = find_code(call.rule, sheet, workshop)
        items = tuple(dict.fromkeys(item for finding in found if not finding.choice for item in finding.items))
        if not items:
            left = "that can be read in one way only" if found else "on the sheet"
            raise NothingToDo(call.name, say("there is no {rule} {left}", rule=call.rule, left=left))
    step = STEPS[call.name]
    allowed = _allowed_mm(step, sheet, items, workshop.ticket)
    outcome = step.run(sheet, items, replace(workshop, may_move_mm=allowed), call.options)
    outcome = replace(outcome, changes=(*outcome.changes, *_redrawn(step, sheet, outcome, workshop)))
    moved = 0.0
    if step.redraws is None and step.keeps_lines:
        moved = outcome.evidence.max_deviation_mm or 0.0
    _balance(
        call.name,
        sheet,
        outcome,
        Account(workshop.ticket, workshop.shelf, max(moved, workshop.ticket.tolerance.chord_mm)),
    )
    return replace(_with_counters(sheet, outcome, workshop.ticket), sheet=_with_moved(sheet, outcome, moved))


def _allowed_mm(step: Step, sheet: Sheet, items: tuple[str, ...], ticket: Ticket) -> float:
    """How far a step may move lines of some items: what is left of the chord tolerance at the size that the ticket
    wants. What a step draws anew on purpose may be off by all of it.
    """
    if step.redraws is not None:
        return ticket.tolerance.chord_mm
    chosen = leaves(sheet, items) if items else None
    spent = max((o.moved_mm for o in sheet.outlines() if chosen is None or o.id in chosen), default=0.0)
    return Budget(sheet, ticket).left_mm(spent)


def _redrawn(step: Step, before: Sheet, outcome: Outcome, workshop: Workshop) -> tuple[Change, ...]:
    """What a step that draws its items otherwise declares by that: what they were may go, and what they are may
    come.
    """
    if step.redraws is None:
        return ()
    worked = leaves(before, outcome.items) | set(outcome.items)
    old = [item for item in before.walk() if item.id in worked]
    new = [
        item
        for item in outcome.sheet.walk()
        if item.id in worked or (known := before.find(item.id)) is None or isinstance(known, Group)
    ]
    return redrawn(step.redraws, old, new, workshop.ticket, workshop.shelf)


def _with_counters(before: Sheet, outcome: Outcome, ticket: Ticket) -> Outcome:
    """The outcome with its counters matched one to one in its evidence, and marks where one closed or is new."""
    if outcome.moves is not STILL or outcome.evidence.counters is not None:
        return outcome
    matched = counters_matched(before, outcome.sheet, ticket.tolerance)
    if matched is None:
        return outcome
    marks = outcome.marks or tuple(box for hole in (*matched.closed, *matched.new) if (box := box_of(hole)))
    return replace(outcome, evidence=replace(outcome.evidence, counters=Counted.of(matched)), marks=marks)


def _balance(name: str, before: Sheet, outcome: Outcome, account: Account) -> None:
    try:
        left = unexplained(before, outcome.sheet, account, outcome.changes, outcome.moves)
    except GeometryRefused as problem:
        raise StepRefused(name, say("what is painted can't be compared: {problem}", problem=problem)) from problem
    if left:
        more = say(", and {count} more like it", count=len(left) - 1) if len(left) > 1 else ""
        raise StepRefused(
            name,
            say("{words}{more}; nothing was changed", words=left[0].words(), more=more),
            [each.box for each in left],
        )


def _with_moved(before: Sheet, outcome: Outcome, moved_mm: float) -> Sheet:
    """The new sheet, each outline that the step made or changed with how far its lines have moved in all."""
    if not moved_mm:
        return outcome.sheet
    worked = leaves(before, outcome.items)
    base = max((o.moved_mm for o in before.outlines() if o.id in worked), default=0.0)
    known = {id(outline) for outline in before.outlines()}
    return outcome.sheet.mapped(
        lambda item: (
            replace(item, moved_mm=base + moved_mm) if isinstance(item, Outline) and id(item) not in known else item
        )
    )


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


def applied(stages: list[Stage]) -> Recipe:
    """The recipe of the stages that changed something, or would where their rule finds something."""
    return Recipe(tuple(stage.call for stage in stages if stage.outcome is not None or stage.idle))


def read_recipe(path: Path) -> Recipe:
    """A recipe file. Raises InputError naming the step and what is wrong with it."""
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as problem:
        raise InputError(
            str(path), say("can't be read as a recipe: {value}", value=getattr(problem, "strerror", None) or problem)
        ) from problem
    return parse_recipe(text, str(path))


def parse_recipe(text: str, source: str = "recipe") -> Recipe:
    """A recipe from TOML text. Raises InputError."""
    table = loads(text, source)
    steps = table.pop("step", [])
    if table or not isinstance(steps, list) or not all(isinstance(entry, dict) for entry in steps):
        raise InputError(source, "must hold [[step]] tables and nothing else", next(iter(table), None))
    return Recipe(tuple(_call(source, say("step {index}", index=index), entry) for index, entry in enumerate(steps, 1)))


@dataclass(frozen=True, slots=True)
class _Written:
    """A `[[step]]` of a recipe file."""

    WRITTEN: ClassVar[dict[str, str]] = {"options": "with"}

    name: Text
    items: Names = ()
    rule: Text | None = None
    options: Table = field(default_factory=dict)


def _as_today(said: _Written) -> _Written:
    """What older recipes say otherwise: `set-text` added new text, too, where `new` said so, and `set-on-guide` had a
    switch for letters with their tops inward that lie outside.
    """
    if said.name == "set-on-guide" and "band" in said.options:
        options = {name: value for name, value in said.options.items() if name != "band"}
        outside = said.options["band"] is True and said.options.get("tops") == "inward"
        return replace(said, options={**options, "side": "outside"} if outside else options)
    if said.name != "set-text" or not said.options.get("new"):
        return said
    names = {"capitals": "height"}
    options = {names.get(name, name): value for name, value in said.options.items() if name != "new"}
    return _Written("add-lettering", said.items, said.rule, options)


def _call(source: str, place: str, entry: Toml) -> Call:
    said = _as_today(structured(entry, source, _Written, place))
    if said.name not in STEPS:
        raise InputError(
            source, say("there is no step “{name}” (known: {listed})", name=said.name, listed=", ".join(STEPS)), place
        )
    known = {parameter.name: parameter for parameter in STEPS[said.name].parameters}
    for option, value in said.options.items():
        if option not in known:
            raise InputError(source, say("{name} has no option “{option}”", name=said.name, option=option), place)
        try:
            known[option].value(value)
        except Exception as problem:
            raise InputError(source, say("{option}: {problem}", option=option, problem=problem), place) from problem
    return Call(said.name, said.items, said.rule, said.options)


def dump_recipe(recipe: Recipe) -> str:
    """The recipe as TOML text that people can read and change."""
    import tomlkit  # for whoever writes a recipe

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
