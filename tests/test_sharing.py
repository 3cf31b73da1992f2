"""Work shared with a copy of this process gives what one process gives, whatever becomes of the copy."""

from __future__ import annotations

import os
import threading
from collections.abc import Sequence
from pathlib import Path

import hypothesis
import pytest
from hypothesis import strategies as st

from tests.builders import glyph_paths, moved, outline, sheet
from unkelt.cli import main
from unkelt.formats.formats import write_sheet
from unkelt.geometry.cache import fresh
from unkelt.job.ticket import Ticket
from unkelt.sharing import begun, copies_allowed, in_two

pytestmark = pytest.mark.skipif(len(os.sched_getaffinity(0)) < 2, reason="one core")


def squares(numbers: Sequence[int]) -> list[int]:
    return [number * number for number in numbers]


@hypothesis.given(st.lists(st.integers(1, 99), max_size=40), st.integers(1, 9))
def test_answers_come_in_the_order_of_what_was_asked(numbers: list[int], parts: int) -> None:
    with copies_allowed():
        assert in_two(squares, numbers, numbers, 100, parts) == squares(numbers)


@pytest.fixture
def copies(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """The copies that are made, by their process ids."""
    made, fork = list[int](), os.fork

    def forked() -> int:
        if copy := fork():
            made.append(copy)
        return copy

    monkeypatch.setattr(os, "fork", forked)
    return made


def is_gone(copy: int) -> bool:
    try:
        os.waitpid(copy, os.WNOHANG)
    except ChildProcessError:
        return True
    return False


def test_both_processes_answer() -> None:
    meeting, come = os.pipe()

    def whose(_places: Sequence[int]) -> list[int]:
        os.write(come, b"x")
        while len(waiting := os.read(meeting, 2)) < 2:  # nobody goes on before both are there
            os.write(come, waiting)
        os.write(come, waiting)
        return [os.getpid()]

    with copies_allowed():
        assert len(set(in_two(whose, [0, 1], [1, 1], 2))) == 2
    assert len(set(in_two(lambda _: [os.getpid()] * 2, [0, 1], [1, 1], 2))) == 1


def test_what_a_copy_could_not_do_is_done_here() -> None:
    here = os.getpid()

    def dies(numbers: Sequence[int]) -> list[int]:
        if os.getpid() != here:
            os._exit(1)
        return squares(numbers)

    def raises(numbers: Sequence[int]) -> list[int]:
        if os.getpid() != here:
            raise MemoryError
        return squares(numbers)

    def gives_what_cannot_be_sent(numbers: Sequence[int]) -> list[object]:
        return [(lambda: None) if os.getpid() != here else number for number in numbers]

    with copies_allowed():
        for work in (dies, raises):
            assert in_two(work, range(8), [1] * 8, 1, parts=8) == squares(range(8))
        assert in_two(gives_what_cannot_be_sent, range(8), [1] * 8, 1, parts=8) == list(range(8))


def test_where_no_copy_can_be_made_all_is_done_here(monkeypatch: pytest.MonkeyPatch) -> None:
    def refused() -> int:
        raise BlockingIOError(11, "Resource temporarily unavailable")

    monkeypatch.setattr(os, "fork", refused)
    with copies_allowed():
        assert in_two(squares, range(8), [1] * 8, 1, parts=8) == squares(range(8))
        with begun(os.getpid, worth_a_copy=True) as whose:
            assert whose() == os.getpid()


def test_a_problem_here_is_raised_and_leaves_no_copy_behind(copies: list[int]) -> None:
    def raises(_numbers: Sequence[int]) -> list[int]:
        raise ValueError("not this one")

    with copies_allowed(), pytest.raises(ValueError, match="not this one"):
        in_two(raises, range(8), [1] * 8, 1)
    assert list(map(is_gone, copies)) == [True]


def test_what_was_begun_is_found_elsewhere_or_here(copies: list[int]) -> None:
    here = os.getpid()

    def find() -> int:
        return os.getpid()

    def dies() -> int:
        if os.getpid() != here:
            os._exit(1)
        return here

    with copies_allowed():
        with begun(find, worth_a_copy=True) as whose:
            assert whose() != here
        with begun(dies, worth_a_copy=True) as whose:
            assert whose() == here
        with begun(find, worth_a_copy=True):
            pass  # nobody asked
        with begun(find, worth_a_copy=False) as whose:
            assert whose() == here
    with begun(find, worth_a_copy=True) as whose:
        assert whose() == here
    assert len(copies) == 3
    assert all(map(is_gone, copies))


def test_a_thread_makes_no_copies() -> None:
    owners: list[set[int]] = []

    def work() -> None:
        owners.append(set(in_two(lambda some: [os.getpid()] * len(some), range(8), [1] * 8, 1, parts=8)))

    with copies_allowed():
        other = threading.Thread(target=work)
        other.start()
        other.join()
    assert owners == [{os.getpid()}]


def test_two_processes_mend_as_one_does(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, copies: list[int]) -> None:
    given = tmp_path / "letters.svg"
    words = [glyph_paths("Hollin Quay", "Pacifico", size) for size in (40, 47, 55, 61)]
    letters = [moved(letter, 0, 80 * row) for row, word in enumerate(words) for letter in word]
    write_sheet(sheet(*(outline(f"l{k}", letter) for k, letter in enumerate(letters))), given, Ticket())
    written = []
    for cores in ({0, 1}, {0}):
        monkeypatch.setattr(os, "sched_getaffinity", lambda _pid, cores=cores: cores)
        output = tmp_path / f"{len(cores)}.svg"
        with fresh():
            main(["mend", str(given), "-o", str(output)])
        written.append(output.read_bytes())
        assert bool(copies) is (len(cores) > 1)
        copies.clear()
    assert written[0] == written[1]
