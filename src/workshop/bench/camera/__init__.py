"""The stand-in cameras: over a card, and over the bed."""
