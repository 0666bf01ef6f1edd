"""Views parse, call a service, render."""
