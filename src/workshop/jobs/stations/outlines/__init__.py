"""The station of outlines: what is cut, scored, hatched or carved inside, and in which order."""
