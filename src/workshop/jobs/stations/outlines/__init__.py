"""The outlines station: what is cut, scored, hatched or carved inside, in order."""
