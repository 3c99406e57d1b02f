from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("records", "0011_carry_over")]

    operations = [
        migrations.RemoveField("ClearanceSession", "pins"),
        migrations.RemoveField("ClearanceSession", "plan"),
    ]
