"""Compile every kernel once and leave it in the cache, so that no process does it again."""

import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "workshop.settings.test")

import django

django.setup()

from workshop.jobs.pictures.engine import warm_up  # noqa: E402

warm_up()
