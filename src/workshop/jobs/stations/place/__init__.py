"""The place station."""
