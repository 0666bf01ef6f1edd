"""Settings of the tests: a scratch folder, tasks at once, nothing kept."""

import os
import tempfile

os.environ.setdefault("OLD_EMBER_VAR", tempfile.mkdtemp(prefix="ember-test-"))

from workshop.settings.base import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
HUEY = {"huey_class": "huey.MemoryHuey", "name": "test", "immediate": True}
WHITENOISE_AUTOREFRESH = True
