"""The artwork station."""
