from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("records", "0008_standard_names")]

    operations = [migrations.RenameField("JournalEntry", "what", "verb")]
