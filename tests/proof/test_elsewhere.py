"""Large files are read in a process of their own, and nobody can tell from the answer."""

import pytest

from tests.builders import circle, outline, ring, sheet
from unkelt.errors import InputError
from unkelt.formats.svg.write import write_svg
from unkelt.proof import elsewhere
from unkelt.proof.elsewhere import begin_reading
from unkelt.proof.standin import stand_ins


@pytest.fixture(autouse=True)
def large(monkeypatch):
    monkeypatch.setattr(elsewhere, "LARGE_BYTES", 0)


@pytest.mark.parametrize("name", sorted(stand_ins()))
def test_what_another_process_reads_is_what_this_one_reads(name, tmp_path):
    items = [outline("a", ring(20, 10, 50, 50)), outline("b", circle(5, 90, 90), fill=None, stroke="#ff0000")]
    path = tmp_path / "two.svg"
    path.write_bytes(write_svg(sheet(*items)))
    standin = stand_ins()[name]
    answers = [begin_reading(standin, path), begin_reading(standin, path)]  # both at once
    assert [answer() for answer in answers] == [standin.read(path)] * 2


def test_what_cant_be_read_there_is_said_here(tmp_path):
    broken = tmp_path / "broken.svg"
    broken.write_text("<svg><path")
    with pytest.raises(InputError, match=r"broken\.svg"):
        begin_reading(next(iter(stand_ins().values())), broken)()


def test_a_process_that_ends_without_an_answer_costs_only_time(tmp_path, monkeypatch):
    path = tmp_path / "one.svg"
    path.write_bytes(write_svg(sheet(outline("a", circle(5, 20, 20)))))
    standin = next(iter(stand_ins().values()))
    monkeypatch.setattr(elsewhere, "_work", _end)
    assert begin_reading(standin, path)() == standin.read(path)


def test_where_there_is_no_room_for_a_process_it_is_read_here(tmp_path, monkeypatch):
    path = tmp_path / "one.svg"
    path.write_bytes(write_svg(sheet(outline("a", circle(5, 20, 20)))))

    def no_room(_):
        raise BlockingIOError

    monkeypatch.setattr(elsewhere.multiprocessing.get_context("forkserver").Process, "start", no_room)
    standin = next(iter(stand_ins().values()))
    assert begin_reading(standin, path)() == standin.read(path)


def _end(*_) -> None:
    raise SystemExit
