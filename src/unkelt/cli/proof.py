"""`unkelt proof`: a file read as an importer would, and cut in thought."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from unkelt.cli.common import OnFiles, say_json
from unkelt.cli.progress_line import Working
from unkelt.cli.speaking import FAINT, HOLD, coloured, say_rows, verdict_line
from unkelt.cli.status import Status
from unkelt.job.ticket import Ticket
from unkelt.proof.imported import as_sheet
from unkelt.proof.importer import import_file
from unkelt.proof.proof import Proof, as_meant, judge, prove
from unkelt.proof.standin import StandIn, stand_ins
from unkelt.report import proof_report

TOLD_MM = 0.05
"""What is cut twice is told from this length on."""


@dataclass(frozen=True, kw_only=True)
class Asked(OnFiles):
    """`unkelt proof`: what was asked for."""

    file: Path
    importer: str | None = None
    destination: str | None = None

    def reader(self, ticket: Ticket) -> StandIn | None:
        """Who is to read the file: a stand-in, or the ticket's destination; None for a plain importer. Raises
        InputError.
        """
        if self.destination is not None:
            (destination,) = ticket.sent_to([self.destination])
            return StandIn(destination.habits)
        return stand_ins()[self.importer] if self.importer else None


def run(asked: Asked) -> int:
    """Reads written files as importing does, and says what it finds; the exit status."""
    ticket = asked.ticket_for(asked.file).ticket
    reader = asked.reader(ticket)
    with Working(f"Reading {asked.file.name} back"):
        if reader is not None:
            proof = judge(str(asked.file), reader.read(asked.file), ticket)
            proof = as_meant(proof, as_sheet(import_file(asked.file), ticket.key), ticket)
        else:
            proof = prove(asked.file, ticket)
    if asked.json:
        say_json(proof_report(proof))
    else:
        _say(proof)
    return Status.HOLD if proof.reasons else Status.CLEAN


def _say(proof: Proof) -> None:
    print(verdict_line(proof.path, len(proof.reasons), 0))
    for reason in proof.reasons:
        code, _, words = reason.partition(": ")
        print(f"  {coloured('on hold', HOLD)}   {words} {coloured(f'({code})', FAINT)}")
    counts = (
        (proof.bodies, "body", "bodies"),
        (proof.pieces, "piece", "pieces"),
        (proof.counters, "counter", "counters"),
        (proof.subpaths, "subpath", "subpaths"),
        (proof.nodes, "node", "nodes"),
    )
    words = ", ".join(f"{count} {one if count == 1 else several}" for count, one, several in counts)
    rows = [("Read", f"{proof.size_mm[0]:.2f} × {proof.size_mm[1]:.2f} mm, {words}")]
    rows += [
        (each.operation.value.capitalize(), f"{each.length_mm / 1000:.2f} m, about {each.seconds:.0f} s")
        for each in proof.work
    ]
    twice = f", {proof.cut_twice_mm:.1f} mm is cut twice" if proof.cut_twice_mm >= TOLD_MM else ""
    say_rows([*rows, ("Altogether", f"about {proof.seconds:.0f} s{twice}")])
