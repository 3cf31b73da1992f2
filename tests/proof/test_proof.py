"""The proof: an independent reader's view of written files."""

import math

import pytest

from tests.builders import circle, outline, ring, sheet, square
from unkelt.errors import InputError
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.path import concat
from unkelt.job.ticket import Ticket, parse_ticket
from unkelt.proof.dry_run import cut_twice_mm
from unkelt.proof.import_svg import import_svg
from unkelt.proof.imported import Body
from unkelt.proof.motion import dry_run
from unkelt.proof.proof import prove


def proof_of(tmp_path, on, ticket=None):
    path = tmp_path / "out.svg"
    path.write_bytes(write_svg(on))
    return prove(path, ticket or Ticket())


def test_a_clean_body(tmp_path):
    proof = proof_of(tmp_path, sheet(outline("o", ring(20, 10, 50, 50))))
    assert (proof.verdict, proof.bodies, proof.pieces, proof.counters, proof.subpaths, proof.nodes) == (
        "clean",
        1,
        1,
        1,
        2,
        8,
    )
    assert proof.size_mm == pytest.approx((40, 40), abs=1e-4)
    assert proof.cut_length_mm == pytest.approx(2 * math.pi * 30, rel=2e-4)
    assert proof.cut_twice_mm == 0


@pytest.mark.parametrize(
    ("items", "words"),
    [
        ((outline("a", square()), outline("b", square(10, 5, 5))), "overlap.items: Outlines overlap at 1 joint"),
        ((outline("a", square()), outline("b", square())), "path.duplicate: "),
        ((outline("a", concat([square(30), square(10, 5, 5)])),), "compound.winding: 1 ring depends on the fill rule"),
        ((), "job.empty: Nothing to cut"),
    ],
)
def test_reasons_to_hold(tmp_path, items, words):
    proof = proof_of(tmp_path, sheet(*items))
    assert proof.verdict == "hold"
    assert any(words in reason for reason in proof.reasons)


def test_what_is_cut_twice_is_measured_in_each_material(tmp_path):
    shared = proof_of(tmp_path, sheet(outline("a", square()), outline("b", square(10, 10))))
    assert shared.cut_twice_mm == pytest.approx(10, abs=0.2)
    other = proof_of(tmp_path, sheet(outline("a", square()), outline("b", square(10, 10), fill="#ff0000")))
    assert other.cut_twice_mm == 0


def test_lines_that_only_cross_are_not_cut_twice():
    assert cut_twice_mm([square(), square(10, 5, 5), circle(8)], 0.01, 0.005) == 0


def test_text_open_subpaths_and_size(tmp_path):
    path = tmp_path / "a.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="50mm" viewBox="0 0 50 50"><text y="9">Tern</text>'
        '<path fill="none" stroke="#000" d="M0 0H30V30"/></svg>'
    )
    proof = prove(path, Ticket())
    assert proof.text_left == 1
    assert proof.reasons == ("text.live: one live text is ignored and arrives blank",)
    keyed = prove(path, parse_ticket('[key]\ncut = ["#000000"]'))
    assert {reason.split(":")[0] for reason in keyed.reasons} == {"text.live", "path.open", "line.width"}
    wanted = parse_ticket('[size]\nwidth = "90 mm"')
    assert any(
        "30.00 mm wide" in reason for reason in proof_of(tmp_path, sheet(outline("a", square(30))), wanted).reasons
    )


def test_the_independent_reader_sees_colours_sizes_and_rules(tmp_path):
    path = tmp_path / "a.svg"
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="2in" height="1in" viewBox="0 0 200 100"><g transform="scale(2)">'
        '<rect width="50" height="25" fill="none" stroke="#ff0000"/><circle r="5" fill-rule="evenodd" fill="#00f"/></g></svg>'
    )
    found = import_svg(path)
    assert found.page_mm == pytest.approx((50.8, 25.4))
    rect, disc = found.bodies
    assert (rect.stroke, disc.fill, disc.even_odd) == ("#ff0000", "#0000ff", True)
    assert rect.path.points.max() == pytest.approx(25.4)


@pytest.mark.parametrize("data", [b"", b"not xml", b"<svg", b"<html/>", b"\x00\x01"])
def test_what_cannot_be_read(tmp_path, data):
    (tmp_path / "a.svg").write_bytes(data)
    with pytest.raises(InputError, match=r"a\.svg"):
        import_svg(tmp_path / "a.svg")
    for path in (tmp_path, tmp_path / "none.svg"):
        with pytest.raises(InputError):
            import_svg(path)


def test_time_grows_with_length_nodes_and_pierces():
    def seconds(*paths):
        return dry_run([Body(path, None, "#000000", False) for path in paths], Ticket()).seconds

    assert seconds(circle(10), circle(10, 100)) > 1.5 * seconds(circle(10))  # the same twice, and the way between
    assert seconds(circle(10, arcs=64)) > seconds(circle(10))
