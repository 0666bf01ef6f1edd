"""Compiled kernels are kept once a machine, not once a checkout.

A package with kernels imports this one before anything of it is compiled: numba reads
the classes named here when it first wants to keep a kernel.
"""

import os

_PLACES = (
    "kept_kernels.locator.OncePerMachine",
    "InTreeCacheLocator",
    "UserWideCacheLocator",
)

os.environ.setdefault("NUMBA_CACHE_LOCATOR_CLASSES", ",".join(_PLACES))
