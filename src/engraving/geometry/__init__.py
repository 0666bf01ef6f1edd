"""The one home of turning, mapping and shrinking, on numbers and arrays alone."""
