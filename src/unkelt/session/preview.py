"""What a step would do to the sheet: figures now → after, and the proof in words. Made off the interface thread."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from unkelt.errors import StepRefused
from unkelt.geometry.measure import Box
from unkelt.language import grouped
from unkelt.lettering.prints import Progress, kept_prints
from unkelt.recipe import Call, apply
from unkelt.sheet.extent import measured_box
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Sheet
from unkelt.steps.step import Evidence, Outcome
from unkelt.survey.check import Workshop


@dataclass(frozen=True, slots=True)
class Row:
    """A line of the figures table. `changed` where now and after differ."""

    name: str
    now: str
    after: str

    @property
    def changed(self) -> bool:
        return self.now != self.after


@dataclass(frozen=True)
class Preview:
    """The call, what came of it, and the words to show: `proof` on success, `refusal` otherwise; `marks` are places to look at."""

    call: Call
    outcome: Outcome | None
    rows: tuple[Row, ...]
    proof: tuple[str, ...]
    refusal: str | None = None
    marks: tuple[Box, ...] = ()


def preview(call: Call, sheet: Sheet, workshop: Workshop, progress: Progress | None = None) -> Preview:
    """Tries a step and says what it would change. Never raises for a refusal: that is part of the answer."""
    if call.name == "recover-text":  # the one step that may have to look at a whole shelf first
        kept_prints(workshop.shelf.faces, progress)
    try:
        outcome = apply(call, sheet, workshop)
    except StepRefused as problem:
        return Preview(call, None, _rows(sheet, sheet, workshop), (), problem.reason, problem.marks)
    rows = _rows(sheet, outcome.sheet, workshop)
    return Preview(call, outcome, rows, proof_lines(outcome.evidence), marks=outcome.marks)


def _rows(now: Sheet, after: Sheet, workshop: Workshop) -> tuple[Row, ...]:
    before, then = (figures(sheet.outlines(), workshop.ticket.tolerance) for sheet in (now, after))
    rows = [
        Row("texts", str(len(now.letterings())), str(len(after.letterings()))),
        Row("outlines", str(before.outlines), str(then.outlines)),
        Row("subpaths", str(before.subpaths), str(then.subpaths)),
        Row("counters", str(before.counters), str(then.counters)),
        Row("nodes", grouped(before.nodes), grouped(then.nodes)),
        Row("area, mm²", grouped(before.area_mm2, 1), grouped(then.area_mm2, 1)),
        Row("cut length, mm", grouped(before.cut_length_mm), grouped(then.cut_length_mm)),
    ]
    boxes = [measured_box(sheet, workshop.ticket) for sheet in (now, after)]
    widths = [f"{box[2] - box[0]:.2f}" if box else "–" for box in boxes]
    rows.append(Row("ink width, mm", widths[0], widths[1]))
    return tuple(row for row in rows if row.changed or row.name == "counters")


def proof_lines(evidence: Evidence) -> tuple[str, ...]:
    """The evidence of a step as a headline and details."""
    lines: list[str] = []
    if "area_second_engine_mm2" in evidence:
        first, second = float(evidence["area_mm2"]), float(evidence["area_second_engine_mm2"])
        share = abs(first - second) / second * 100 if second else 0.0
        lines += ["Proven by a second engine", f"area within {max(math.ceil(share * 1e4), 1) / 1e4:.4f} %"]
    if "counters_kept" in evidence:
        lines.append(_counters(evidence))
    if "width_before_mm" in evidence and "words" in evidence:
        was, now = float(evidence["width_before_mm"]), float(evidence["width_after_mm"])
        lines += ["Set with the face's own shaping", f"ink {was:.2f} → {now:.2f} mm wide"]
    if "amount_per_side_mm" in evidence:
        amount, off = float(evidence["amount_per_side_mm"]), float(evidence["max_deviation_mm"])
        lines.append(f"every edge moved by {amount:.3g} mm, to within {_small(off)}")
        if "largest_amount_mm" in evidence:
            lines.append(f"up to {float(evidence['largest_amount_mm']):.3g} mm closes no counter")
    elif "max_deviation_mm" in evidence:
        moved = float(evidence["max_deviation_mm"])
        bound = "no line moves" if moved == 0 else f"no line moves more than {_small(moved)}"
        lines.append(bound if lines else f"Certified: {bound}")
    if "sure_percent" in evidence:
        lines = [
            f"{evidence['face']}, {float(evidence['sure_percent']):.0f} % sure",
            f"reads “{evidence['words']}”",
            *lines,
        ]
        lines += [f"as likely: {evidence['as_well']}"] if "as_well" in evidence else []
    elif "face" in evidence:
        lines.insert(0, f"Curves as designed: {evidence['face']}")
    if "factor" in evidence:
        lines += [f"Scaled by {float(evidence['factor']):.5f}", "proportions kept, measured again on the curves"]
    return tuple(lines)


def _counters(evidence: Mapping[str, float | int | str]) -> str:
    if back := int(evidence.get("counters_restored", 0)):
        return f"{back} counter{'s' if back > 1 else ''} put back, proven by a second engine"
    closed, new = int(evidence["counters_closed"]), int(evidence["counters_new"])
    words = f"{evidence['counters_kept']} of {evidence['counters_before']} counters kept"
    return "".join([words, f", {closed} closed" if closed else "", f", {new} new" if new else ""])


def _small(mm: float) -> str:
    return f"{mm * 1000:.1f} µm" if mm < 0.1 else f"{mm:.2f} mm"
