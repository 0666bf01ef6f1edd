"""The dots station."""
