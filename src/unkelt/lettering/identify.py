"""Whose letters are these? The face on the shelf whose glyphs some outlines are, and which letters stand where.

Every ring, and every curved segment, asks the prints for its like and votes for a face at a scale: letters of one word
agree on both, chance likenesses don't. Then each glyph voted for is laid over the outlines and kept where its whole
boundary lies on them, or inside them where letters were welded together. (The vote is a generalised Hough transform,
D. Ballard, 1981.)
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from unkelt.geometry.measure import lengths, segment_lengths
from unkelt.geometry.path import Floats, Ints, Path, concat
from unkelt.geometry.shape import QUIET, mirrored_marks, ring_shapes, segment_marks
from unkelt.lettering.faces import Face, Shelf, open_face
from unkelt.lettering.laying import NOISE_MM, Target, laid, samples
from unkelt.lettering.matches import Letterform, Match, in_scripts_of_their_words
from unkelt.lettering.prints import Prints, alike_rings, alike_segments, kept_prints, readable
from unkelt.lettering.seeking import explained_by, sought

RIVAL = 0.25
"""A face with less than this share of the best one's votes isn't tried."""

SCALE_BIN = 0.02
"""Votes whose scales agree to so much of a natural logarithm go together."""

MOST_ASKED = 500
"""So many segments ask; more would tell no more."""

WHOLE, COMPLETED = 0.98, 2
"""Where no match accounts for so much, letters that are missing are looked for in so many of the likeliest."""

BEST = 6
"""So many faces are tried on the outlines."""

SAME_SIZE = 0.01
"""Letters of one word have the same size to this share; an I that is laid over an l has another."""

RING_KNOWN, RING_TOUCHED = 0.95, 0.05
"""A subpath is letters of a face from the one share of its length on, and none of them below the other."""


def identify(path: Path, shelf: Shelf, prints: Prints | None = None) -> list[Match]:
    """The faces that the closed subpaths of a path may come from, the likeliest first; none where nothing is alike."""
    if not len(path):
        return []
    prints = prints or kept_prints(shelf.faces)
    target = Target(path)
    found = []
    for mirrored in (False, True):
        votes = _votes(path, prints, mirrored)
        for face, log_scale in _elected(votes):
            match = _tried(prints.faces[face], votes.of(face, log_scale), target, mirrored)
            if match is not None:
                found.append(match)
        if found and max(match.explained for match in found) > 0.9:
            break  # nobody mirrors what reads as it is
    likeliest = sorted(found, key=lambda match: -match.explained)[:COMPLETED]
    if likeliest and likeliest[0].explained < WHOLE:
        found = [_completed(match, target) if match in likeliest else match for match in found]
    found = [in_scripts_of_their_words(match) for match in found]
    best: dict[Face, Match] = {}
    for match in sorted(found, key=lambda match: (-round(match.explained, 3), not match.face.bundled, match.off_mm)):
        best.setdefault(match.face, match)
    return list(best.values())


def _completed(match: Match, target: Target) -> Match:
    """The match with letters that nothing voted for: reduced and welded ones have no curve of their face's own."""
    more = sought(in_scripts_of_their_words(match), target)
    if not more:
        return match
    fuller = _matched(match.face, [*match.letters, *(row.form for row in more)], target, match.mirrored)
    # A subpath where nothing voted is letters as a whole, or none: part of a frame may look like a bracket.
    known = {*match.rings, *match.unclear, *fuller.rings}
    sure = [row.form for row in more if row.rings(target) <= known]
    return _matched(match.face, [*match.letters, *sure], target, match.mirrored) if sure else match


@dataclass(frozen=True, slots=True)
class Votes:
    """One row a likeness: who asks, with which weight in mm, for which face and glyph, at z → a z + b (ems to mm)."""

    asker: Ints
    weight: Floats
    face: Ints
    glyph: Ints
    a: np.ndarray
    b: np.ndarray

    def of(self, face: int, log_scale: float) -> Votes:
        """Those for one face at a size."""
        wanted = (self.face == face) & (np.abs(np.log(np.abs(self.a)) - log_scale) < SCALE_BIN)
        return Votes(*(getattr(self, name)[wanted] for name in ("asker", "weight", "face", "glyph", "a", "b")))


def _votes(path: Path, prints: Prints, mirrored: bool) -> Votes:
    rings = ring_votes(path, prints, mirrored)
    segments = _segment_votes(path, prints, mirrored, len(path))
    return Votes(
        *(
            np.concatenate([getattr(v, name) for v in (rings, segments)])
            for name in ("asker", "weight", "face", "glyph", "a", "b")
        )
    )


def ring_votes(path: Path, prints: Prints, mirrored: bool) -> Votes:
    """For which letters of which faces each ring (r,) speaks."""
    shapes = ring_shapes(path)
    marks = mirrored_marks(shapes.marks) if mirrored else shapes.marks
    marks = np.where(np.isfinite(marks), marks, 9.0)
    size = np.sqrt(np.maximum(shapes.area, 1e-12))
    noise = np.minimum(0.003 + 2 * NOISE_MM / size, 0.03)
    asker, at = alike_rings(prints, marks, _tolerances(marks, noise))
    scale = size[asker] / np.sqrt(prints.area[at])
    third, second = shapes.third[asker], shapes.second[asker]
    known_third, known_second = prints.third[at], prints.second[at]
    if mirrored:
        known_third, known_second = known_third.conj(), known_second.conj()
    # Its second moment says how a ring is turned, but for half round; its third one says which, or all where that is
    # greater.
    clear, oblong = np.abs(third) > 0.004, np.abs(second) > 0.01
    once, twice = np.angle(third * known_third.conj()), np.angle(second * known_second.conj()) / 2
    other_way = clear & (np.cos(once - twice) < 0)
    by_third = clear & (~oblong | (np.abs(third) > 2 * np.abs(second)))
    turn = np.where(by_third, once, np.where(oblong, twice + math.pi * other_way, 0))
    half = oblong & ~clear
    rows = np.concatenate([np.arange(len(asker)), np.flatnonzero(half)])
    turn = np.concatenate([turn, turn[half] + math.pi])
    a = scale[rows] * np.exp(1j * turn)
    centre = prints.centre[at][rows]
    b = shapes.centre[asker[rows]] - a * (centre.conj() if mirrored else centre)
    weight = lengths(path)
    return Votes(asker[rows], weight[asker[rows]], prints.ring_face[at][rows], prints.ring_glyph[at][rows], a, b)


def _tolerances(marks: Floats, noise: Floats) -> Floats:
    """(r, 8) by how much each mark may differ: those that hold a phase by more where the third moment, which it is seen
    from, is small and so turns with little.
    """
    second, third, other = marks[:, 1:4].T
    turned = noise / (3 * (third + QUIET))
    phases = np.stack([2 * second * turned] * 2 + [3 * other * turned] * 2, axis=1)
    return np.maximum(noise[:, None], np.concatenate([np.zeros((len(marks), 4)), phases], axis=1))


def _segment_votes(path: Path, prints: Prints, mirrored: bool, first: int) -> Votes:
    handles, ends = segment_marks(path)
    long = segment_lengths(path)
    chords = np.abs(ends[:, 1] - ends[:, 0])
    # Both ways: a path may have been turned round. Only what is longer than its own noise says anything.
    asked = np.flatnonzero(~np.isnan(handles).any(axis=1) & (chords > 20 * NOISE_MM))
    ring = np.repeat(np.arange(len(path)), path.counts)[asked]
    order = np.lexsort((-long[asked], ring))
    rank = np.arange(len(order)) - np.searchsorted(ring[order], ring[order])
    asked = asked[order][np.argsort(rank, kind="stable")][:MOST_ASKED]  # the longest of each ring first
    both = np.concatenate([handles[asked], 1 - handles[asked][:, ::-1]])
    there = np.concatenate([ends[asked], ends[asked][:, ::-1]])
    if mirrored:
        both = both.conj()
    noise = np.minimum(0.001 + 0.25 * NOISE_MM / np.abs(there[:, 1] - there[:, 0]), 0.01)
    which, at = alike_segments(prints, both, noise)
    known = prints.ends[at].conj() if mirrored else prints.ends[at]
    a = (there[which, 1] - there[which, 0]) / (known[:, 1] - known[:, 0])
    b = there[which, 0] - a * known[:, 0]
    asker = np.concatenate([asked, asked])[which]
    return Votes(asker + first, long[asker], prints.segment_face[at], prints.segment_glyph[at], a, b)


def _elected(votes: Votes) -> Iterator[tuple[int, float]]:
    """The faces and scales (logarithms) with most weight; each asker counts once, and less the more faces it likes."""
    if not len(votes.asker):
        return
    askers = int(votes.asker.max()) + 1
    pairs = np.unique(votes.face.astype(np.int64) * askers + votes.asker)
    likes = np.bincount(pairs % askers, minlength=askers)
    scales = np.log(np.abs(votes.a))
    tallies: dict[int, tuple[float, float]] = {}
    for half in (0.0, 0.5):
        bins = np.floor(scales / SCALE_BIN + half).astype(np.int64)
        low, count = int(bins.min()), int(bins.max() - bins.min()) + 1
        keys = (votes.face * count + bins - low) * askers + votes.asker
        keys, first = np.unique(keys, return_index=True)
        weight = votes.weight[first] / np.sqrt(likes[keys % askers])
        places, owner = np.unique(keys // askers, return_inverse=True)
        totals = np.bincount(owner, weights=weight)
        for place, total in zip(places.tolist(), totals.tolist(), strict=True):
            face, number = divmod(place, count)
            if total > tallies.get(face, (0.0, 0.0))[0]:
                tallies[face] = total, (number + low + 0.5 - half) * SCALE_BIN
    best = max(total for total, _ in tallies.values())
    for face in sorted(tallies, key=lambda face: -tallies[face][0])[:BEST]:
        if tallies[face][0] >= best * RIVAL:
            yield face, tallies[face][1]


def _tried(face: Face, votes: Votes, target: Target, mirrored: bool) -> Match | None:
    """The letters of a face that lie on the outlines, best first, none on another."""
    texts = readable(face)
    tried = []
    for glyph, a, b, weight in _hypotheses(votes):
        if glyph in texts and weight >= LEAST_VOTED * samples(face, glyph)[1] * abs(a):
            found = laid(face, glyph, a, b, target, mirrored)
            if found is not None:
                tried.append((*found, weight))
    if not tried:
        return None
    # Of two letters that fit the same outline, a comma and a quote, the one on the baseline of most is meant.
    level = _baseline([(form, on) for form, on, _, _ in tried])
    sizes = np.array([form.em_mm for form, _, _, _ in tried])
    em = float(sizes[np.argmin([abs(sizes - size) @ np.array([row[1] for row in tried]) for size in sizes])])
    alike = [row for row in tried if abs(row[0].em_mm / em - 1) < SAME_SIZE]
    order = sorted(alike, key=lambda row: -row[1] * (1.0 if level(row[0]) else 0.8))
    kept = _by_neighbours(face, _one_a_place([(form, on, points) for form, on, points, _ in order]))
    return _matched(face, kept, target, mirrored)


def _matched(face: Face, kept: Sequence[Letterform], target: Target, mirrored: bool) -> Match:
    """What letters account for of the outlines."""
    near = explained_by(face, kept, target)
    size = np.linalg.norm(target.ends - target.starts, axis=1)
    whole = np.bincount(target.ring, weights=size, minlength=len(target.path))
    known = np.bincount(target.ring, weights=size * near.within, minlength=len(target.path))
    rings = tuple(np.flatnonzero(known >= RING_KNOWN * whole).tolist())
    unclear = tuple(np.flatnonzero((known >= RING_TOUCHED * whole) & (known < RING_KNOWN * whole)).tolist())
    touched = known >= RING_TOUCHED * whole
    sure = float(known[touched].sum() / whole[touched].sum()) if touched.any() else 0.0
    explained = float(size[near.within].sum() / size.sum())
    off = float(near.off[near.within].max(initial=0.0))
    return Match(face, tuple(kept), explained, sure, off, rings, unclear, mirrored)


def _one_a_place(order: Sequence[tuple[Letterform, float, Floats]]) -> list[list[Letterform]]:
    """The letters, best first, each followed by others that fit the same outline as well; none on another's outline."""
    kept: list[list[Letterform]] = []
    lengths_on: list[float] = []
    points_on: list[Floats] = []
    for form, on, points in order:
        if points_on:
            owner = np.repeat(np.arange(len(points_on)), [len(known) for known in points_on])
            away, nearest = scipy.spatial.cKDTree(np.concatenate(points_on)).query(points)
            near = np.asarray(away <= form.em_mm / 60)
            if near.sum() > 0.5 * len(points):
                whose = int(np.bincount(owner[np.asarray(nearest)[near]]).argmax())
                if near.mean() > 0.9 and on >= 0.97 * lengths_on[whose]:
                    kept[whose].append(form)
                continue
        kept.append([form])
        lengths_on.append(on)
        points_on.append(points)
    return kept


def _by_neighbours(face: Face, groups: list[list[Letterform]]) -> list[Letterform]:
    """One letter of each group: an I and an l that are the same bar stand differently far from their neighbours."""
    font = open_face(face)
    em = font.face.upem

    def end(form: Letterform) -> complex:
        return complex(*form.matrix.transformPoint((font.get_glyph_h_advance(form.glyph) / em, 0.0)))

    space = font.get_glyph_h_advance(font.get_nominal_glyph(ord(" ")) or 0) / em
    chosen = [group[0] for group in groups]
    for number, group in enumerate(groups):
        if len(group) < 2:
            continue
        others = chosen[:number] + chosen[number + 1 :]

        def misfit(form: Letterform, others: list[Letterform] = others) -> float:
            """How far from where the nearest neighbours' pens leave off and begin, or a space from there."""
            before = min((abs(form.origin - end(other)) for other in others), default=0.0) / form.em_mm
            after = min((abs(end(form) - other.origin) for other in others), default=0.0) / form.em_mm
            return sum(min(gap, abs(gap - space), 0.5) for gap in (before, after))

        chosen[number] = min(group, key=misfit)
    return chosen


def _hypotheses(votes: Votes) -> Iterator[tuple[int, complex, complex, float]]:
    """Glyph, a, b and weight of likenesses that agree where a glyph stands, the weightiest first."""
    if not len(votes.glyph):
        return
    cell = 0.06 * float(np.median(np.abs(votes.a)))
    turn = np.round(np.angle(votes.a) / 0.1)
    keys = np.stack([votes.glyph, np.floor(votes.b.real / cell), np.floor(votes.b.imag / cell), turn])
    owner = np.unique(keys, axis=1, return_inverse=True)[1].reshape(-1)
    total = np.bincount(owner, weights=votes.weight)
    order = np.lexsort((-votes.weight, owner))
    lead = order[np.flatnonzero(np.diff(owner[order], prepend=-1))]  # the weightiest of each
    for group in np.argsort(-total)[:MOST_TRIED].tolist():
        row = lead[group]
        yield int(votes.glyph[row]), complex(votes.a[row]), complex(votes.b[row]), float(total[group])


MOST_TRIED = 400
LEAST_VOTED = 0.08
"""A letter is tried where at least so much of its boundary voted for it."""


def _baseline(forms: list[tuple[Letterform, float]]):  # type: ignore[no-untyped-def]
    """Whether a letter stands on the baseline that most of the length of these stands on."""
    turns = np.array([form.turn for form, _ in forms])
    weights = np.array([length for _, length in forms])
    turn = turns[weights.argmax()]
    off = np.array([(form.origin * np.exp(-1j * turn)).imag for form, _ in forms])
    em = forms[0][0].em_mm
    votes = [(weights * (np.abs(off - own) < 0.02 * em)).sum() for own in off]
    line = off[int(np.argmax(votes))]
    return lambda form: bool(abs((form.origin * np.exp(-1j * turn)).imag - line) < 0.02 * em)


def without(path: Path, rings: Sequence[int]) -> Path:
    """A path without these of its subpaths."""
    return path.select(np.setdiff1d(np.arange(len(path)), rings))


def joined_path(paths: Sequence[Path]) -> tuple[Path, Ints]:
    """Closed subpaths of several paths as one, and for each which path it came from and which of its subpaths it
    was.
    """
    closed = [path.select(path.closed) for path in paths]
    origin = [(number, ring) for number, path in enumerate(paths) for ring in np.flatnonzero(path.closed).tolist()]
    return concat(closed), np.array(origin, np.intp).reshape(-1, 2)
