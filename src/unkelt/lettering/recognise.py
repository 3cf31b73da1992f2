"""Letters known by their rings alone: a quick answer, for shapes that may be letters or may not, and to read back what
was set.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from unkelt.geometry.alike import shape_key
from unkelt.geometry.cache import Topic
from unkelt.geometry.path import Path, concat
from unkelt.lettering.faces import Face
from unkelt.lettering.identify import ring_votes
from unkelt.lettering.prints import Prints, prints_of, readable
from unkelt.lettering.shelves import bundled_faces

MOST_RINGS = 400
"""More rings than this are a page of text, which nobody asks about."""

SAME_PLACE = 0.02
"""Two rings are of one letter where both say that it stands in the same place, to this share of its em, and as large.
"""

_LETTERS: Topic[bool] = Topic("shapes that are letters", 2_000)


def are_letters(path: Path) -> bool:
    """Whether every closed subpath of a path is a ring of some letter of a bundled face that another one is a ring of,
    too: a bowl and its counter where that letter has them.
    """
    if len(path) < 2 or len(path) > MOST_RINGS or not path.closed.all():
        return False
    return _LETTERS.get(shape_key(path), lambda: any(_asked(path, mirrored) for mirrored in (False, True)))


def letter_by_letter(letters: Sequence[Path], face: Face, em_mm: float) -> list[set[str]]:
    """What each of some outlines may be in a face at a size: all that have its rings; none of what isn't known, or has
    no letter.
    """
    texts, prints = readable(face), prints_of((face,))
    owner = np.repeat(np.arange(len(letters)), [len(path) for path in letters])
    votes = ring_votes(concat(letters), prints, mirrored=False)
    known = np.abs(np.abs(votes.a) - em_mm) < SAME_PLACE * em_mm
    of = owner[votes.asker]
    options: list[set[str]] = [set() for _ in letters]
    rows = np.flatnonzero(known)
    order = rows[np.lexsort((votes.glyph[rows], of[rows]))]
    begins = np.flatnonzero(np.diff(of[order], prepend=-1) | np.diff(votes.glyph[order], prepend=-1))
    for group in np.split(order, begins[1:]) if len(order) else []:
        letter, glyph = int(of[group[0]]), int(votes.glyph[group[0]])
        rings = len(set(votes.asker[group].tolist()))
        if glyph in texts and rings == len(letters[letter]) == int((prints.ring_glyph == glyph).sum()):
            options[letter].add(texts[glyph])
    return options


def _asked(path: Path, mirrored: bool) -> bool:
    votes = ring_votes(path, _prints(), mirrored)
    order = np.lexsort((votes.b.imag, votes.b.real, votes.glyph, votes.face))
    agreed: set[int] = set()
    glyphs = np.flatnonzero(np.diff(votes.face[order], prepend=-1) | np.diff(votes.glyph[order], prepend=-1))
    for rows in np.split(order, glyphs[1:]):
        askers = votes.asker[rows]
        if len(set(askers.tolist())) < 2:
            continue
        a, b = votes.a[rows], votes.b[rows]
        near = np.abs(b[:, None] - b) < SAME_PLACE * np.abs(a)
        alike = near & (np.abs(a[:, None] - a) < SAME_PLACE * np.abs(a)) & (askers[:, None] != askers)
        agreed |= set(askers[alike.any(axis=1)].tolist())
    return len(agreed) == len(path)


@lru_cache(maxsize=1)
def _prints() -> Prints:
    return prints_of(bundled_faces())
