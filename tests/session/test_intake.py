"""The facts of a file, as Intake and `unkelt check` tell them."""

import pytest

from tests.builders import SHELF
from unkelt.app.received import intake
from unkelt.formats.svg.read import parse_svg
from unkelt.job.ticket import Ticket

NS = 'xmlns="http://www.w3.org/2000/svg"'


def facts(inside: str, head: str = 'width="90mm" height="40mm" viewBox="0 0 90 40"'):
    return intake(parse_svg(f"<svg {NS} {head}>{inside}</svg>".encode()), Ticket(), SHELF)


def test_page_units_and_counts():
    found = facts(
        '<g><rect width="9" height="4"/><path d="M0 0h9" display="none"/></g><image width="1" height="1" href="data:"/>'
    )
    assert dict(found.file) == {
        "kind": "SVG",
        "units as written": "mm",
        "units as understood": "mm",
        "page": "90.00 × 40.00 mm",
        "drawing": "9.00 × 4.00 mm",
    }
    contents = dict(found.contents)
    assert (contents["outlines"], contents["pictures"], contents["groups"], contents["hidden outlines"]) == (
        "2",
        "1",
        "1",
        "1",
    )
    assert found.sure


def test_faces_named_and_found():
    found = facts(
        '<text font-family="Barlow" font-weight="600">a</text><text font-family="Quayside" font-style="italic">b</text>'
        '<text font-family="Barlow" font-weight="600">c</text><text>d</text>'
    )
    assert [(face.name, face.found, face.texts) for face in found.faces] == [
        ("Barlow 600", "Barlow SemiBold, bundled", 2),
        ("Quayside italic", None, 1),
        ("no face named", None, 1),
    ]


@pytest.mark.parametrize(
    ("head", "sure", "likely", "page"),
    [
        ('width="595" height="842"', False, "72 to the inch", "page 209.9 × 297.0 mm"),
        ('viewBox="0 0 96 96"', False, "96 to the inch", "page 25.4 × 25.4 mm"),
        ('width="744.09px" height="1052.36px"', False, "90 to the inch", "page 210.0 × 297.0 mm"),
    ],
)
def test_the_choices_of_units_and_the_likely_one(head, sure, likely, page):
    found = facts("", head)
    assert (found.sure, found.likely) == (sure, likely)
    assert page in dict(found.units)[likely]


def test_remarks_are_sentences():
    found = facts('<use href="#a"/><use href="#b"/><blink/>')
    assert len(found.remarks) == 3
    assert all(remark.strip() and "\n" not in remark for remark in found.remarks)
