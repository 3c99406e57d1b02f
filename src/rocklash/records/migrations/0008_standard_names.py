from django.db import migrations, models


class Migration(migrations.Migration):
    """Names that say what is meant: nothing of what is kept changes."""

    dependencies = [("records", "0007_new_valve")]

    operations = [
        migrations.RemoveConstraint(
            model_name="camcandidate",
            name="one_candidate_per_letter",
        ),
        migrations.RemoveConstraint(
            model_name="valvefit",
            name="one_fit_per_row_and_valve",
        ),
        migrations.RemoveConstraint(
            model_name="weighing",
            name="one_weighing_per_part_of_a_valve",
        ),
        migrations.RenameModel("Entry", "JournalEntry"),
        migrations.AlterModelOptions(name="build", options={"ordering": ["-updated_at"]}),
        migrations.RenameField("Build", "kept_at", "updated_at"),
        migrations.RenameField("CamCandidate", "row", "setup_side"),
        migrations.RenameField("CamTiming", "row", "setup_side"),
        migrations.RenameField("ValveFit", "row", "setup_side"),
        migrations.RenameField("Weighing", "row", "setup_side"),
        migrations.RenameIndex(
            model_name="journalentry",
            new_name="records_jou_worksho_187dfb_idx",
            old_name="records_ent_worksho_94595f_idx",
        ),
        migrations.AddConstraint(
            model_name="camcandidate",
            constraint=models.UniqueConstraint(fields=("setup_side", "letter"), name="one_candidate_per_letter"),
        ),
        migrations.AddConstraint(
            model_name="valvefit",
            constraint=models.UniqueConstraint(fields=("setup_side", "position"), name="one_fit_per_row_and_valve"),
        ),
        migrations.AddConstraint(
            model_name="weighing",
            constraint=models.UniqueConstraint(fields=("setup_side", "position", "slot"), name="one_weighing_per_part_of_a_valve"),
        ),
    ]
