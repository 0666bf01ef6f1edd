"""Files of G-code that are no job's: looked at, placed, walked round, burned."""
