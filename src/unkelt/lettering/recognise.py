"""Whether rings are letters of a bundled face: a quick answer, for shapes that may be letters or may not."""

from __future__ import annotations

from functools import lru_cache

from unkelt.geometry.memo import Memo, shape_key
from unkelt.geometry.path import Path
from unkelt.lettering.faces import Shelf
from unkelt.lettering.identify import identify
from unkelt.lettering.prints import Prints, prints_of
from unkelt.lettering.shelves import bundled_faces

EXPLAINED = 0.95
"""A face must account for so much of all that is drawn."""

MOST_RINGS = 400
"""More rings than this are a page of text, which nobody asks about."""

_KNOWN: Memo[bool] = Memo(2_000)


def are_letters(path: Path) -> bool:
    """Whether all closed subpaths of a path are letters of one bundled face, with their counters where they belong."""
    if not len(path) or len(path) > MOST_RINGS or not path.closed.all():
        return False
    return _KNOWN.get(shape_key(path), lambda: _asked(path))


def _asked(path: Path) -> bool:
    found = identify(path, Shelf(bundled_faces()), _prints())
    return any(match.explained >= EXPLAINED and len(match.rings) == len(path) for match in found)


@lru_cache(maxsize=1)
def _prints() -> Prints:
    return prints_of(bundled_faces())
