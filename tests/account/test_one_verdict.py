"""Check, proof and the job come to one verdict on every file of the demonstration, before and after mending."""

from pathlib import Path

import pytest

from tests.account.art import held
from tests.builders import workshop
from unkelt.demo import make_demo
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.job.ticket import Ticket, read_ticket
from unkelt.mending import mend
from unkelt.proof.proof import prove
from unkelt.survey.checks import survey
from unkelt.verdict.case import Case
from unkelt.verdict.judge import findings_of

READING = {"text.live", "text.font-missing", "text.glyph-missing", "content.reference", "content.picture", "size.units"}
"""What holds of a file as it was received, and is no longer to be seen in one that is written."""


@pytest.fixture(scope="module")
def quay(tmp_path_factory):
    folder = tmp_path_factory.mktemp("quay")
    make_demo(folder)
    return folder


@pytest.mark.parametrize(
    "name",
    [
        "berth-12",
        "berth-tag",
        "big-letter",
        "fascia",
        "kittiwake",
        "life-ring",
        "parcel",
        "port-arc",
        "porthole",
        "sea-thrift",
        "snapshot",
        "tags",
    ],
)
def test_one_verdict_on_the_demonstration(quay, tmp_path, name):
    path = quay / f"{name}.svg"
    ticket = path.with_suffix(".toml")
    shop = workshop(read_ticket(ticket) if ticket.is_file() else Ticket())
    original = read_sheet(path)
    case = Case(Path(path), original, shop, tuple(mend(original, shop)))
    for on, job in ((original, held(survey(original, shop))), (case.sheet, held(findings_of(case)))):
        out = tmp_path / "a.svg"
        out.write_bytes(write_svg(on))
        checked = held(survey(parse_svg(out.read_bytes()), shop))
        proven = {reason.split(":")[0] for reason in prove(out, shop.ticket).reasons}
        assert checked - READING == proven - READING == job - READING
