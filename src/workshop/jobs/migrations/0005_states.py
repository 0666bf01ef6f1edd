"""States of a job told apart by what they hold; numbers that are not given again."""

import hashlib
import json

from django.db import migrations, models


def digest_all(apps, _schema):
    """Give every revision its digest, and the numbering its start."""
    revisions = apps.get_model("jobs", "Revision")
    for one in revisions.objects.all().iterator(chunk_size=50):
        text = json.dumps(
            [one.spec, one.relations], sort_keys=True, separators=(",", ":")
        )
        digest = hashlib.sha256(text.encode()).hexdigest()[:32]
        revisions.objects.filter(pk=one.pk).update(digest=digest)
    artworks = apps.get_model("jobs", "Artwork")
    artworks.objects.filter(two_level=True).update(dotted=True)
    jobs = apps.get_model("jobs", "Job")
    highest = jobs.objects.aggregate(highest=models.Max("number"))["highest"]
    if highest:
        apps.get_model("jobs", "Numbering").objects.create(pk=1, last=highest)


class Migration(migrations.Migration):
    """Digests and numbering."""

    dependencies = [("jobs", "0004_card_readings")]
    operations = [
        migrations.CreateModel(
            "Numbering",
            [
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True,
                        primary_key=True,
                        serialize=False,
                        verbose_name="ID",
                    ),
                ),
                ("last", models.PositiveIntegerField(default=0)),
            ],
        ),
        migrations.RemoveField("job", "signed_revision"),
        migrations.AddField(
            "job", "signed_state", models.CharField(blank=True, max_length=64)
        ),
        migrations.AddField(
            "job", "checked_state", models.CharField(blank=True, max_length=64)
        ),
        migrations.AddField(
            "revision",
            "digest",
            models.CharField(blank=True, default="", max_length=64),
            preserve_default=False,
        ),
        migrations.AddField("artwork", "dotted", models.BooleanField(default=False)),
        migrations.RunPython(digest_all, migrations.RunPython.noop),
    ]
