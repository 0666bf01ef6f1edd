"""Whether a backup is made every night: one row, one place."""

from django.db import models


class Keeping(models.Model):
    """What is kept by itself."""

    nightly = models.BooleanField(default=False)

    def __str__(self) -> str:
        return "A backup every night" if self.nightly else "No backup by itself"

    @classmethod
    def now(cls) -> "Keeping":
        """Return the one row."""
        return cls.objects.get_or_create(pk=1)[0]
