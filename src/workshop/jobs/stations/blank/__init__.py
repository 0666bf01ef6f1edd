"""The blank station."""
