"""The language that people read. Sentences are looked up whole, in gettext catalogues; without one they stay as they
are.

Catalogues are `LANGUAGE/LC_MESSAGES/unkelt.mo`, in this package or in the user's data folder, chosen as gettext does
(by LANGUAGE, LC_ALL, LC_MESSAGES, LANG). `assets/locale/unkelt.pot` holds everything that can be said
(docs/translating.md).

Deep rooms say what they find in English, with numbers and names put in. Where that is shown, `said` finds the template
it was made from, and looks up the template and what stands in its gaps.
"""

from __future__ import annotations

import gettext
import re
from functools import cache, lru_cache
from importlib.resources import files
from pathlib import Path

from platformdirs import user_data_path

DOMAIN = "unkelt"
BUNDLED = Path(str(files("unkelt"))) / "assets" / "locale"
TEMPLATES = BUNDLED / "templates.txt"
"""Every sentence with gaps, one a line (a line break in it as \\n), gaps as {0}, {1}."""

_FIGURE = re.compile(r"(?<![\w.,])(\d+)\.(\d+)(?!\w|[.,]\w)")
"""A decimal number by itself: not a version, not in a name."""


def _catalogue() -> gettext.NullTranslations:
    for folder in (user_data_path(DOMAIN) / "locale", BUNDLED):
        if gettext.find(DOMAIN, folder):
            return gettext.translation(DOMAIN, folder)
    return gettext.NullTranslations()


_words = _catalogue()
TRANSLATED = isinstance(_words, gettext.GNUTranslations)
_decimal = "."


def tr(words: str) -> str:
    """A sentence or word in the reader's language. Gaps as in `str.format` are filled afterwards."""
    return _words.gettext(words) if words else words


def tr_count(one: str, several: str, count: int) -> str:
    """As `tr`, of the form that goes with a count, which is put in as {count}."""
    return _words.ngettext(one, several, count).format(count=count)


def use_decimal(sign: str) -> None:
    """Numbers are written with this sign from now on, as the reader's locale has it."""
    global _decimal  # noqa: PLW0603 - one reader for the whole program
    _decimal = sign
    said.cache_clear()


def number_of(count: int, thing: str, done: str = "") -> str:
    """ "1 subpath closed", "2 subpaths closed\""""
    return f"{count} {thing}{'' if count == 1 else 's'} {done}".strip()


def grouped(value: float, places: int = 0) -> str:
    """A figure for people: from 10,000 on its thousands are set off by a thin space, as ISO 80000-1 wants it (from
    memory).
    """
    return f"{value:,.{places}f}".replace(",", "\u2009") if abs(value) >= 10_000 else f"{value:.{places}f}"


def figures(text: str) -> str:
    """Decimal numbers in a text as the reader writes them."""
    return text if _decimal == "." else _FIGURE.sub(lambda found: f"{found[1]}{_decimal}{found[2]}", text)


@lru_cache(maxsize=20_000)
def said(sentence: str) -> str:
    """What a deep room said, in the reader's language and with numbers as the reader writes them."""
    return figures(_found(sentence) if TRANSLATED else sentence)


def _found(sentence: str) -> str:
    known = tr(sentence)
    if known != sentence or not re.search(r"[^\W\d_]{2}", sentence):
        return known
    for template, pattern in _patterns():
        if found := pattern.fullmatch(sentence):
            return tr(template).format(*(_found(gap) for gap in found.groups()))
    # What holds, after the code of its finding.
    if coded := re.fullmatch(r"([a-z]+\.[a-z-]+: )(.+)", sentence, re.DOTALL):
        return coded[1] + _found(coded[2])
    for joint in (" · ", "\n\n", "\n"):  # several sentences as one
        if joint in sentence:
            return joint.join(_found(part) for part in sentence.split(joint))
    if sentence[0].isupper() or sentence.endswith("."):  # a clause that was made a sentence of its own
        clause = sentence[0].lower() + sentence[1:].removesuffix(".")
        if clause != sentence and (known := _found(clause)) != clause:
            return known[0].upper() + known[1:] + ("." if sentence.endswith(".") else "")
    if quoted := re.fullmatch(r"(“[^”]*” )(.+)", sentence, re.DOTALL):  # what is said of a thing by its name
        return quoted[1] + _found(quoted[2])
    return sentence


@cache
def _patterns() -> tuple[tuple[str, re.Pattern[str]], ...]:
    """All templates, those that say most first."""
    listed = TEMPLATES.read_text(encoding="utf-8").splitlines() if TEMPLATES.is_file() else []
    templates = sorted(
        (line.replace("\\n", "\n") for line in listed), key=lambda line: -len(re.sub(r"{\d+}", "", line))
    )
    return tuple((each, re.compile(re.sub(r"\\{\d+\\}", "(.*?)", re.escape(each)), re.DOTALL)) for each in templates)
