"""Tasks for the pool's tests: they have to be importable in other processes."""

import os
import time

from unkelt.errors import InputError

GIVEN = []


def prepare(*words):
    GIVEN.extend(words)


def work(task):
    if task == "raise":
        raise InputError("a.svg", "is empty")
    if task == "fault":
        raise ZeroDivisionError("by zero")
    if task == "die":
        os._exit(9)
    if task == "hang":
        time.sleep(60)
    return f"{task} {''.join(GIVEN)}"
