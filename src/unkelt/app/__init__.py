"""What the product does for people, without a window: open, mend, write, and what then stands against a file.

`work.py` takes a file all the way, for commands, folders, series and scripts; each only says in its own way what came
of it. `desktop.py` is the desk of several jobs: a window shows what it tells, tests call it plainly. Its parts know
none of each other: `jobs.py` holds the jobs, `opening.py`, `surveying.py`, `stepping.py` and `handing_over.py` each do
one thing with them, `keeping.py` keeps them. What takes long goes to an `Executor`.
"""
