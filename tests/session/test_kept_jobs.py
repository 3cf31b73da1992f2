"""Nothing lost: what was open comes back after a process was killed, whenever that was, and to one window only."""

import os
import signal
import subprocess
import sys
import threading

import pytest

from tests.builders import SHELF, outline, sheet, square, workshop
from unkelt.errors import InputError
from unkelt.formats.svg.write import write_svg
from unkelt.recipe import Call, Recipe, run
from unkelt.session.job import open_job
from unkelt.session.kept_jobs import Keeper
from unkelt.session.working_file import save_working

STEPPING = """
import sys
from pathlib import Path
from tests.builders import workshop
from unkelt.recipe import Call, Recipe, run
from unkelt.session.job import open_job
from unkelt.session.kept_jobs import Keeper
path, folder = map(Path, sys.argv[1:])
keeper, job = Keeper(folder), open_job(path, workshop())
keeper.take(path)
while True:
    call = Call("move", ("a",), options={"right": "1 mm"})
    job = job.with_stages(tuple(run(Recipe((call,)), job.sheet, job.workshop)))
    keeper.keep(job)
    print(len(job.stages), flush=True)
"""


@pytest.fixture
def received(tmp_path):
    path = tmp_path / "inbox" / "täg 1.svg"
    path.parent.mkdir()
    path.write_bytes(write_svg(sheet(outline("a", square(20, 5, 5)))))
    return path


def stepped(path, steps=1):
    job = open_job(path, workshop())
    for _ in range(steps):
        job = job.with_stages(
            tuple(run(Recipe((Call("move", ("a",), options={"right": "1 mm"}),)), job.sheet, job.workshop))
        )
    return job


@pytest.mark.parametrize("after", [1, 4, 9])
def test_a_kill_loses_at_most_the_step_being_taken(received, tmp_path, after):
    command = [sys.executable, "-c", STEPPING, str(received), str(tmp_path / "state")]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    lines = [process.stdout.readline() for _ in range(after)]
    assert Keeper(tmp_path / "state").left() == []  # it lives, and has it
    os.kill(process.pid, signal.SIGKILL)
    rest = process.communicate()[0].split()
    said = int((rest or [lines[-1].strip()])[-1])
    keeper = Keeper(tmp_path / "state")
    (kept,) = keeper.left()
    assert kept.path == received
    job, words = keeper.give_back(kept, SHELF)
    assert not words
    assert len(job.stages) - said in (0, 1)
    assert job.unsaved_changes
    assert job.path == received
    assert write_svg(job.sheet) == write_svg(stepped(received, len(job.stages)).sheet)
    assert keeper.left() == []  # this window has it now
    keeper.close()
    assert not [path for path in (tmp_path / "state").iterdir() if path.stem != "recent"]


def test_two_windows_on_one_job_are_told_apart(received, tmp_path):
    one, other = Keeper(tmp_path / "state"), Keeper(tmp_path / "state")
    assert one.take(received)
    assert one.take(received)
    assert not other.take(received.parent / "." / received.name)
    other.keep(stepped(received))  # leaves alone what isn't its own
    assert other.left() == []
    one.drop(received)
    assert other.take(received)


def test_the_original_is_kept_as_it_was_received(received, tmp_path):
    keeper = Keeper(tmp_path / "state")
    keeper.take(received)
    before, job = received.read_bytes(), stepped(received)
    received.unlink()  # a stick that was pulled out
    keeper.keep(job)
    for lock in keeper._locks.values():  # as a kill would
        os.close(lock)
    again = Keeper(tmp_path / "state")
    (kept,) = again.left()
    found, _ = again.give_back(kept, SHELF)
    assert found.received == before
    with pytest.raises(InputError, match="open in another window"):
        Keeper(tmp_path / "state").give_back(kept, SHELF)


def test_what_is_damaged_or_not_wanted_is_passed_over(received, tmp_path):
    keeper = Keeper(tmp_path / "state")
    keeper.take(received)
    keeper.keep(stepped(received))
    for lock in keeper._locks.values():
        os.close(lock)
    (tmp_path / "state" / "f00.toml").write_text("path = 3")
    (tmp_path / "state" / "f00.lock").touch()
    (tmp_path / "state" / "f01.lock").touch()  # opened, and nothing done to it
    (tmp_path / "state" / "f01.received").write_text("<svg/>")
    later = Keeper(tmp_path / "state")
    (kept,) = later.left()
    assert not list((tmp_path / "state").glob("f01*")), "what nobody needs doesn't gather"
    later.throw_away(kept)
    assert later.left() == []


def test_what_was_opened_last_comes_first_and_only_while_it_is_there(received, tmp_path):
    keeper = Keeper(tmp_path / "state")
    assert keeper.recent() == []
    other = received.with_name("b.svg")
    other.write_bytes(received.read_bytes())
    keeper.remember([received])
    keeper.remember([other])
    assert keeper.recent() == [other, received]
    other.unlink()
    assert keeper.recent() == [received]


def test_a_job_that_is_closed_while_it_is_written_leaves_nothing_behind(received, tmp_path, monkeypatch):
    """A slow disk: the window doesn't wait for it, and no copy of somebody's job stays."""
    keeper, job = Keeper(tmp_path / "state"), stepped(received)
    keeper.take(received)
    begun, may_go_on = threading.Event(), threading.Event()

    def slowly(job, path):
        begun.set()
        may_go_on.wait(20)
        save_working(job, path)

    monkeypatch.setattr("unkelt.session.kept_jobs.save_working", slowly)
    writer = threading.Thread(target=keeper.keep, args=(job,))
    writer.start()
    assert begun.wait(20)
    keeper.drop(received)  # returns at once
    assert writer.is_alive()
    may_go_on.set()
    writer.join(20)
    assert list((tmp_path / "state").iterdir()) == []
    keeper.keep(job)  # one that comes late
    assert list((tmp_path / "state").iterdir()) == []
    assert keeper.take(received)


def test_of_two_states_kept_at_once_the_later_stays(received, tmp_path, monkeypatch):
    """The first is written slowly; its files and the second's are never mixed."""
    keeper, first, second = Keeper(tmp_path / "state"), stepped(received), stepped(received, 3)
    keeper.take(received)
    begun, may_go_on = threading.Event(), threading.Event()

    def slowly(job, path):
        if len(job.stages) == 1:
            begun.set()
            may_go_on.wait(20)
        save_working(job, path)

    monkeypatch.setattr("unkelt.session.kept_jobs.save_working", slowly)
    writers = [threading.Thread(target=keeper.keep, args=(job,)) for job in (first, second)]
    writers[0].start()
    assert begun.wait(20)
    writers[1].start()
    writers[1].join(0.2)  # it waits for its turn
    may_go_on.set()
    for writer in writers:
        writer.join(20)
    os.close(keeper._locks.pop(received))  # as if the process had ended
    (kept,) = Keeper(tmp_path / "state").left()
    assert kept.steps == 3
    job, _ = Keeper(tmp_path / "state").give_back(kept, SHELF)
    assert len(job.stages) == 3
