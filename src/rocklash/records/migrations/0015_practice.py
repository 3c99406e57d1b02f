"""Practice copies of builds."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("records", "0014_instrument_runs")]
    operations = [
        migrations.AddField(
            "build",
            "practice",
            models.BooleanField(
                default=False, help_text="a copy to practise on: simulated instruments work here, and nothing can be signed"
            ),
        ),
    ]
