"""The stations in the order of work, a folder each."""
