"""Documents packed: whole ones now and then, what differs in between. Builds count their changes."""

from typing import Any

import django.db.models.deletion
from django.db import migrations, models

from yardmeter.server.builds.documents import packed_step


def pack_documents(apps: Any, _schema_editor: object) -> None:
    """Revision by revision, each against the last whole one of its plan."""
    Revision = apps.get_model("builds", "Revision")
    plan, base, whole, size, version = None, None, None, 0, None
    keys = list(Revision.objects.order_by("plan_id", "number").values_list("pk", flat=True))
    for key in keys:
        revision = Revision.objects.get(pk=key)
        if revision.plan_id != plan or revision.schema_version != version:
            plan, base, version = revision.plan_id, None, revision.schema_version
        revision.packed, is_whole = packed_step(whole if base else None, size, revision.document)
        revision.base = None if is_whole else base
        if is_whole:
            base, whole, size = revision, revision.document, len(revision.packed)
        revision.save(update_fields=["packed", "base"])


class Migration(migrations.Migration):
    dependencies = [("builds", "0001_initial")]

    operations = [
        migrations.AddField("build", "version", models.PositiveIntegerField(default=1)),
        migrations.AddField("revision", "packed", models.BinaryField(default=b"")),
        migrations.AddField(
            "revision",
            "base",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="builds.revision"
            ),
        ),
        migrations.RunPython(pack_documents),
        migrations.RemoveField("revision", "document"),
        migrations.AlterField("revision", "packed", models.BinaryField()),
    ]
