"""Hand-off: the package that leaves the desk, and the inspection sheet in it."""
