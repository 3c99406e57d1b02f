import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def carry_over(apps, _):
    run, tester = apps.get_model("records", "InstrumentRun"), apps.get_model("records", "TesterRun")
    for row in tester.objects.order_by("pk"):
        new = run.objects.create(kind="tester", part_id=row.part_id, by_id=row.by_id, ended_at=row.ended_at, seed=row.seed, pace=row.pace)
        run.objects.filter(pk=new.pk).update(begun_at=row.begun_at)  # auto_now_add would say now
    # a run that was begun under its old name is not undone any more: it changed no record of the shop
    entries = apps.get_model("records", "JournalEntry").objects
    for entry in entries.filter(verb__in=("simulated wheel", "simulated tester")):
        entry.data, entry.reversible = [], False
        entry.save(update_fields=["data", "reversible"])


class Migration(migrations.Migration):
    dependencies = [("records", "0013_results")]

    operations = [
        migrations.RenameModel("WheelRun", "InstrumentRun"),
        migrations.AddField(
            "InstrumentRun",
            "kind",
            models.CharField(max_length=8, choices=[("wheel", "degree wheel"), ("tester", "spring tester")], default="wheel"),
            preserve_default=False,
        ),
        migrations.AlterField("InstrumentRun", "pace", models.FloatField()),
        migrations.AlterField(
            "InstrumentRun",
            "part",
            models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="instrument_runs", to="records.part"),
        ),
        migrations.RunPython(carry_over, migrations.RunPython.noop),
        migrations.DeleteModel("TesterRun"),
    ]
