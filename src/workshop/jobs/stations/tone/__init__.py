"""The tone station."""
