"""The web application of Old Ember."""

__version__ = "0.2.0"
