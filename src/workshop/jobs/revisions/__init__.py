"""The one writer of jobs."""
