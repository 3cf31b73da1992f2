"""Large files read in a process of their own: the objects that independent readers make by the hundred thousand would
keep every other thread of this one waiting.
"""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from multiprocessing.connection import Connection
from pathlib import Path as FilePath

import numpy as np

from unkelt.geometry.path import EMPTY, Path, concat
from unkelt.proof.imported import Imported
from unkelt.proof.standin import StandIn

LARGE_BYTES = 2_000_000

NICENESS = 5
"""The window comes first where processors are few."""


def begin_reading(standin: StandIn, path: FilePath) -> Callable[[], Imported]:
    """Begins to read a file as this importer does; the answer waits for the end of it, and raises InputError as `read`
    does.

    A small file is read when the answer is asked for. So is a large one, once more, where its process came to no
    answer.
    """
    if path.stat().st_size < LARGE_BYTES:
        return lambda: standin.read(path)
    context = multiprocessing.get_context("forkserver")
    receiver, sender = context.Pipe(duplex=False)
    process = context.Process(target=_work, args=(sender, standin, path), daemon=True)
    try:
        process.start()
    except OSError:  # no room for another process
        return lambda: standin.read(path)
    sender.close()

    def answer() -> Imported:
        try:
            found = _received(receiver)
        except EOFError:
            found = None
        finally:
            receiver.close()
            process.join()
        return standin.read(path) if found is None else found

    return answer


def _work(sender: Connection, standin: StandIn, path: FilePath) -> None:
    """In the other process. Whatever goes wrong is found again, and said, by whoever asked."""
    os.nice(NICENESS)
    with suppress(Exception):
        _send(sender, standin.read(path))
    sender.close()


def _send(sender: Connection, found: Imported) -> None:
    """Its numbers as they lie in memory: many small arrays would be made again in one call, which no other thread
    interrupts.
    """
    whole = concat([body.path for body in found.bodies])
    bare = replace(found, bodies=tuple(replace(body, path=EMPTY) for body in found.bodies))
    sender.send((bare, [len(body.path) for body in found.bodies]))
    for array in (whole.points, whole.degrees, whole.starts, whole.closed):
        sender.send_bytes(array.tobytes())


def _received(receiver: Connection) -> Imported:
    bare, counts = receiver.recv()
    types = (np.float64, np.uint8, np.intp, np.bool_)
    points, degrees, starts, closed = (np.frombuffer(receiver.recv_bytes(), each) for each in types)
    whole = Path(points.reshape(-1, 4, 2), degrees, starts, closed)  # type: ignore[arg-type]
    bodies = zip(bare.bodies, whole.split(counts), strict=True)
    return replace(bare, bodies=tuple(replace(body, path=path) for body, path in bodies))
