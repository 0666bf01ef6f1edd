"""Tags that lead to the handbook."""
