"""A run in portions that are drawn or looked at one by one, however long its moves are."""

from __future__ import annotations

import numpy as np

from unkelt.geometry.path import Floats
from unkelt.proof.motion import DryRun, Move


class Portions:
    """The moves of a run as portions along no more than so many points each, numbered from its start; pierces are one
    each.
    """

    def __init__(self, run: DryRun, most_points: int) -> None:
        self._run = run
        self._before = np.cumsum([0, *(-(-len(move.points) // most_points) for move in run.moves)])
        """(m + 1,) how many portions lie before each move, and before the end."""

    def done(self, seconds: float) -> int:
        """How many are over at a moment."""
        number = self._run.at(seconds)[2]
        if number < 0:
            return 0
        before, after = self._before[number : number + 2].tolist()
        return int(before + int(self._run.moves[number].share(seconds) * (after - before)))

    def portion(self, number: int) -> tuple[Move, float, float]:
        """The move that one is of, and from which share of it to which it goes."""
        at = int(np.searchsorted(self._before, number, "right")) - 1
        first, stop = self._before[at : at + 2].tolist()
        return self._run.moves[at], (number - first) / (stop - first), (number + 1 - first) / (stop - first)


def between(line: Floats, since: float, until: float) -> Floats:
    """The points of a line from one share of them to another, and the one before them."""
    first, stop = (round(len(line) * share) for share in (since, until))
    return line[max(first - 1, 0) : max(stop, 1)]
