"""Numbers of revisions that only grow."""

from django.db import migrations, models


def count_all(apps, _schema):
    """Begin after the highest number each job has."""
    jobs, revisions = (apps.get_model("jobs", name) for name in ("Job", "Revision"))
    highest = revisions.objects.values("job").annotate(last=models.Max("number"))
    for one in highest.order_by():
        jobs.objects.filter(pk=one["job"]).update(revisions_made=one["last"])


class Migration(migrations.Migration):
    """How many revisions a job ever had."""

    dependencies = [("jobs", "0005_states")]
    operations = [
        migrations.AddField(
            "job", "revisions_made", models.PositiveIntegerField(default=0)
        ),
        migrations.RunPython(count_all, migrations.RunPython.noop),
    ]
