"""The steps as people look for them: by purpose, the likely ones first, and why one can't be taken now."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from unkelt.messages import Message, say
from unkelt.session.entries import Entry, sentence
from unkelt.steps.step import On, Purpose, Step
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Finding

LIKELY = 4
"""How many steps are offered first."""


@dataclass(frozen=True, slots=True)
class Offer:
    """A step that people may choose: what it does in a sentence, and why it can't be taken now, if it can't."""

    name: str
    title: str
    purpose: Purpose
    words: str
    why_not: str = ""


def kind_of(entries: Sequence[Entry]) -> On:
    """What is chosen."""
    live = sum(entry.live for entry in entries)
    return (On.TEXT if live else On.NOTHING) | (On.OUTLINES if live < len(entries) else On.NOTHING)


@dataclass(frozen=True, slots=True)
class _Chosen:
    """What steps are offered for: of what kind it is, how many outlines, and how many of them are open."""

    kind: On
    outlines: int
    left_open: int

    @classmethod
    def of(cls, entries: Sequence[Entry]) -> _Chosen:
        outlines = [entry for entry in entries if not entry.live]
        return cls(kind_of(entries), len(outlines), sum(entry.left_open for entry in outlines))


def offers_by_hand(entries: Sequence[Entry]) -> list[Offer]:
    """All steps that are taken by hand, in the order of their purposes, those that mending takes by itself last."""
    chosen = _Chosen.of(entries)
    steps = sorted(
        (step for step in STEPS.values() if step.on is not On.NOTHING),
        key=lambda step: (list(Purpose).index(step.purpose), step.safe),
    )
    return [Offer(step.name, step.title, step.purpose, sentence(step.name), _why_not(step, chosen)) for step in steps]


def likely(entries: Sequence[Entry], findings: Iterable[Finding]) -> list[str]:
    """The steps to offer first: cures of what was found about what is chosen, then what is often done with it."""
    what = _Chosen.of(entries)
    chosen = {entry.id for entry in entries}
    cures = [
        step.name
        for finding in findings
        for step in STEPS.values()
        if finding.code in step.codes and step.name != "drop-item" and (not chosen or chosen & set(finding.items))
    ]
    usual = [
        step.name
        for step in STEPS.values()
        if step.likely & _wanted(what.kind) and (len(entries) > 1 or not step.of_several)
    ]
    there = [name for name in dict.fromkeys([*cures, *usual]) if _can(STEPS[name], what)]
    return there[:LIKELY]


def works_on(name: str, items: tuple[str, ...]) -> tuple[str, ...]:
    """What a step is taken on: the whole sheet where it knows nothing else."""
    return () if STEPS[name].on is On.SHEET else items


def matching(offers: Iterable[Offer], word: str) -> list[Offer]:
    """The steps whose title or sentence has all the words that were typed."""
    wanted = word.casefold().split()
    return [offer for offer in offers if all(part in f"{offer.title} {offer.words}".casefold() for part in wanted)]


def _can(step: Step, chosen: _Chosen) -> bool:
    return step.on is not On.NOTHING and not _why_not(step, chosen)


def _why_not(step: Step, chosen: _Chosen) -> Message | str:
    """Why it can't be taken on what is chosen; empty where it can."""
    kind = chosen.kind
    if _wanted(kind) in step.on or step.on is On.SHEET:
        return _wrong_lines(step, chosen)
    if kind is On.NOTHING:
        return say("Choose {what} first.", what="something on the table" if On.ITEMS in step.on else _thing(step.on))
    if On.TEXT in kind and On.OUTLINES in step.on:
        return "This works on outlines. Turn the text into outlines first."
    return "This works on live text. Outlines are no text any more."


def _wrong_lines(step: Step, chosen: _Chosen) -> str:
    """Why lines as these can't be worked on, open or closed."""
    if step.lines == "closed" and chosen.left_open:
        return "This works on closed outlines. Join or close the ends first."
    if step.lines == "open" and chosen.outlines and not chosen.left_open:
        return "Every line of the selection is closed already."
    return ""


def _wanted(kind: On) -> On:
    """What a step must work on: the whole sheet where nothing is chosen."""
    return On.SHEET if kind is On.NOTHING else kind


def _thing(on: On) -> str:
    return "live text" if On.TEXT in on else "outlines"
