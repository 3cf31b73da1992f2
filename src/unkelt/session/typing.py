"""Places and sizes that are typed beside the frame, as steps."""

from __future__ import annotations

import re

from unkelt.geometry.measure import Box
from unkelt.messages import say
from unkelt.recipe import Call
from unkelt.session.reading import Unit
from unkelt.units import parse_length


def length_in(text: str, unit: Unit) -> float:
    """A length in mm; a bare number is in the unit that is shown. Raises LengthError."""
    bare = re.fullmatch(r"\s*[-+−]?\d+(?:[.,]\d+)?\s*", text)
    return parse_length(f"{text.strip()} {unit.name}" if bare else text)


def typed_call(field: str, text: str, box: Box, unit: Unit, items: tuple[str, ...], *, keep: bool) -> Call | None:
    """The step that gives what is chosen the left edge, upper edge, width, height or turn that was typed; None where it
    has it already. Raises LengthError or ValueError, in words for people.
    """
    if field == "turn":
        found = re.fullmatch(r"\s*([-+−]?\d+(?:[.,]\d+)?)\s*°?\s*", text)
        if found is None:
            raise ValueError(say("“{text}” is no angle such as 15 or -7.5", text=text))
        angle = float(found[1].replace(",", ".").replace("−", "-"))
        return Call("rotate", items, None, {"angle": angle}) if angle % 360 else None
    wanted = length_in(text, unit)
    if field in ("x", "y"):
        by = wanted - box[0 if field == "x" else 1]
        if abs(by) < 1e-6:
            return None
        return Call("move", items, None, {"right" if field == "x" else "down": f"{round(by, 6):g} mm"})
    if wanted <= 0:
        raise ValueError("a size must be greater than zero")
    options: dict[str, object] = {"width" if field == "w" else "height": text if _has_unit(text) else f"{wanted:g} mm"}
    if not keep:
        options["uneven"] = True
    return Call("scale", items, None, {**options, "fixed": "top-left"})


def _has_unit(text: str) -> bool:
    return bool(re.search("[a-z\"']", text, re.IGNORECASE))
