"""Sentences for people that remember what they were made of, so that they can be said in another language where they
are shown.

A `Message` is the English sentence, and reads as one: it can be logged, compared, kept in JSON. Beside that it knows
its `id`, the sentence with named gaps, and the `values` in them. Nothing is decided by its words.

    say("{count} of {total} counters would be filled", count=2, total=3)
    say_count("{count} subpath closed", "{count} subpaths closed", 2)
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from enum import Enum

Reword = Callable[[str, Mapping[str, object]], str]
"""Of a form with gaps, and what is to stand in them: the form as it is to be read."""

LookUp = Callable[[str, str | None, int], str]
"""Of an id, its form for several or None, and the count: the form in the reader's language."""


class Message(str):
    """A sentence: English, as it is read; `id` and `values` are what it was made of. `several` is the form of its id
    for another count than one, where `count` among the values decides.
    """

    __slots__ = ("id", "several", "values")

    id: str
    several: str | None
    values: Mapping[str, object]

    def __new__(cls, id: str, values: Mapping[str, object], several: str | None = None) -> Message:
        form = id if several is None or values["count"] == 1 else several
        made = super().__new__(cls, cls.finished(form.format(**values)))
        made.id, made.several, made.values = id, several, values
        return made

    @classmethod
    def finished(cls, words: str) -> str:
        """What is made of the words when all gaps are filled."""
        return words

    def told(self, look_up: LookUp, reword: Reword = lambda form, _values: form) -> str:
        """The sentence in another language: its form from there, and so what stands in its gaps. `reword` may change
        the form by the values that are to stand in it.
        """
        count = self.values.get("count")
        form = reword(look_up(self.id, self.several, count if isinstance(count, int) else 2), self.values)
        values = {name: _told(value, look_up, reword) for name, value in self.values.items()}
        return self.finished(form.format(**values))

    def __str__(self) -> str:
        return self  # so that str(error) is still the message that the error was raised with

    def __reduce__(self) -> tuple[type[Message], tuple[str, Mapping[str, object], str | None]]:
        return type(self), (self.id, self.values, self.several)

    def __add__(self, other: str) -> Message:
        return listed("", (self, other))

    def __radd__(self, other: str) -> Message:
        return listed("", (other, self))


class _Headline(Message):
    """A clause that stands by itself: with a capital."""

    __slots__ = ()

    @classmethod
    def finished(cls, words: str) -> str:
        return words[:1].upper() + words[1:]


class _Sentence(_Headline):
    """A clause as a sentence of its own: with a full stop, too."""

    __slots__ = ()

    @classmethod
    def finished(cls, words: str) -> str:
        begun = super().finished(words)
        return begun if begun.endswith((".", "?", "!", "…")) else f"{begun}."


def _told(value: object, look_up: LookUp, reword: Reword) -> object:
    value = str(value) if isinstance(value, Exception) else value
    if isinstance(value, Message):
        return value.told(look_up, reword)
    if isinstance(value, Enum):
        value = value.value
    return look_up(value, None, 1) if isinstance(value, str) else value


def say(id: str, /, **values: object) -> Message:
    """A sentence with named gaps as in `str.format`, filled with numbers, names and other messages."""
    return Message(id, values)


def say_count(one: str, several: str, count: int, **values: object) -> Message:
    """As `say`, in the form that goes with a count, which is put in as {count}."""
    return Message(one, {"count": count, **values}, several)


def listed(joint: str, parts: Iterable[str]) -> Message:
    """Several sentences or words as one, with what stands between them."""
    said = {f"part{number}": part for number, part in enumerate(parts)}
    return Message(joint.replace("{", "{{").replace("}", "}}").join(f"{{{name}}}" for name in said), said)


def each_once(sentences: Iterable[str]) -> list[str]:
    """Sentences in their order, each once; with how often, where that is more than once."""
    return [
        words if n == 1 else say("{words} ({n} times)", words=words, n=n) for words, n in Counter(sentences).items()
    ]


def sentence(clause: str) -> Message:
    """A clause, as errors and refusals give it, as a sentence."""
    return _Sentence("{clause}", {"clause": clause})


def headline(clause: str) -> Message:
    """A clause with a capital."""
    return _Headline("{clause}", {"clause": clause})
