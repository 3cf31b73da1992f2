"""Mend what is safe: all safe steps, in an order that converges, until nothing safe is left to do."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from unkelt.account.balance import Imbalance
from unkelt.account.painting import reach
from unkelt.account.whole import lost
from unkelt.errors import GeometryRefused, NothingToDo, StepRefused
from unkelt.geometry.measure import Box
from unkelt.geometry.path import Bools, Floats
from unkelt.job.workshop import Workshop
from unkelt.messages import say
from unkelt.progress import Progress
from unkelt.recipe import Call, Stage, apply
from unkelt.sheet.change import leaves
from unkelt.sheet.model import Group, Item, Sheet
from unkelt.steps.cures import cures_of, leading_codes
from unkelt.steps.step import Purpose
from unkelt.steps.steps import SAFE_ORDER, STEPS
from unkelt.survey.checks import find_code
from unkelt.survey.finding import Finding
from unkelt.survey.size_units import size_is_certain

ROUNDS = 5
"""How often it goes through its order; a file that isn't settled by then is left for a person."""

PASSES = 3
"""How often it takes back what didn't balance with the rest; what doesn't then is held by the verdict."""

ANY = ""
"""In the place of an item's name: every item."""

UNCERTAIN = "the physical size is not certain; state the units first"
"""Why steps that go by lengths wait."""

Asked = tuple[str, tuple[str, ...]]
"""A step by name, and the items that it is asked for."""


def mend(sheet: Sheet, workshop: Workshop, progress: Progress | None = None) -> list[Stage]:
    """All safe steps, in an order that converges, until nothing safe is left to do.

    A rule is tried for all its findings at once, then for parts of them, so that one that is refused doesn't stop the
    others. What is refused is tried again when something near it has changed; what stays refused is listed at the end.
    While the physical size isn't certain, steps that go by lengths wait.

    In the end all of it is compared with the sheet as it was: two steps that each move one of two edges by no more than
    they may can part them. Then those that moved farthest are taken back, with all that came after, and the rest is
    done without them.
    """
    tries = _Tries(workshop)
    stages = _mended(sheet, workshop, tries, progress)
    for _ in range(PASSES):
        first = tries.bar(stages, _lost(sheet, stages, workshop))
        if first is None:
            break
        kept = stages[:first]
        stages = [*kept, *_mended(kept[-1].sheet if kept else sheet, workshop, tries, progress)]
    return stages


def _lost(sheet: Sheet, stages: Sequence[Stage], workshop: Workshop) -> tuple[Imbalance, ...]:
    try:
        taken = [stage.outcome for stage in stages if stage.outcome is not None]
        return lost(sheet, taken, workshop.ticket, workshop.shelf)
    except GeometryRefused:  # the verdict will say so
        return ()


def _mended(sheet: Sheet, workshop: Workshop, tries: _Tries, progress: Progress | None) -> list[Stage]:
    """All safe steps in turn, until nothing safe is left to do; those taken first, then those that stay refused."""
    stages: list[Stage] = []
    refused: dict[Asked, str] = {}
    for round_ in range(ROUNDS):
        changed = False
        refused.clear()
        for index, name in enumerate(SAFE_ORDER):
            for code in leading_codes(name):
                if progress:
                    progress((round_ + index / len(SAFE_ORDER)) / ROUNDS, STEPS[name].title)
                every = find_code(code, sheet, workshop)
                found = [f for f in every if cures_of(f)[:1] == (name,) and _is_mendable(f)]
                if found and STEPS[name].by_length and not size_is_certain(sheet, workshop.ticket):
                    refused |= dict.fromkeys(((name, f.items) for f in found), UNCERTAIN)
                    continue
                found = [finding for finding in found if (name, finding.items) not in refused]
                only = len(found) == len(every)
                taken = _take_all(name, code, found, sheet, tries, refused, only=only)
                if taken:
                    sheet, changed = taken[-1].sheet, True
                    stages += taken
        if not changed:
            break
    return [*stages, *(Stage(Call(name, items), sheet, None, reason) for (name, items), reason in refused.items())]


def _take_all(
    name: str,
    code: str,
    found: Sequence[Finding],
    sheet: Sheet,
    tries: _Tries,
    refused: dict[Asked, str],
    *,
    only: bool,
) -> list[Stage]:
    """A step taken for all findings of a code: first by the rule for all, and where that is refused for parts of them,
    and so on, so that one which can't be cured stops few others. Single ones that are refused are put into `refused`
    with the reason, those of which that is known already without a try. `only` says that they are all that the rule
    finds.
    """
    known = tries.known(name, found, sheet)
    refused |= {(name, items): reason for items, reason in known.items() if reason}
    new = [finding for finding in found if finding.items not in known]
    left = [(Call(name, items=_items(new)) if known else Call(name, rule=code), new)] if new else []
    taken: list[Stage] = []
    while left:
        call, these = left.pop()
        try:
            outcome = apply(call, sheet, tries.workshop)
        except NothingToDo:
            tries.note(name, these, sheet, "")
            continue
        except StepRefused as problem:
            if len(these) == 1 and (call.rule is None or only):
                refused[name, these[0].items] = str(problem)
                tries.note(name, these, sheet, str(problem))
                continue
            parts = tries.parted(these, problem.marks, sheet) if problem.marks else _halves(these)
            left += [(Call(name, items=_items(part)), part) for part in parts if part]
            continue
        sheet = outcome.sheet
        taken.append(Stage(call, sheet, outcome))
        if len(these) == 1:
            tries.note(name, these, sheet, "")  # if it is found all the same, once more won't cure it
    return taken


class _Tries:
    """Findings for which a step was of no use, with the reason, empty where it had nothing to do; and all that lay near
    them then. As long as that is there, and nothing else came near, the same would come of another try.
    """

    def __init__(self, workshop: Workshop) -> None:
        self.workshop = workshop
        self._barred: dict[tuple[str, str], str] = {}
        """Why a step is no longer to be taken for an item, or for `ANY`, by the names of both."""
        self._times_barred = 0
        self._of: dict[Asked, tuple[str, tuple[Item, ...]]] = {}
        self._boxes: dict[int, tuple[Item, Box]] = {}
        """By the ids of items, which are kept with them."""

    def note(self, name: str, findings: Iterable[Finding], sheet: Sheet, reason: str) -> None:
        """Remembers what came of a try."""
        around = self._around(sheet)
        for finding in findings:
            self._of[name, finding.items] = reason, around(finding)

    def known(self, name: str, findings: Iterable[Finding], sheet: Sheet) -> dict[tuple[str, ...], str]:
        """By their items, the findings of which it is known that the step is of no use, each with the reason."""
        asked = [finding for finding in findings if (name, finding.items) in self._of]
        around = self._around(sheet) if asked else None
        known = {
            finding.items: self._barred[name, item]
            for finding in findings
            for item in (*finding.items, ANY)
            if (name, item) in self._barred
        }
        for finding in asked:
            reason, near = self._of[name, finding.items]
            if around and list(map(id, near)) == list(map(id, around(finding))):
                known[finding.items] = reason
        return known

    def bar(self, stages: Sequence[Stage], left: Sequence[Imbalance]) -> int | None:
        """Bars, for each place where all that was done doesn't balance, the steps that moved lines there farthest, for
        the items that lie there; for every item where it still doesn't, once that was done. The number of the first
        such stage; None where none is to be barred.
        """
        if not left:
            return None
        cleaned = [
            (number, stage.call.name, stage.outcome, self._around(stage.sheet))
            for number, stage in enumerate(stages)
            if stage.outcome is not None and STEPS[stage.call.name].purpose is Purpose.CLEAN
        ]  # the work of other steps is needed
        first = len(stages)
        for each in left:
            moved = [
                (outcome.evidence.max_deviation_mm or 0.0, number, name, items)
                for number, name, outcome, around in cleaned
                if (items := [item.id for item in around.at(np.array(each.box)) if item.id in outcome.items])
            ]
            farthest = max((far for far, *_ in moved), default=0.0)
            far_moved = [one for one in moved if one[0] > farthest / 2]
            for _, number, name, items in far_moved[1:] or far_moved:  # the first balanced while it was alone
                why = say("{step}: with what other steps moved, {words}", step=name, words=each.words())
                barred = [ANY] if self._times_barred >= PASSES - 1 else items
                self._barred |= dict.fromkeys(((name, item) for item in barred), why)
                first = min(first, number)
        self._times_barred += 1
        return first if first < len(stages) else None

    def parted(self, findings: Sequence[Finding], marks: Sequence[Box], sheet: Sheet) -> list[list[Finding]]:
        """The parts in which some findings are to be tried once a step was refused for all of them, the first last:
        the rest, then those that what stood against it (n, 4) touches. Where there is as much of that as there are of
        them, each may well be refused for itself, and is tried so. Where most are touched by little, or none is, one
        half and the other.
        """
        box_of, boxes = self._around(sheet).box_of, np.array(marks)
        hits = np.array([_meet(boxes, box_of(finding)) for finding in findings])
        touched = [bool(hit.any()) for hit in hits]
        there = [finding for finding, hit in zip(findings, touched, strict=True) if hit]
        rest = [finding for finding, hit in zip(findings, touched, strict=True) if not hit]
        if there and np.count_nonzero(hits.any(axis=0)) >= len(there):
            return [*([each] for each in reversed(there)), rest]
        return [there, rest] if 0 < len(there) <= len(findings) // 2 else _halves(findings)

    def _around(self, sheet: Sheet) -> _Around:
        items = [item for item in sheet.walk() if not isinstance(item, Group)]
        for item in items:
            if id(item) not in self._boxes:
                self._boxes[id(item)] = item, reach(item, self.workshop.shelf) or NOWHERE
        return _Around(sheet, items, np.array([self._boxes[id(item)][1] for item in items]).reshape(-1, 4))


NOWHERE = (np.inf, np.inf, -np.inf, -np.inf)
"""The box of an item that isn't seen."""


class _Around:
    """The items of a sheet (n,), and the boxes (n, 4) of what is seen of them, in mm."""

    def __init__(self, sheet: Sheet, items: Sequence[Item], boxes: Floats) -> None:
        self._sheet, self._items, self._boxes = sheet, items, boxes

    def __call__(self, finding: Finding) -> tuple[Item, ...]:
        """What a finding is about and what lies near that, in paint order; all where it is about the whole sheet."""
        members = self._members(finding)
        if not members.any():
            return tuple(self._items)
        return self._those(members | _meet(self._boxes, self._span(members)))

    def at(self, box: Floats) -> tuple[Item, ...]:
        """What lies at a box (4,), in paint order."""
        return self._those(_meet(self._boxes, box))

    def _those(self, which: Bools) -> tuple[Item, ...]:
        return tuple(self._items[k] for k in np.flatnonzero(which).tolist())

    def box_of(self, finding: Finding) -> Floats:
        """The box (4,) of what a finding is about; that of nowhere where it is about the whole sheet."""
        return self._span(self._members(finding))

    def _span(self, members: Bools) -> Floats:
        low = self._boxes[members, :2].min(axis=0, initial=np.inf)
        return np.concatenate([low, self._boxes[members, 2:].max(axis=0, initial=-np.inf)])

    def _members(self, finding: Finding) -> Bools:
        own = leaves(self._sheet, finding.items)
        return np.array([item.id in own for item in self._items], bool)


def _meet(boxes: Floats, box: Floats) -> Bools:
    """Which of some boxes (n, 4) touch another one."""
    return np.asarray(((boxes[:, :2] <= box[2:]) & (boxes[:, 2:] >= box[:2])).all(axis=1), bool)


def _halves(findings: Sequence[Finding]) -> list[list[Finding]]:
    half = len(findings) // 2
    return [list(findings[half:]), list(findings[:half])]


def _items(findings: Iterable[Finding]) -> tuple[str, ...]:
    """What several findings are about, each once."""
    return tuple(dict.fromkeys(item for finding in findings for item in finding.items))


def _is_mendable(finding: Finding) -> bool:
    """A note is for people to know, and what can be read in two ways is for them to choose: neither is mended
    unasked.
    """
    return finding.level != "note" and not finding.choice
