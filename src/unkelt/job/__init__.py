"""Everything that belongs to a job beside the sheet: ticket, machine, faces.

`ticket.py` says what the job must be, and `workshop.py` holds ticket and faces for checks and steps. `schema.py` reads
the TOML files that people fill in, and refuses a wrong field in one sentence.
"""
