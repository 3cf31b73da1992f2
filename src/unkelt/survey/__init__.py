"""The survey: what stands in the way of a clean cut. One module a check, all listed in `checks.py`."""
