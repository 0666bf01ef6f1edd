"""``python -m workshop``: what `old-ember` does once it is installed."""

import sys

from workshop.program.cli import main

if __name__ == "__main__":
    sys.exit(main())
