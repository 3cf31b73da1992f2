"""Letters that nothing voted for: once face, size and line are known, those of the word's own script are looked for
where the outlines are not accounted for.

A letter that was welded to its neighbours and reduced has neither a ring nor a segment left that is its face's own. It
still lies on the line, at the size, with its boundary on the outlines or inside them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.distance import distances
from unkelt.geometry.flatten import lines
from unkelt.geometry.path import Floats
from unkelt.lettering.faces import Face
from unkelt.lettering.laying import LAID_EM, NOISE_MM, Target, laid, samples
from unkelt.lettering.lookalikes import NO_SCRIPT, script_of
from unkelt.lettering.matches import Letterform, Match
from unkelt.lettering.prints import em_path, readable

STEP_EM = 0.006
"""How far apart along the line a letter is tried."""

COARSE_EM = 0.01
"""So near to the outlines a letter must be where it is tried, to be laid on them."""

FEW = 24
"""So many points of its boundary are asked there."""

TRIED, BESIDE, LAID = 5, 3, 900
"""So many places along the line are likely for a letter, each tried so often; so many of all are looked at closely."""

APART_EM = 0.15
"""Two of one letter stand farther apart than that."""

GAP_EM = 0.1
"""What is left is parted where there is a gap of more than this between it, along the line."""

BLOCK = 0x80
"""Characters are near each other in so large a part of Unicode."""

LEAST_NEW = 0.6
"""A letter is one where so much of what is seen of it lies on what nothing else accounts for."""

HIDDEN_MOST = 0.4
"""Of a letter that is sought no more than this may lie inside its neighbours: nothing else speaks for it."""

LEAST_LEFT, LEAST_NEAR = 0.2, 0.2
"""A letter is sought while more than this share of its size is left, and where so much of it is near."""

ABOVE_EM, BELOW_EM = 1.3, 0.6
"""How far from its baseline a letter reaches at most."""

ROUNDS = 40


@dataclass(frozen=True, slots=True)
class Explained:
    """How far the middle of each edge of the outlines lies from the letters, and whether that is near enough."""

    off: Floats
    within: np.ndarray


def explained_by(face: Face, letters: Sequence[Letterform], target: Target) -> Explained:
    """What some letters account for."""
    shapes = [lines(em_path(face, form.glyph).transformed(form.matrix), target.chord) for form in letters]
    starts, ends = _edges(shapes)
    off = distances((target.starts + target.ends) / 2, starts, ends)
    em = letters[0].em_mm
    return Explained(off, off <= max(2 * NOISE_MM, LAID_EM * em))


def sought(match: Match, target: Target) -> list[Sought]:
    """The letters that were missing, each the one that accounts for most of what is left. Those whose characters lie
    beside the ones found are asked first, the rest of the script only for what is left then.
    """
    found: list[Sought] = []
    for alphabet in _alphabets(match):
        left = _left(match, found, target)
        if not match.letters or not left.any():
            break
        rows = [row for line in _lines(match) for row in _along(match, line, alphabet, target, left)]
        for _ in range(ROUNDS):
            best = max(((new, row) for row in rows if (new := row.new(left)) > 0), default=None)
            if best is None:
                break
            found.append(best[1])
            rows.remove(best[1])
            left = _left(match, found, target)
    return found


def _left(match: Match, found: Sequence[Sought], target: Target) -> np.ndarray:
    """Which edges of the outlines nothing accounts for; none where they are too little for a letter."""
    left = ~explained_by(match.face, [*match.letters, *(row.form for row in found)], target).within
    size = np.linalg.norm(target.ends - target.starts, axis=1)[left].sum()
    return left if size > LEAST_LEFT * match.letters[0].em_mm else np.zeros_like(left)


def _alphabets(match: Match) -> list[list[int]]:
    """The glyphs of the word's own scripts, with digits and punctuation: first those whose characters stand near the
    ones found, then all others.
    """
    if not match.letters:
        return []
    texts = readable(match.face)
    scripts = {script_of(form.text) for form in match.letters} - set(NO_SCRIPT)
    own = [glyph for glyph, text in texts.items() if not scripts or script_of(text) in (*scripts, *NO_SCRIPT)]
    blocks = {0} | {ord(letter) // BLOCK for form in match.letters for letter in form.text}
    near = [glyph for glyph in own if all(ord(letter) // BLOCK in blocks for letter in texts[glyph])]
    return [near, [glyph for glyph in own if glyph not in set(near)]]


@dataclass(frozen=True, slots=True)
class _Line:
    """A baseline: a place on it, its direction as a unit number, and the size of its letters (mm)."""

    start: complex
    way: complex
    em_mm: float

    def is_of(self, form: Letterform, slack: float) -> bool:
        """Whether a letter stands on it, at its size and turned with it, to some share of the size."""
        apart = abs(((form.origin - self.start) / self.way).imag)
        turned = abs(np.angle(np.exp(1j * form.turn) / self.way))
        return bool(turned < 0.02 and abs(form.em_mm / self.em_mm - 1) < 0.02 and apart < slack * self.em_mm)


def _lines(match: Match) -> list[_Line]:
    """The baselines that letters were found on; on a bend each letter has one of its own."""
    found: list[_Line] = []
    for form in match.letters:
        if not any(line.is_of(form, 0.03) for line in found):
            found.append(_Line(form.origin, complex(np.exp(1j * form.turn)), form.em_mm))
    return found


@dataclass(frozen=True, slots=True, eq=False)
class Sought:
    """A letter that fits on the outlines, the edges that each of its points there lies on, and how long it is (mm)."""

    form: Letterform
    edges: np.ndarray
    length: float

    def new(self, left: np.ndarray) -> float:
        """The length (mm) of what is left that it accounts for; 0 where that is too little of it."""
        share = float(left[self.edges].mean()) if len(self.edges) else 0.0
        return share * (1 - self.form.hidden) * self.length if share > LEAST_NEW else 0.0

    def rings(self, target: Target) -> set[int]:
        """The subpaths that it lies on."""
        return set(np.unique(target.ring[self.edges]).tolist())

    def __lt__(self, other: Sought) -> bool:
        return self.form.glyph < other.form.glyph


def _along(match: Match, line: _Line, alphabet: Sequence[int], target: Target, left: np.ndarray) -> list[Sought]:
    """Letters that fit on a line where something is left."""
    middles = ((target.starts + target.ends) / 2)[left] @ np.array([1, 1j])
    seen = (middles - line.start) / line.way
    up = -seen.imag if match.mirrored else seen.imag
    near = np.sort(seen[(-ABOVE_EM * line.em_mm < up) & (up < BELOW_EM * line.em_mm)].real)
    if not len(near):
        return []
    cuts = np.flatnonzero(np.diff(near) > GAP_EM * line.em_mm)
    spans = list(zip(near[[0, *(cuts + 1)]].tolist(), near[[*cuts, -1]].tolist(), strict=True))
    turn = line.way * line.em_mm
    map_of_left = _Map(target.middles[left[target.edge_of_middles]], COARSE_EM * line.em_mm)
    likely: list[tuple[float, int, complex]] = []
    for glyph in alphabet:
        ems = samples(match.face, glyph)[0]
        ems = ems.conj() if match.mirrored else ems
        first, last = ems.real.min() * line.em_mm, ems.real.max() * line.em_mm
        steps = [np.arange(low - last, high - first, STEP_EM * line.em_mm) for low, high in spans]
        places = np.unique(np.round(np.concatenate(steps) / (STEP_EM * line.em_mm))) * STEP_EM * line.em_mm
        few = ems[:: max(1, len(ems) // FEW)]
        share = map_of_left.near((line.start + line.way * places)[:, None] + turn * few).mean(axis=1)
        likely += [
            (float(share[i]), glyph, complex(line.start + line.way * places[i]))
            for i in _peaks(places, share, line.em_mm)
        ]
    rows = []
    for _, glyph, place in sorted(likely, key=lambda each: -each[0])[:LAID]:
        fits = laid(match.face, glyph, turn, place, target, match.mirrored)
        if fits is not None and line.is_of(fits[0], 0.05) and fits[0].hidden <= HIDDEN_MOST:
            around = samples(match.face, glyph)[1] * fits[0].em_mm
            rows.append(Sought(fits[0], target.edge_at(fits[2]), around))
    return rows


def _peaks(places: Floats, share: Floats, em_mm: float) -> list[int]:
    """The places where most of a letter is near, each with the best two beside it."""
    found: list[int] = []
    tops: list[float] = []
    for i in np.argsort(-share)[: 40 * TRIED].tolist():
        if share[i] < LEAST_NEAR or len(tops) > TRIED:
            break
        near = [at for at in tops if abs(places[i] - at) < APART_EM * em_mm]
        if not near:
            tops.append(float(places[i]))
        if not near or sum(abs(places[k] - near[0]) < APART_EM * em_mm for k in found) < BESIDE:
            found.append(i)
    return found


class _Map:
    """Where on the sheet some points are near, in squares of half that distance: one look tells."""

    def __init__(self, points: Floats, near_mm: float) -> None:
        self._cell = near_mm / 2
        self._low = points.min(axis=0) - 2 * near_mm
        shape = np.ceil((points.max(axis=0) - self._low) / self._cell).astype(np.intp) + 6
        self._marked = np.zeros(shape, bool)
        at = np.floor((points - self._low) / self._cell).astype(np.intp)
        for dx in range(-2, 3):
            for dy in range(-2, 3):
                if dx * dx + dy * dy <= 5:
                    self._marked[at[:, 0] + dx, at[:, 1] + dy] = True

    def near(self, places: np.ndarray) -> np.ndarray:
        """Whether each place, a complex number in mm, is near one of the points."""
        x = np.floor((places.real - self._low[0]) / self._cell).astype(np.intp)
        y = np.floor((places.imag - self._low[1]) / self._cell).astype(np.intp)
        inside = (x >= 0) & (y >= 0) & (x < self._marked.shape[0]) & (y < self._marked.shape[1])
        return np.asarray(inside & self._marked[np.where(inside, x, 0), np.where(inside, y, 0)])


def _edges(shapes: Sequence[shapely.Geometry]) -> tuple[Floats, Floats]:
    vertices, owner = shapely.get_coordinates(
        np.concatenate([shapely.get_parts(shape) for shape in shapes]), return_index=True
    )
    same = owner[1:] == owner[:-1]
    return vertices[:-1][same], vertices[1:][same]
