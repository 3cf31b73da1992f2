"""What outlines are to each other, told from their lines alone: words, pieces, counters, copies, joints, guides.

Checks and steps ask the same functions here, so they agree. A function takes outlines (and the ticket, where machine or
tolerance matter) and returns what it found. Begin with `words.py`.
"""
