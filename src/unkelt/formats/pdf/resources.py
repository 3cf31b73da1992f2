"""What a PDF says of a page beside its objects: patterns, blending, layers that are switched off, limits of mitres."""

from __future__ import annotations

import io
import logging
import math
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from pypdf import PdfReader

from unkelt.formats.limits import DEEPEST_FORM

Raw = Any
"""Something of pypdf, which has no types for what is in a file."""


USUAL_LIMIT = 10.0
"""Where mitres are cut off by default (ISO 32000-1, table 52)."""

_LIMIT = re.compile(rb"(?<![\w.])(\d+\.?\d*|\.\d+)\s+M(?=\s|$)")

_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Resources:
    """Whether a page, or a form on it, names patterns and whether it names blend modes, masks or opacities of forms;
    where it cuts off mitres; the names of layers that are off, and of those of which one is off and one is not; its
    unit in points, None where none of this can be told.
    """

    patterns: bool = False
    blends: bool = False
    limits: frozenset[float] = field(default_factory=frozenset)
    off: frozenset[str] = field(default_factory=frozenset)
    doubtful: frozenset[str] = field(default_factory=frozenset)
    unit: float | None = None

    @property
    def mitre_limit(self) -> float:
        """The one limit that the page names, or the usual one: which of several is meant where can't be told."""
        return next(iter(self.limits)) if len(self.limits) == 1 else USUAL_LIMIT

    @property
    def several_limits(self) -> bool:
        """Whether it names more than one."""
        return len(self.limits) > 1


def resources_of(data: bytes, page: int) -> Resources:
    """What a page, counted from 0, has; nothing where that can't be told."""
    try:
        reader = PdfReader(io.BytesIO(data))
        opened = reader.pages[page]
        unit = float(_at(opened, "/UserUnit", 1.0))
        every = list(_all(opened.get("/Resources")))
        root: Raw = reader.trailer["/Root"].get_object()
        off, on = _layers(_at(root, "/OCProperties", None))
        streams = [opened.get_contents(), *(form for own in every for form in _forms(own))]
        limits = {
            float(found[1]) for stream in streams if stream is not None for found in _LIMIT.finditer(stream.get_data())
        }
    except Exception as problem:
        _log.info("the page's resources can't be told: %r", problem)
        return Resources()
    states = [state.get_object() for own in every for state in _entries(own, "/ExtGState")]
    groups = any("/Group" in form for own in every for form in _forms(own))
    limits |= {float(state["/ML"]) for state in states if "/ML" in state}
    return Resources(
        any(_entries(own, "/Pattern") for own in every),
        groups and any(map(_blends, states)),
        frozenset(limits),
        off - on,
        off & on,
        unit if math.isfinite(unit) and unit > 0 else 1.0,
    )


def _all(resources: Raw, depth: int = 0) -> Iterator[Raw]:
    """The resources of a page and of all forms on it."""
    if resources is None or depth > DEEPEST_FORM:
        return
    own = resources.get_object()
    yield own
    for form in _forms(own):
        yield from _all(form.get("/Resources"), depth + 1)


def _forms(resources: Raw) -> list[Raw]:
    found = [each.get_object() for each in _entries(resources, "/XObject")]
    return [each for each in found if _at(each, "/Subtype", "") == "/Form"]


def _entries(resources: Raw, name: str) -> list[Raw]:
    held = _at(resources, name, {})
    return list(held.values()) if isinstance(held, dict) else []


def _at(holder: Raw, name: str, otherwise: Raw) -> Raw:
    """What a dictionary says under a name, there or in an object of its own."""
    return holder[name].get_object() if name in holder else otherwise


def _blends(state: Raw) -> bool:
    """Whether a graphics state blends, masks or is translucent (ISO 32000-1, table 58)."""
    mode = _at(state, "/BM", "/Normal")
    if isinstance(mode, list):
        mode = mode[0] if mode else "/Normal"
    return (
        mode not in ("/Normal", "/Compatible")
        or _at(state, "/SMask", "/None") != "/None"
        or min(float(_at(state, "/ca", 1)), float(_at(state, "/CA", 1))) < 1
    )


def _layers(said: Raw) -> tuple[frozenset[str], frozenset[str]]:
    """The names of the optional content groups that are off when a file is opened, and of those that are on (ISO
    32000-1, 8.11.4.3).
    """
    if said is None:
        return frozenset(), frozenset()
    usual = _at(said, "/D", {})
    switched = {key: {group.idnum for group in _at(usual, key, ())} for key in ("/ON", "/OFF")}
    base_off = _at(usual, "/BaseState", "/ON") == "/OFF"
    off: set[str] = set()
    on: set[str] = set()
    for group in _at(said, "/OCGs", ()):
        is_off = group.idnum in switched["/OFF"] or (base_off and group.idnum not in switched["/ON"])
        (off if is_off else on).add(str(group.get_object().get("/Name", "")))
    return frozenset(off), frozenset(on)
