"""The steps: each takes a sheet and makes a new one, with evidence. One module a step, all listed in `steps.py`."""
