"""Compose: the ledger of items, and the steps for what is chosen."""
