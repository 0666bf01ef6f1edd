"""Tickets: from a picture to a job that can be burned."""
