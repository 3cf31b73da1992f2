"""The recipe: the steps taken on a file, in order. It can be run, saved, read and taken back.

Undo is a shorter recipe. A step addresses items by id, or by rule: the code of the findings it is to cure, looked for
anew wherever the recipe runs.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import ClassVar

import tomlkit

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
from unkelt.progress import Progress
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Group, Outline, Sheet
from unkelt.sheet.naming import meant
from unkelt.steps.cures import cures_of, leading_codes
from unkelt.steps.evidence import Counted, counters_matched
from unkelt.steps.step import Outcome, Step, Value
from unkelt.steps.steps import SAFE_ORDER, STEPS
from unkelt.survey.checks import find_code
from unkelt.survey.finding import Finding
from unkelt.survey.size_units import size_is_certain

ROUNDS = 5
"""How often "Mend what is safe" goes through its order; a file that isn't settled by then is left for a person."""


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
        raise StepRefused(name, say("{words}{more}; nothing was changed", words=left[0].words(), more=more))


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


def mend(sheet: Sheet, workshop: Workshop, progress: Progress | None = None) -> list[Stage]:
    """All safe steps, in an order that converges, until nothing safe is left to do.

    A rule is tried for all its findings at once, then finding by finding, so that one that is refused doesn't stop the
    others. What is refused is tried again when something else has changed; what stays refused is listed at the end.
    While the physical size isn't certain, steps that go by lengths wait.
    """
    stages: list[Stage] = []
    refused: dict[Tried, str] = {}
    for round_ in range(ROUNDS):
        changed = False
        refused.clear()
        for index, name in enumerate(SAFE_ORDER):
            for code in leading_codes(name):
                if progress:
                    progress((round_ + index / len(SAFE_ORDER)) / ROUNDS, STEPS[name].title)
                found = [f for f in find_code(code, sheet, workshop) if cures_of(f)[:1] == (name,) and _is_mendable(f)]
                if found and STEPS[name].by_length and not size_is_certain(sheet, workshop.ticket):
                    refused |= dict.fromkeys(((name, f.items) for f in found), UNCERTAIN)
                    continue
                taken = _take_all(name, code, found, sheet, workshop, refused)
                if taken:
                    sheet, changed = taken[-1].sheet, True
                    stages += taken
        if not changed:
            break
    return [*stages, *(Stage(Call(name, items), sheet, None, reason) for (name, items), reason in refused.items())]


Tried = tuple[str, tuple[str, ...]]
"""A step by name, and the items that it was tried on."""

UNCERTAIN = "the physical size is not certain; state the units first"
"""Why steps that go by lengths wait."""


def _take_all(
    name: str, code: str, found: list[Finding], sheet: Sheet, workshop: Workshop, refused: dict[Tried, str]
) -> list[Stage]:
    """A step taken for all findings of a code: first by the rule for all; where that is refused for one half of them
    and the other, and so on, so that one which can't be cured stops few others. Single ones that are refused are put
    into `refused` with the reason.
    """
    found = [finding for finding in found if (name, finding.items) not in refused]
    left = [(Call(name, rule=code), found)] if found else []
    taken: list[Stage] = []
    while left:
        call, these = left.pop()
        try:
            outcome = apply(call, sheet, workshop)
        except NothingToDo:
            continue
        except StepRefused as problem:
            if len(these) == 1 and call.rule is None:
                refused[name, these[0].items] = str(problem)
                continue
            half = len(these) // 2
            left += [(Call(name, items=_items(part)), part) for part in (these[half:], these[:half]) if part]
            continue
        sheet = outcome.sheet
        taken.append(Stage(call, sheet, outcome))
    return taken


def _items(findings: Iterable[Finding]) -> tuple[str, ...]:
    """What several findings are about, each once."""
    return tuple(dict.fromkeys(item for finding in findings for item in finding.items))


def _is_mendable(finding: Finding) -> bool:
    """A note is for people to know, and what can be read in two ways is for them to choose: neither is mended
    unasked.
    """
    return finding.level != "note" and not finding.choice


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
