"""Swatch cards as tickets, and what is read from burned ones."""
