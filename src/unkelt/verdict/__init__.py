"""The one judge of a job: what is found on its sheet, what was lost on the way there, and what was tried and refused.

The window, the command line and release all ask here, so that they come to one verdict. `case.py` says what is judged,
`judge.py` what is found and what stands against it, `lost.py` what was received and is gone, `painted.py` what pictures
by other programs show.
"""
