"""The account of ink: what is painted and drawn on a sheet, colour by colour, and what a change made of it.

No step writes this account and it knows no step: it is computed from two sheets alone. A step declares what it means to
change (`changes.py`), and `balance.py` finds what changed beyond that. Start with `balance.unexplained`.
"""
