"""SVG path data: the `d` attribute, in all its commands, both ways.

Reading has two tokenisers. The plain one splits with the interpreter's own C routines and takes all data in which
numbers are told apart by spaces, commas and minus signs, which is nearly all data; whatever it can't take, and all
data with an error in it, goes to the strict one, which follows the grammar of SVG 1.1 (section 8.3.9) letter by
letter. Both feed the same interpreter.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from unkelt.formats.limits import FARTHEST
from unkelt.geometry.arcs import arc_to_cubics
from unkelt.geometry.path import CUBIC, LINE, QUAD, Path, PathBuilder
from unkelt.messages import say

ARGUMENTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}
_LETTERS = {letter: (letter.upper(), letter.islower()) for upper in ARGUMENTS for letter in (upper, upper.lower())}
_COUNT = ARGUMENTS | {letter.lower(): count for letter, count in ARGUMENTS.items()}

_COMMANDS = re.compile(r"([MmZzLlHhVvCcSsQqTtAa])")
_PLAIN = re.compile(r"[MmZzLlHhVvCcSsQqTtAa0-9eE+\-., \t\n\r\f]*")
_ODD_COMMA = re.compile(r",\s*[,A-DF-Za-df-z]|[A-DF-Za-df-z]\s*,|,\s*$|^\s*,")
_NUMBER = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?")
_WHOLE = re.compile(r"\.0(?![0-9])")
_SPACE = re.compile(r"[ \t\n\r\f]*")
_SEPARATOR = re.compile(r"[ \t\n\r\f]*,?[ \t\n\r\f]*")

Step = tuple[str, list[float]]
Values = Sequence[float]


@dataclass(frozen=True, slots=True)
class PathData:
    """What was read. `problem` says where reading stopped; all before that point is in `path` (SVG 1.1, appendix
    F.2).
    """

    path: Path
    problem: str | None = None


class _NotPlain(Exception):
    """The data needs the strict tokeniser."""


def parse_path_data(text: str, arc_error: float = 1e-3, *, points: bool = True) -> PathData:
    """The path of a `d` attribute, in its own units; arcs become cubics within `arc_error` units. Moves that nothing
    is drawn from are left out without `points`.
    """
    problem = None
    try:
        path = _interpret(_plain_steps(text), arc_error, points)
    except _NotPlain:
        steps = _StrictSteps(text)
        path = _interpret(iter(steps), arc_error, points)
        problem = steps.problem
    if not path.within(FARTHEST):
        bad = np.flatnonzero(~(np.abs(path.points).max(axis=(1, 2)) <= FARTHEST))[0]
        return PathData(
            path.select(path.stops <= bad),
            say("a coordinate is beyond {farthest:g} in segment {bad}", farthest=FARTHEST, bad=bad + 1),
        )
    return PathData(path, problem)


def _plain_steps(text: str) -> Iterator[Step]:
    """Commands with their numbers; raises _NotPlain at the first that it can't vouch for."""
    if not _PLAIN.fullmatch(text) or ("," in text and _ODD_COMMA.search(text)):
        raise _NotPlain
    spaced = text.replace(",", " ").replace("-", " -")
    if "e -" in spaced or "E -" in spaced:
        spaced = spaced.replace("e -", "e-").replace("E -", "E-")
    parts = _COMMANDS.split(spaced)
    if parts[0].strip() or (len(parts) > 1 and parts[1] not in "Mm"):
        raise _NotPlain
    try:
        for letter, numbers in zip(parts[1::2], parts[2::2], strict=True):
            values = list(map(float, numbers.split()))
            count = _COUNT[letter]
            if len(values) == count != 7:  # one command with what it takes: nearly always
                yield letter, values
                continue
            if (len(values) % count or not values) if count else values:
                raise _NotPlain
            if count == 7 and any(flag not in (0, 1) for flag in values[3::7] + values[4::7]):
                raise _NotPlain
            yield letter, values
    except ValueError:
        raise _NotPlain from None


class _StrictSteps:
    """The same by the grammar. After the last whole command `problem` says what stopped it, if anything did."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.problem: str | None = None

    def __iter__(self) -> Iterator[Step]:
        text = self.text
        position, first = _skip(_SPACE, text, 0), True
        while position < len(text):
            letter = text[position]
            if letter not in _COUNT:
                self.problem = say(
                    "“{letter}” at character {position} is not a path command", letter=letter, position=position + 1
                )
                return
            if first and letter not in "Mm":
                self.problem = say("the path begins with “{letter}”, not with a move", letter=letter)
                return
            first = False
            position = _skip(_SPACE, text, position + 1)
            count = _COUNT[letter]
            if not count:
                yield letter, []
                continue
            values, position, dangling = self._numbers(position, arc=count == 7)
            whole = len(values) - len(values) % count
            if whole:
                yield letter, values[:whole]
            if whole != len(values) or not values or dangling:
                self.problem = say(
                    "“{letter}” has too few numbers at character {position}", letter=letter, position=position + 1
                )
                return

    def _numbers(self, position: int, arc: bool) -> tuple[list[float], int, bool]:
        """All numbers from `position`, where they end, and whether a comma is left without a number after it."""
        values: list[float] = []
        comma = False
        while True:
            if arc and len(values) % 7 in (3, 4):
                end = position + 1 if self.text[position : position + 1] in ("0", "1") else position
            else:
                match = _NUMBER.match(self.text, position)
                end = match.end() if match else position
            if end == position:
                return values, position, comma
            values.append(float(self.text[position:end]))
            position = _skip(_SEPARATOR, self.text, end)
            comma = "," in self.text[end:position]


def _skip(pattern: re.Pattern[str], text: str, position: int) -> int:
    match = pattern.match(text, position)
    return match.end() if match else position


@dataclass(frozen=True, slots=True)
class _Segments:
    """Segments of one subpath as plain numbers, on their way to the path."""

    builder: PathBuilder
    numbers: list[float] = field(default_factory=list)
    degrees: bytearray = field(default_factory=bytearray)

    def hand_over(self) -> None:
        if self.degrees:
            self.builder.add_segments(self.numbers, self.degrees)
            self.numbers.clear()
            self.degrees.clear()


At = tuple[float, float, float, float]
"""Where the pen is, and the last handle."""


def _curves(out: _Segments, v: Values, relative: bool, at: At, _before: str, _error: float) -> At:
    x, y, handle_x, handle_y = at
    for k in range(0, len(v), 6):
        x1, y1, handle_x, handle_y, x3, y3 = v[k : k + 6]
        if relative:
            x1, y1, handle_x, handle_y, x3, y3 = x1 + x, y1 + y, handle_x + x, handle_y + y, x3 + x, y3 + y
        out.numbers.extend((x, y, x1, y1, handle_x, handle_y, x3, y3))
        out.degrees.append(CUBIC)
        x, y = x3, y3
    return x, y, handle_x, handle_y


def _level(out: _Segments, v: Values, relative: bool, at: At, _before: str, _error: float) -> At:
    x, y = at[:2]
    for value in v:
        x0 = x
        x = x + value if relative else value
        out.numbers.extend((x0, y, x0, y, x, y, x, y))
        out.degrees.append(LINE)
    return (x, y, *at[2:])


def _plumb(out: _Segments, v: Values, relative: bool, at: At, _before: str, _error: float) -> At:
    x, y = at[:2]
    for value in v:
        y0 = y
        y = y + value if relative else value
        out.numbers.extend((x, y0, x, y0, x, y, x, y))
        out.degrees.append(LINE)
    return (x, y, *at[2:])


def _smooth(out: _Segments, v: Values, relative: bool, at: At, before: str, _error: float) -> At:
    x, y, handle_x, handle_y = at
    for k in range(0, len(v), 4):
        x2, y2, x3, y3 = v[k : k + 4]
        if relative:
            x2, y2, x3, y3 = x + x2, y + y2, x + x3, y + y3
        x1, y1 = (2 * x - handle_x, 2 * y - handle_y) if before in ("C", "S") else (x, y)
        out.numbers.extend((x, y, x1, y1, x2, y2, x3, y3))
        out.degrees.append(CUBIC)
        handle_x, handle_y, x, y, before = x2, y2, x3, y3, "S"
    return x, y, handle_x, handle_y


def _quadratics(out: _Segments, v: Values, relative: bool, at: At, _before: str, _error: float) -> At:
    x, y, handle_x, handle_y = at
    for k in range(0, len(v), 4):
        handle_x, handle_y, x2, y2 = v[k : k + 4]
        if relative:
            handle_x, handle_y, x2, y2 = x + handle_x, y + handle_y, x + x2, y + y2
        out.numbers.extend((x, y, handle_x, handle_y, handle_x, handle_y, x2, y2))
        out.degrees.append(QUAD)
        x, y = x2, y2
    return x, y, handle_x, handle_y


def _smooth_quadratics(out: _Segments, v: Values, relative: bool, at: At, before: str, _error: float) -> At:
    x, y, handle_x, handle_y = at
    for k in range(0, len(v), 2):
        handle_x, handle_y = (2 * x - handle_x, 2 * y - handle_y) if before in ("Q", "T") else (x, y)
        x2, y2 = (x + v[k], y + v[k + 1]) if relative else (v[k], v[k + 1])
        out.numbers.extend((x, y, handle_x, handle_y, handle_x, handle_y, x2, y2))
        out.degrees.append(QUAD)
        x, y, before = x2, y2, "T"
    return x, y, handle_x, handle_y


def _arcs(out: _Segments, v: Values, relative: bool, at: At, _before: str, error: float) -> At:
    x, y = at[:2]
    for k in range(0, len(v), 7):
        rx, ry, turn, large, sweep, x2, y2 = v[k : k + 7]
        if relative:
            x2, y2 = x + x2, y + y2
        if rx == 0 or ry == 0:
            out.numbers.extend((x, y, x, y, x2, y2, x2, y2))
            out.degrees.append(LINE)
            x, y = x2, y2
        for cubic in arc_to_cubics(x, y, rx, ry, turn, bool(large), bool(sweep), x2, y2, error):
            out.numbers.extend((x, y, *cubic))
            out.degrees.append(CUBIC)
            x, y = cubic[4:]
    return (x, y, *at[2:])


_DRAW = {
    "C": _curves,
    "H": _level,
    "V": _plumb,
    "S": _smooth,
    "Q": _quadratics,
    "T": _smooth_quadratics,
    "A": _arcs,
}
"""What each command draws, for all the numbers that follow it; lines are drawn where they are read."""


def _interpret(steps: Iterator[Step], arc_error: float, points: bool = True) -> Path:
    """Runs the commands. Implicit line-tos after a move, reflected handles and the point after a close are as in SVG.

    Segments of one subpath are collected as plain numbers and handed over together: this loop is what reading a large
    file spends its time in.
    """
    out = _Segments(builder := PathBuilder(points=points))
    numbers, degrees = out.numbers, out.degrees
    x = y = start_x = start_y = handle_x = handle_y = 0.0
    before = ""  # the letter whose handle the next S or T may reflect
    begun = False
    for letter, v in steps:
        command, relative = _LETTERS[letter]
        if command == "C" and begun and len(v) == 6:  # by far the most frequent, so it goes first
            x1, y1, handle_x, handle_y, x3, y3 = v
            if relative:
                handle_x += x
                handle_y += y
                x3 += x  # the same number ends this segment and begins the next: one object, which halves its memory
                y3 += y
                numbers += (x, y, x + x1, y + y1, handle_x, handle_y, x3, y3)
            else:
                numbers += (x, y, x1, y1, handle_x, handle_y, x3, y3)
            x, y = x3, y3
            degrees.append(CUBIC)
            before = "C"
            continue
        if command == "M":
            out.hand_over()
            x, y = (x + v[0], y + v[1]) if relative else (v[0], v[1])
            builder.move_to(x, y)
            start_x, start_y, begun, before = x, y, True, ""
            command, v = "L", v[2:]
        elif not begun:
            builder.move_to(x, y)
            begun = True
        if command == "L":
            for k in range(0, len(v), 2):
                x0, y0 = x, y
                x, y = (x + v[k], y + v[k + 1]) if relative else (v[k], v[k + 1])
                numbers += (x0, y0, x0, y0, x, y, x, y)
                degrees.append(LINE)
        elif command == "Z":
            out.hand_over()
            builder.close()
            x, y, begun = start_x, start_y, False
        else:
            at = x, y, handle_x, handle_y
            x, y, handle_x, handle_y = _DRAW[command](out, v, relative, at, before, arc_error)
        before = command
    out.hand_over()
    return builder.path()


AT_ONCE = 1_000
"""So many numbers are made words in one call: while it lasts no other thread has its turn."""


def without_repeated_points(path: Path) -> tuple[Path, int]:
    """The path without moves that draw nothing where another has been, and how many: some files hold thousands at one
    place.
    """
    lone = (path.counts == 1) & ~path.closed
    if lone.sum() < 2:
        return path, 0
    points = path.points[path.starts].reshape(len(path), -1)
    lone &= (points == np.tile(points[:, :2], points.shape[1] // 2)).all(axis=1)
    places, first = np.unique(points[lone, :2], axis=0, return_index=True)
    if len(places) == lone.sum():
        return path, 0
    keep = ~lone
    keep[np.flatnonzero(lone)[first]] = True
    return path.select(keep), int((~keep).sum())


def format_path_data(path: Path, places: int = 5) -> str:
    """Absolute path data, numbers rounded to `places`; the same path always gives the same text.

    A closing line is left to `Z`.
    """
    rounded = np.round(path.points, places) + 0.0  # so that no zero is negative
    numbers = rounded.ravel()
    words: list[str] = []
    for start in range(0, len(numbers), AT_ONCE):
        words += map(repr, numbers[start : start + AT_ONCE].tolist())
    degrees = path.degrees.tolist()
    subpaths: list[str] = []
    for a, b, closed in zip(path.starts.tolist(), path.stops.tolist(), path.closed.tolist(), strict=True):
        parts = ["M", words[8 * a], " ", words[8 * a + 1]]
        for index in range(a, b):
            at, degree = 8 * index, degrees[index]
            if degree == CUBIC:
                parts += ("C", " ".join(words[at + 2 : at + 8]))
            elif degree == QUAD:
                parts += ("Q", " ".join((*words[at + 2 : at + 4], *words[at + 6 : at + 8])))
            elif not (closed and index == b - 1 and b - a > 1):
                parts += ("L", words[at + 6], " ", words[at + 7])
        if closed:
            parts.append("Z")
        subpaths.append(_WHOLE.sub("", "".join(parts)))
    return "".join(subpaths)
