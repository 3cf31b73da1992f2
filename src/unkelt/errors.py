"""Errors that carry data. Only the command line and the window turn them into sentences on a screen."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from unkelt.messages import listed, say


class UnkeltError(Exception):
    """Base of all errors a user may cause; `str()` is one clear sentence."""

    def __reduce__(self) -> tuple[Callable[..., UnkeltError], tuple[object, ...]]:
        return _again, (type(self), self.args, self.__dict__)  # from another process it comes back with its data


def _again(kind: type[UnkeltError], args: tuple[object, ...], data: dict[str, object]) -> UnkeltError:
    error = kind.__new__(kind)
    error.args = args
    error.__dict__.update(data)
    return error


class InputError(UnkeltError):
    """A file can't be used.

    `source` names the file, `reason` says why, `place` says where in it (a line, a field), if known.
    """

    def __init__(self, source: str, reason: str, place: str | None = None) -> None:
        self.source, self.reason, self.place = source, reason, place
        super().__init__(listed(": ", (source, *([place] if place else ()), reason)))


class LengthError(UnkeltError):
    """A text is not a length with a unit."""

    def __init__(self, text: str, reason: str) -> None:
        self.text, self.reason = text, reason
        super().__init__(say("“{text}” {reason}", text=text, reason=reason))


class StepRefused(UnkeltError):
    """A step could not prove its promise, or has nothing to work on; the sheet is unchanged.

    `marks` are boxes (x0, y0, x1, y1 in mm) on the sheet that show what stood against it. `way_out` names the step, or
    the action of the window, that would clear it, where there is one.
    """

    def __init__(
        self,
        step: str,
        reason: str,
        marks: Sequence[tuple[float, float, float, float]] = (),
        way_out: str = "",
    ) -> None:
        self.step, self.reason, self.marks, self.way_out = step, reason, tuple(marks), way_out
        super().__init__(say("{step}: {reason}", step=step, reason=reason))


class NothingToDo(StepRefused):
    """What a step is asked for is so already, or its rule found nothing: the step is done, and changed nothing."""


class StaleTarget(StepRefused):
    """A step's target is no longer on the sheet."""


class GeometryRefused(UnkeltError):
    """An operation on curves gave no result that a second engine confirms."""


class Swallowed(GeometryRefused):
    """A union would hide what lies wholly inside something else."""
