"""What the outlines of a sheet are to each other, told from their lines alone: words, pieces, counters, copies, joints,
guides left behind.

Checks say what of it stands in the way, and steps mend it; both ask here, so that they mean the same. A function takes
the outlines (and the ticket, where machine or tolerance decide) and says what it found. Begin with `words.py`.
"""
