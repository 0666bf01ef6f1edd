"""Old Ember: the core. Numbers in, numbers out; no interface, no network."""

import kept_kernels  # noqa: F401 (says where kernels are kept)
