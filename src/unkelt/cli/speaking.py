"""How commands speak to people: words before codes, and colour where the terminal has it."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterable, Sequence
from pathlib import Path

from unkelt.facts import Facts
from unkelt.language import grouped
from unkelt.messages import each_once
from unkelt.survey.finding import Level

BOLD, FAINT, HOLD, WARN, CLEAN = "1", "2", "31", "33", "32"
"""Select Graphic Rendition (ECMA-48)."""

COLOURS = {Level.HOLD.value: HOLD, Level.WARN.value: WARN, Level.NOTE.value: FAINT}
WORDS = {Level.HOLD.value: "on hold", Level.WARN.value: "look at", Level.NOTE.value: "note"}
WIDE = 9

MOST_ALIKE = 4
"""Of more findings of one kind, only so many are told one by one."""


def coloured(words: str, colour: str) -> str:
    """The words in a colour, where standard output is a terminal that has some and nobody minds (no-color.org)."""
    if os.environ.get("NO_COLOR") or os.environ.get("TERM", "dumb") == "dumb" or not sys.stdout.isatty():
        return words
    return f"\x1b[{colour}m{words}\x1b[0m"


def verdict_line(name: str, holds: int, others: int) -> str:
    """What came of a file: "name.svg: on hold, 3 to mend and 2 to look at"."""
    if holds:
        more = f" and {others} to look at" if others else ""
        return f"{coloured(name, BOLD)}: {coloured('on hold', HOLD)}, {holds} to mend{more}"
    if others:
        return f"{coloured(name, BOLD)}: {coloured('ready', CLEAN)}, {others} to look at"
    return f"{coloured(name, BOLD)}: {coloured('clean', CLEAN)}, nothing found"


def say_findings(path: str, findings: Sequence[Facts], more: Sequence[str] = ()) -> None:
    """Findings, as a report has them, and what holds beside them: each in a sentence, with its cure and its code."""
    holds = sum(finding["level"] == Level.HOLD.value for finding in findings) + len(more)
    print(verdict_line(path, holds, len(findings) + len(more) - holds))
    for line in more:
        code, _, words = line.partition(": ")
        _say(Level.HOLD.value, words, code, (), "")
    alike: dict[tuple[str, str], list[Facts]] = {}
    for finding in findings:
        alike.setdefault((finding["level"], finding["code"]), []).append(finding)
    for (level, code), several in alike.items():
        shown = several if len(several) <= MOST_ALIKE + 1 else several[:MOST_ALIKE]
        for finding in shown:
            _say(level, finding["message"], code, finding["steps"], finding["refusal"])
        if left := len(several) - len(shown):
            print(f"  {'':{WIDE}} {coloured(f'and {grouped(left)} more of {code}; --json lists all', FAINT)}")


def _say(level: str, words: str, code: str, steps: Sequence[str], refusal: str) -> None:
    print(f"  {coloured(f'{WORDS[level]:{WIDE}}', COLOURS[level])} {words}")
    cure = f"cure: {', '.join(steps)} · " if steps else ""
    print(f"  {'':{WIDE}} {coloured(f'{cure}{code}', FAINT)}")
    if refusal:
        print(f"  {'':{WIDE}} refused: {refusal}")


def say_refused(path: Path, sentences: Iterable[str]) -> None:
    """What was to be done with a file and was not, on stderr."""
    for words in each_once(sentences):
        print(f"unkelt: {path}: not done: {words}", file=sys.stderr)


def say_rows(rows: Sequence[tuple[str, str]]) -> None:
    """Two columns: names, and what is said of them."""
    wide = max((len(name) for name, _ in rows), default=0)
    for name, words in rows:
        print(f"  {name:{wide}}  {words}".rstrip())
