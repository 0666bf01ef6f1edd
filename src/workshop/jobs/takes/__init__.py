"""Variants that are kept, compared and burned side by side."""
