"""What the product does for people, without a window: open, mend, write, and what then stands against a file.

The commands, folders, series and scripts begin here; each only says in its own way what came of it.
"""
