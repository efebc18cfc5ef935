"""Build, Plan, Revision. A plan's graph is stored as a whole, as the core's plan document."""

from __future__ import annotations

from typing import Any

from django.db import models

from yardmeter.server.builds.documents import restored, unpack


class Build(models.Model):
    """One aircraft's electrics; holds plans. Deleting marks it, so that it can be undone. `version` counts its changes."""

    name = models.CharField(max_length=80)
    note = models.TextField(blank=True, default="")
    demo = models.CharField(max_length=40, blank=True, default="")
    version = models.PositiveIntegerField(default=1)
    created_at = models.DateTimeField(auto_now_add=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.name


class Plan(models.Model):
    """One way to wire a build. `head` is the revision shown; `tip` the end of the line redo walks along."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="plans")
    name = models.CharField(max_length=80)
    head = models.ForeignKey("Revision", on_delete=models.PROTECT, null=True, related_name="+")
    tip = models.ForeignKey("Revision", on_delete=models.PROTECT, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    deleted_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.name


class Revision(models.Model):
    """One state of a plan. Never changed once written; undo steps to the parent.

    `packed` is the whole document where `base` is empty, else what differs from the one of `base`, which is a whole one.
    """

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="revisions")
    parent = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="children")
    base = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="+")
    number = models.PositiveIntegerField()
    schema_version = models.PositiveIntegerField()
    packed = models.BinaryField()
    edits = models.JSONField(default=list)
    summary = models.CharField(max_length=200)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["plan", "number"], name="revision_number_once_per_plan")]

    def __str__(self) -> str:
        return f"{self.plan_id} #{self.number} {self.summary}"

    def document(self) -> Any:
        """Plain data of the plan at this step, as of `schema_version`."""
        return unpack(self.packed) if self.base is None else restored(unpack(self.base.packed), unpack(self.packed))
