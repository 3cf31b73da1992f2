"""Whether rings are letters of a bundled face: a quick answer, for shapes that may be letters or may not."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from unkelt.geometry.memo import Memo, shape_key
from unkelt.geometry.path import Path
from unkelt.lettering.identify import ring_votes
from unkelt.lettering.prints import Prints, prints_of
from unkelt.lettering.shelves import bundled_faces

MOST_RINGS = 400
"""More rings than this are a page of text, which nobody asks about."""

SAME_PLACE = 0.02
"""Two rings are of one letter where both say that it stands in the same place, to this share of its em, and as large."""

_KNOWN: Memo[bool] = Memo(2_000)


def are_letters(path: Path) -> bool:
    """Whether every closed subpath of a path is a ring of some letter of a bundled face that another one is a ring of, too: a bowl
    and its counter where that letter has them.
    """
    if len(path) < 2 or len(path) > MOST_RINGS or not path.closed.all():
        return False
    return _KNOWN.get(shape_key(path), lambda: any(_asked(path, mirrored) for mirrored in (False, True)))


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
