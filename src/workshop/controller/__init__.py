"""The link to controllers: no Django here, so that neither a page nor a table can hold it.

``protocol`` (what is said, parsed), ``words`` (numbers in sentences), ``port`` (what may
be opened), ``link`` (bytes under way), ``session`` (one machine and what it does),
``server`` and ``client`` (the process that owns all sessions, and how it is asked).
"""
