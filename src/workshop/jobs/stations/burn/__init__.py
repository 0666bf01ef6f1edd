"""The burn station."""
