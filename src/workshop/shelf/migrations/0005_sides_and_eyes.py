"""Goggles follow the machine; a mirror is worked from behind."""

import re

from django.db import migrations

WAVELENGTH = re.compile(r"\d\s*(µm|μm|um|nm)\b", re.IGNORECASE)


def set_right(apps, _schema):
    """Drop wavelengths from the substrates' notes; turn mirrors to their back."""
    for one in apps.get_model("shelf", "Substrate").objects.all():
        text = one.care.get("eyes", "")
        left = [
            part for part in re.split(r"(?<=[.;])\s+", text) if not WAVELENGTH.search(part)
        ]
        if text:
            one.care["eyes"] = " ".join(left)
        if one.part.get("hazard") == "old-mirror":
            one.part.setdefault("worked_from", "back")
        one.save(update_fields=["care", "part"])


class Migration(migrations.Migration):
    """Sides and eyes."""

    dependencies = [("shelf", "0004_bed_camera")]
    operations = [migrations.RunPython(set_right, migrations.RunPython.noop)]
