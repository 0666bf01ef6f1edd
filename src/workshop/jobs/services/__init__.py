"""Verbs of jobs. Only here (and in `choices`) is the core reached."""
