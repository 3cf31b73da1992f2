"""What people do, without a window: open, survey, mend, save, release, keep.

`work.py` takes one file all the way, for commands, folders, series and scripts. `desktop.py` is the desk of several
jobs: a window shows its signals, and tests call it directly. Its parts do not know each other: `jobs.py` holds the
jobs; `opening.py`, `surveying.py`, `stepping.py` and `handing_over.py` do one thing each; `keeping.py` keeps jobs after
a crash. Long work goes to an `Executor`.
"""
