"""Simulated devices. They know nothing of the program they stand in for."""

import kept_kernels  # noqa: F401 (says where kernels are kept)
