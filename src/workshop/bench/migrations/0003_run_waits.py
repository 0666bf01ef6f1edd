"""A burn may wait for its operator."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bench", "0002_run_rating")]

    operations = [
        migrations.AddField("run", "waits", models.BooleanField(default=False)),
        migrations.AddField("run", "go_on", models.BooleanField(default=False)),
    ]
