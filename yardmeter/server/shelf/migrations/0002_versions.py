"""Parts say which version their document is of, and count their changes."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("shelf", "0001_initial")]

    operations = [
        migrations.AddField("partrow", "schema_version", models.PositiveIntegerField(default=1)),
        migrations.AddField("partrow", "version", models.PositiveIntegerField(default=1)),
    ]
