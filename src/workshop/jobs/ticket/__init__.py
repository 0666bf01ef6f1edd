"""The ticket as a whole: its lines, findings, readings, and its life."""
