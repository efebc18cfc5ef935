"""Parts as rows, so that thousands can be searched."""

from __future__ import annotations

from django.db import models


class PartRow(models.Model):
    """One part: the core's Part as JSON, with what is searched beside it. `own` ones were made here and can be changed; `version` counts the changes; `owned`
    are those in the builder's drawer, which need not be bought."""

    key = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=20, db_index=True)
    words = models.TextField()
    document = models.JSONField()
    schema_version = models.PositiveIntegerField(default=1)
    own = models.BooleanField(default=False)
    version = models.PositiveIntegerField(default=1)
    owned = models.PositiveIntegerField(default=0)
    updated_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["kind", "name", "key"]

    def __str__(self) -> str:
        return self.name
