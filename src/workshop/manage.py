#!/usr/bin/env python
"""Django's command line."""

import os
import sys
from pathlib import Path

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    sys.path[0] = str(Path(__file__).resolve().parents[1])
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workshop.settings.base")
    execute_from_command_line(sys.argv)
