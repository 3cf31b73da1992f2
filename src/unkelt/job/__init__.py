"""What a job is done with, beside the sheet itself: what it must be (`ticket.py`), the machine, the faces at hand.

`workshop.py` holds them together for checks and steps. `schema.py` reads the TOML files that people fill in, and says
in one sentence what of them can't be.
"""
