"""Requests in, pages out."""
