"""Intake: what came in, the tray of jobs, and the ticket."""
