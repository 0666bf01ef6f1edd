"""One page a machine: creeping, walking the border, following a burn."""
