"""Old Ember: the core. Numbers in, numbers out; no interface, no network."""
