"""Faces in the order in which they may stand in for one that isn't there. Nothing is chosen here: a person does."""

from __future__ import annotations

import difflib
from dataclasses import replace

from unkelt.lettering.faces import Face, Shelf, width_percent
from unkelt.sheet.model import FaceQuery, Lettering


def by_nearness(query: FaceQuery, shelf: Shelf) -> list[Face]:
    """All faces of the shelf: the family itself first, then what the text itself names as stand-ins, then by how alike
    the names are; among equals the one nearest in slant, weight and width, bundled ones first.
    """
    families = [family.casefold() for family in query.families]
    wanted = families[0] if families else ""
    matcher = difflib.SequenceMatcher(b=wanted, autojunk=False)
    alike: dict[str, float] = {}

    def likeness(family: str) -> float:
        if family not in alike:
            matcher.set_seq1(family)
            shared = set(family.split()) & set(wanted.split())
            alike[family] = round(matcher.ratio(), 1) + (1.0 if shared else 0.0)
        return alike[family]

    def order(face: Face) -> tuple[object, ...]:
        family = face.family.casefold()
        named = families.index(family) if family in families else len(families)
        return (
            named,
            -likeness(family),
            family if named < len(families) else "",
            face.italic != query.italic,
            abs(face.weight - query.weight),
            abs(face.width - width_percent(query.stretch)),
            not face.bundled,
            family,
        )

    return sorted(shelf.faces, key=order)


def in_face(lettering: Lettering, face: Face) -> Lettering:
    """The same words set in a face, whatever its name is on a shelf."""
    stretch = "normal" if face.width == 100 else f"{face.width:g}%"
    query = FaceQuery((face.family,), face.weight, face.italic, stretch)
    return replace(lettering, runs=tuple(replace(run, face=query) for run in lettering.runs), drawn=())


def alone(face: Face) -> Shelf:
    """A shelf with nothing but one face."""
    return Shelf((face,))
