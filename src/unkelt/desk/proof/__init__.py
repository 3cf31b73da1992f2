"""Proof: what an importer makes of the file, the dry run, and both pictures."""
