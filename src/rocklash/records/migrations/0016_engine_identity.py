"""Serial number, owner and manual of an engine, its photographs; figures may be its maker's."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("records", "0015_practice")]
    operations = [
        migrations.AddField(
            "engine",
            "serial",
            models.CharField(blank=True, help_text="number on the engine", max_length=60, default=""),
            preserve_default=False,
        ),
        migrations.AddField(
            "engine",
            "owner",
            models.CharField(
                blank=True, help_text="whose engine it is; stays in the workshop, goes into no file", max_length=120, default=""
            ),
            preserve_default=False,
        ),
        migrations.AddField(
            "engine",
            "manual",
            models.CharField(blank=True, help_text="which manual the maker's figures are from", max_length=120, default=""),
            preserve_default=False,
        ),
        migrations.CreateModel(
            name="Photo",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField(auto_now_add=True)),
                ("caption", models.CharField(blank=True, max_length=120)),
                ("width", models.PositiveSmallIntegerField()),
                ("height", models.PositiveSmallIntegerField()),
                ("data", models.BinaryField()),
                (
                    "by",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
                ("engine", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="photos", to="records.engine")),
            ],
            options={"ordering": ["pk"]},
        ),
    ]
