"""The working file: reopened it is the same job; without its face it keeps its outlines; damaged it is refused."""

import io
import zipfile

import pytest

from unkelt.demo import make_demo
from unkelt.errors import InputError
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.job.ticket import read_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.shelves import bundled_faces
from unkelt.mending import mend
from unkelt.recipe import Call, apply
from unkelt.release.delivering import in_package
from unkelt.release.package import release
from unkelt.session.job import open_job
from unkelt.session.states import lettering_stage
from unkelt.session.working_file import open_working, save_working
from unkelt.sheet.model import Outline
from unkelt.survey.checks import survey
from unkelt.survey.finding import Level, with_accepted

SHELF = Shelf(bundled_faces())


@pytest.fixture
def job(tmp_path):
    make_demo(tmp_path)
    opened = open_job(tmp_path / "sea-thrift.svg", Workshop(read_ticket(tmp_path / "sea-thrift.toml"), SHELF))
    return opened.with_stages(tuple(mend(opened.sheet, opened.workshop)))


def test_reopened_it_is_the_same_sheet_to_the_last_bit_with_its_text_behind_it(job, tmp_path):
    save_working(job, tmp_path / "a.unkelt")
    first = (tmp_path / "a.unkelt").read_bytes()
    save_working(job, tmp_path / "a.unkelt")
    assert (tmp_path / "a.unkelt").read_bytes() == first
    received = job.path.read_bytes()
    job.path.unlink()  # the working file holds all it needs
    again, words = open_working(tmp_path / "a.unkelt", SHELF)
    assert words == ""
    assert again.sheet.items == job.sheet.items
    assert again.recipe == job.recipe
    assert again.ticket == job.ticket
    assert not again.unsaved_changes
    (body,) = again.sheet.outlines()
    assert body.origin.text == "Sea Thrift"
    assert lettering_stage(again, body.id) == 0
    corrected, _ = again.with_step_at(0, Call("set-text", options={"text": "Sea Swift"}))
    assert corrected.sheet.outlines()[0].letters == "SeaSwift"
    package = release(again.case, tmp_path / "out", in_package([".svg"]))
    assert (package.folder / "original" / "sea-thrift.svg").read_bytes() == received
    assert b"<text" not in (package.folder / "Sea-Thrift-transom.svg").read_bytes()


def test_it_is_an_open_container(job, tmp_path):
    save_working(job, tmp_path / "a.unkelt")
    with zipfile.ZipFile(tmp_path / "a.unkelt") as container:
        assert set(container.namelist()) == {"original/sea-thrift.svg", "recipe.toml", "ticket.toml", "current.svg"}
        assert container.read("original/sea-thrift.svg") == job.path.read_bytes()
        assert container.read("ticket.toml") == job.path.with_suffix(".toml").read_bytes()
        assert parse_svg(container.read("current.svg")).outlines()


def test_without_its_face_the_outlines_stay_and_a_note_says_so(job, tmp_path):
    save_working(job, tmp_path / "a.unkelt")
    poorer, words = open_working(
        tmp_path / "a.unkelt", Shelf(face for face in SHELF.faces if face.family != "Pacifico")
    )
    assert "a.unkelt: its recipe can't be followed here" in words
    assert "Pacifico" in words
    assert write_svg(poorer.sheet) == write_svg(job.sheet)


def test_accepted_findings_stay_accepted_and_no_longer_hold(tmp_path):
    make_demo(tmp_path)
    kittiwake = open_job(tmp_path / "kittiwake.svg", Workshop(read_ticket(tmp_path / "kittiwake.toml"), SHELF))
    holds = [finding for finding in survey(kittiwake.sheet, kittiwake.workshop) if finding.level is Level.HOLD]
    accepted = {finding.key: "the shop welds it" for finding in holds}
    save_working(
        type(kittiwake)(kittiwake.path, kittiwake.original, kittiwake.workshop, accepted=accepted),
        tmp_path / "k.unkelt",
    )
    again, _ = open_working(tmp_path / "k.unkelt", SHELF)
    left = with_accepted(survey(again.sheet, again.workshop), again.accepted)
    assert not [finding for finding in left if finding.level is Level.HOLD]
    assert sum(finding.detail == "accepted: the shop welds it" for finding in left) == len(holds)


def container(members: dict[str, bytes]) -> bytes:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as made:
        for name, data in members.items():
            made.writestr(name, data)
    return file.getvalue()


GOOD = {
    "original/a.svg": b"<svg xmlns='http://www.w3.org/2000/svg' width='9mm' height='9mm'/>",
    "current.svg": b"<svg/>",
}


@pytest.mark.parametrize(
    ("data", "reason"),
    [
        (b"no container", "damaged"),
        (container({"current.svg": b"<svg/>"}), "original"),
        (container(GOOD | {"original/a.svg": b"<svg"}), "well-formed"),
        (container(GOOD | {"recipe.toml": b"[["}), "TOML"),
        (container(GOOD | {"ticket.toml": b"[job]\ncolour = 3"}), "unknown field"),
        (container(GOOD | {"accepted.toml": b"accepted = \xff"}), "damaged"),
        (container(GOOD | {"accepted.toml": b"accepted = 3"}), "damaged"),
        (container(GOOD)[:-30], "damaged"),
    ],
)
def test_a_damaged_one_is_refused_in_a_sentence(tmp_path, data, reason):
    (tmp_path / "a.unkelt").write_bytes(data)
    with pytest.raises(InputError, match=reason):
        open_working(tmp_path / "a.unkelt", SHELF)


def test_the_original_is_never_written_over(job):
    with pytest.raises(InputError, match="original"):
        save_working(job, job.path)
    outlined = apply(Call("outline-text"), job.original, job.workshop).sheet
    assert all(isinstance(item, Outline) for item in outlined.outlines())
