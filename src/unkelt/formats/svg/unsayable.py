"""Why a live text can't be written as SVG text and look the same."""

from __future__ import annotations

from unkelt.sheet.model import Lettering

_STANDING = {
    "upright": "live text in SVG can't stand upright on a line",
    "slanted": "live text in SVG can't slant along a line",
}


def unsayable(text: Lettering) -> str:
    """In words for people; empty where SVG says all of it."""
    if any(run.look.stroke and run.look.stroke_side != "centre" for run in text.runs):
        return "live text in SVG can't have a stroke on one side of its edges"
    if any(run.slant_deg or run.width != 1 for run in text.runs):
        return "live text in SVG can't slant or stretch single letters"
    return _STANDING.get(text.guide.stand, "") if text.guide is not None else ""
