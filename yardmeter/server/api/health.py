"""Whether the server and its data file answer."""

from __future__ import annotations

from django.conf import settings
from django.db import connection
from django.http import HttpRequest
from ninja import Router, Status
from pydantic import BaseModel

from yardmeter import __version__
from yardmeter.server.access import data_file_is_there
from yardmeter.server.backup import back_up
from yardmeter.server.builds.errors import ConflictError
from yardmeter.server.kept import kept_bytes
from yardmeter.server.urgency import URGENCY

router = Router(tags=["health"])


class Health(BaseModel):
    status: str
    version: str
    journal: str
    data_file: str
    kept_bytes: dict[str, int] = {}
    """Of each kind of answer that is kept; all together stay under a bound."""
    waiting: int = 0
    """Questions in line."""


class BackupView(BaseModel):
    file: str


@router.post("/backup", response=BackupView)
def make_backup(request: HttpRequest) -> BackupView:
    """Copy the data file into the folder `backups` beside it."""
    made = back_up(settings.DATA_FILE, "on-demand")
    if made is None:
        raise ConflictError(
            "There is no data file to copy yet.", where=settings.DATA_FILE.name, remedy="Make a build first."
        )
    return BackupView(file=str(made))


@router.get("/health", response={200: Health, 503: Health})
def health(request: HttpRequest) -> Health | Status[Health]:
    """Reads the data file's journal mode, so that a broken file does not count as healthy, nor one that was taken away."""
    if not data_file_is_there():
        gone = Health(status="data file gone", version=__version__, journal="", data_file=settings.DATA_FILE.name)
        return Status(503, gone)
    with connection.cursor() as cursor:
        journal = cursor.execute("PRAGMA journal_mode").fetchone()[0]
    return Health(
        status="ok",
        version=__version__,
        journal=str(journal),
        data_file=settings.DATA_FILE.name,
        kept_bytes=kept_bytes(),
        waiting=URGENCY.waiting,
    )
