"""Recipes hold whole settings in versions; machines know their baud, substrates their care."""

import django.db.models.deletion
from django.db import migrations, models

_VALUES = ("speed_mm_s", "power", "passes", "pitch_mm", "method", "both_ways")


def into_parts(apps, schema_editor):
    """Keep what the columns said as the first version."""
    Version = apps.get_model("shelf", "RecipeVersion")
    for recipe in apps.get_model("shelf", "Recipe").objects.all():
        recipe.part = {"kind": "dots", **{name: getattr(recipe, name) for name in _VALUES}}
        recipe.save(update_fields=["part"])
        Version.objects.create(recipe=recipe, number=1, part=recipe.part, why="As it was")


class Migration(migrations.Migration):
    dependencies = [("shelf", "0002_pages_fonts_colours")]

    operations = [
        migrations.AddField("machine", "baud", models.PositiveIntegerField(default=115200)),
        migrations.AddField("substrate", "care", models.JSONField(blank=True, default=dict)),
        migrations.AddField("recipe", "part", models.JSONField(default=dict)),
        migrations.AddField("recipe", "version", models.PositiveIntegerField(default=1)),
        migrations.AddField("recipe", "favourite", models.BooleanField(default=False)),
        migrations.AddField("recipe", "changed", models.DateTimeField(auto_now=True)),
        migrations.CreateModel(
            name="RecipeVersion",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("number", models.PositiveIntegerField()),
                ("part", models.JSONField()),
                ("why", models.CharField(blank=True, max_length=300)),
                ("created", models.DateTimeField(auto_now_add=True)),
                (
                    "recipe",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="versions",
                        to="shelf.recipe",
                    ),
                ),
            ],
            options={"ordering": ["-number"]},
        ),
        migrations.AddConstraint(
            "recipeversion",
            models.UniqueConstraint(fields=("recipe", "number"), name="version_of_recipe"),
        ),
        migrations.RunPython(into_parts, migrations.RunPython.noop),
        *[migrations.RemoveField("recipe", name) for name in _VALUES],
    ]
