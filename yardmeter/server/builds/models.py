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


class TrainingRound(models.Model):
    """A fault hidden in the stand-in. What was done to find it are the bench entries that name the round; `mended` are the
    hidden faults found so far, `wrong` those that were named and were not there."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="training_rounds")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    level = models.CharField(max_length=10)
    seed = models.PositiveIntegerField()
    faults = models.JSONField(default=list)
    mended = models.JSONField(default=list)
    wrong = models.JSONField(default=list)
    who = models.CharField(max_length=80, blank=True, default="")
    created_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.plan_id} {self.level} {self.created_at:%Y-%m-%d}"


class BenchEntry(models.Model):
    """One thing done at the bench. Only ever added to.

    A step of the list passed, failed or skipped; a trial of the search that was read, `about` the step that had failed; or a
    fault that was repaired. `signature` is what the step asked and expected then; a step that asks otherwise by now is to be
    done again.
    """

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="bench_entries")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    training = models.ForeignKey(TrainingRound, on_delete=models.CASCADE, null=True, related_name="bench_entries")
    step = models.CharField(max_length=300)
    about = models.CharField(max_length=200, blank=True, default="")
    signature = models.CharField(max_length=16)
    title = models.CharField(max_length=300)
    expected = models.CharField(max_length=200)
    text = models.CharField(max_length=60, blank=True, default="")
    value = models.FloatField(null=True)
    outcome = models.CharField(
        max_length=10, choices=[(one, one) for one in ("passed", "failed", "skipped", "read", "repaired")]
    )
    note = models.CharField(max_length=500, blank=True, default="")
    who = models.CharField(max_length=80, blank=True, default="")
    instrument = models.CharField(max_length=120, blank=True, default="")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.step}: {self.outcome}"


class LogEntry(models.Model):
    """One line of a build's log, at a time and a step of a plan. Only ever added to: a correction is an entry that names the one
    it stands for, and one that is struck out is corrected by an empty one.

    `data` holds what belongs to the kind: value, unit, where, condition and instrument of a measurement; columns of a flight.
    """

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="log_entries")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    corrects = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="corrections")
    kind = models.CharField(max_length=12)
    title = models.CharField(max_length=200)
    text = models.TextField(blank=True, default="")
    data = models.JSONField(default=dict)
    who = models.CharField(max_length=80, blank=True, default="")
    at = models.DateTimeField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "id"]

    def __str__(self) -> str:
        return f"{self.kind}: {self.title}"


class LogFlight(models.Model):
    """The series of a flight, packed."""

    entry = models.OneToOneField(LogEntry, on_delete=models.CASCADE, related_name="flight")
    packed = models.BinaryField()


class LogPicture(models.Model):
    """A picture beside an entry, written anew from what was sent."""

    entry = models.ForeignKey(LogEntry, on_delete=models.CASCADE, related_name="pictures")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    jpeg = models.BinaryField()

    class Meta:
        ordering = ["id"]
