"""The log of burns."""
