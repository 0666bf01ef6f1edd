"""A burn can be rated."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bench", "0001_initial")]

    operations = [
        migrations.AddField("run", "rating", models.PositiveSmallIntegerField(default=0)),
    ]
