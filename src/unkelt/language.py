"""The language that people read. Sentences are looked up whole, in gettext catalogues; without one they stay as they
are.

Catalogues are `LANGUAGE/LC_MESSAGES/unkelt.mo`, in this package or in the user's data folder, chosen as gettext does
(by LANGUAGE, LC_ALL, LC_MESSAGES, LANG). `assets/locale/unkelt.pot` holds everything that can be said
(docs/translating.md).

Deep rooms say what they find in messages (`messages.py`), which know the sentence with gaps that they were made from.
Where one is shown, `said` looks that up, and what stands in its gaps.
"""

from __future__ import annotations

import gettext
import re
from collections.abc import Callable, Mapping
from contextlib import suppress
from importlib.resources import files
from pathlib import Path

from platformdirs import user_data_path

from unkelt.messages import Message

DOMAIN = "unkelt"
BUNDLED = Path(str(files("unkelt"))) / "assets" / "locale"
_FIGURE = re.compile(r"(?<![\w.,])(\d+)\.(\d+)(?!\w|[.,]\w)")
"""A decimal number by itself: not a version, not in a name."""


def _folders() -> tuple[Path, ...]:
    return user_data_path(DOMAIN) / "locale", BUNDLED


def _catalogue() -> gettext.NullTranslations:
    for folder in _folders():
        if gettext.find(DOMAIN, folder):
            return gettext.translation(DOMAIN, folder)
    return gettext.NullTranslations()


_words = _catalogue()
TRANSLATED = isinstance(_words, gettext.GNUTranslations)
_decimal = "."
_unit, _unit_mm = "mm", 1.0


SHEET = "sheet"
"""The domain of the bundled catalogues that hold what an inspection sheet says, and no more."""


def languages() -> tuple[str, ...]:
    """The codes of the languages that an inspection sheet can be in, English first."""
    found = {path.parent.parent.name for folder in _folders() for path in folder.glob("*/LC_MESSAGES/*.mo")}
    return ("en", *sorted(found - {"en"}))


def in_language(code: str) -> Callable[[str], str]:
    """What puts a sentence into a language, whatever the reader's own is; what nobody translated stays English. Raises
    KeyError where there is no catalogue for it.
    """
    if code not in languages():
        raise KeyError(code)
    found = gettext.NullTranslations()
    for folder in _folders():
        for domain in (DOMAIN, SHEET):
            with suppress(FileNotFoundError):
                found.add_fallback(gettext.translation(domain, folder, [code]))

    def form(one: str, several: str | None, count: int) -> str:
        return (found.gettext(one) if one else one) if several is None else found.ngettext(one, several, count)

    return lambda sentence: sentence.told(form) if isinstance(sentence, Message) else form(sentence, None, 1)


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


def use_unit(name: str, mm: float) -> None:
    """Lengths in sentences are said in this unit from now on, of so many millimetres."""
    global _unit, _unit_mm
    _unit, _unit_mm = name, mm


_LENGTHS = re.compile(r"(\{\w+(?::[^}]*)?\}(?:\s*(?:[×→±]|to|and)\s*\{\w+(?::[^}]*)?\})*) mm(?![\w²])")
"""Gaps for lengths in a sentence, one or several that share their unit."""

_GAP = re.compile(r"\{(\w+)(?::[^}]*)?\}")
FINER = 3
"""Decimals of a length in another unit: a thousandth of an inch is 0.03 mm."""


def in_unit(form: str, values: Mapping[str, object]) -> str:
    """The form with its lengths, which are in mm, in the reader's unit. What isn't a number stays."""
    if _unit_mm == 1.0:
        return form

    def reworded(found: re.Match[str]) -> str:
        names = [gap[1] for gap in _GAP.finditer(found[1])]
        if not all(isinstance(values.get(name), int | float) for name in names):
            return found[0]
        return _GAP.sub(lambda gap: _short(float(str(values[gap[1]])) / _unit_mm), found[1]) + f" {_unit}"

    return _LENGTHS.sub(reworded, form)


def length_said(label: str, text: str) -> tuple[str, str]:
    """A label such as "size, mm" and its figures, in the reader's unit."""
    if _unit_mm == 1.0 or not label.endswith(", mm"):
        return label, text
    bare = text.replace("\u2009", "")
    return label[: -len("mm")] + _unit, re.sub(r"\d+(?:\.\d+)?", lambda n: _short(float(n[0]) / _unit_mm), bare)


def _short(value: float) -> str:
    """To a thousandth, without needless noughts; what is smaller as exactly as it takes."""
    return f"{value:.{FINER}f}" if abs(value) >= 10**-FINER or not value else f"{value:.2g}"


def grouped(value: float, places: int = 0) -> str:
    """A figure for people: from 10,000 on its thousands are set off by a thin space, as ISO 80000-1 wants it (from
    memory).
    """
    return f"{value:,.{places}f}".replace(",", "\u2009") if abs(value) >= 10_000 else f"{value:.{places}f}"


def figures(text: str) -> str:
    """Decimal numbers in a text as the reader writes them."""
    return text if _decimal == "." else _FIGURE.sub(lambda found: f"{found[1]}{_decimal}{found[2]}", text)


def said(sentence: str) -> str:
    """What a deep room said, in the reader's language and with numbers as the reader writes them."""
    if not isinstance(sentence, Message):
        return figures(tr(sentence) if TRANSLATED else sentence)
    if not TRANSLATED and _unit_mm == 1.0:
        return figures(str.__str__(sentence))
    return figures(sentence.told(_form, in_unit))


def _form(one: str, several: str | None, count: int) -> str:
    """What stands for a sentence in the catalogue, in the form that goes with a count."""
    return tr(one) if several is None else _words.ngettext(one, several, count)
