"""The guide, and the list of commands."""
