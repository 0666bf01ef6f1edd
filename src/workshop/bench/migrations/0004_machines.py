"""Burns belong to a machine and its address, one at a time, and know their rows."""

import django.db.models.deletion
from django.db import migrations, models


def end_left_over(apps, schema_editor):
    """No link of the old kind goes on: what it left open is over."""
    runs = apps.get_model("bench", "Run").objects
    runs.filter(state__in=["waiting", "running"]).update(
        state="failed", error="The program was renewed; this burn was broken off."
    )
    for run in runs.select_related("job"):
        run.machine_id = run.job.machine_id
        run.save(update_fields=["machine_id"])


class Migration(migrations.Migration):
    dependencies = [
        ("bench", "0003_run_waits"),
        ("shelf", "0001_initial"),
        ("jobs", "0001_initial"),
    ]

    operations = [
        migrations.AddField(
            "run", "machine",
            models.ForeignKey(
                blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL,
                related_name="runs", to="shelf.machine",
            ),
        ),
        migrations.AddField("run", "address", models.CharField(blank=True, max_length=200)),
        migrations.AddField(
            "run", "held",
            models.CharField(blank=True, help_text="holding, held, waiting", max_length=10),
        ),
        migrations.AddField("run", "remaining_s", models.FloatField(default=0.0)),
        migrations.AddField("run", "rows_done", models.PositiveIntegerField(default=0)),
        migrations.AddField("run", "first_row", models.PositiveIntegerField(default=0)),
        migrations.AddField("run", "rows", models.PositiveIntegerField(default=0)),
        migrations.AddField("run", "trims", models.JSONField(blank=True, default=list)),
        migrations.RemoveField("run", "waits"),
        migrations.RemoveField("run", "go_on"),
        migrations.RemoveField("run", "lines"),
        migrations.RemoveField("run", "lines_sent"),
        migrations.AlterField(
            "run", "state",
            models.CharField(
                choices=[
                    ("queued", "next"), ("waiting", "getting ready"), ("running", "burning"),
                    ("done", "burned"), ("failed", "failed"), ("stopped", "stopped"),
                ],
                default="waiting", max_length=10,
            ),
        ),
        migrations.RunPython(end_left_over, migrations.RunPython.noop),
        migrations.AddConstraint(
            "run",
            models.UniqueConstraint(
                condition=models.Q(state__in=("waiting", "running")), fields=("address",),
                name="one_burn_a_machine",
            ),
        ),
    ]  # fmt: skip
