"""Whether the server and its data file answer."""

from __future__ import annotations

from django.conf import settings
from django.db import connection
from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel

from yardmeter import __version__
from yardmeter.core.errors import EditError
from yardmeter.server.api.errors import ERROR_RESPONSES
from yardmeter.server.backup import back_up

router = Router(tags=["health"])


class Health(BaseModel):
    status: str
    version: str
    journal: str
    data_file: str


class BackupView(BaseModel):
    file: str


@router.post("/backup", response={200: BackupView, **ERROR_RESPONSES})
def make_backup(request: HttpRequest) -> BackupView:
    """Copy the data file into the folder `backups` beside it."""
    made = back_up(settings.DATA_FILE, "on-demand")
    if made is None:
        raise EditError(
            "There is no data file to copy yet.", where=settings.DATA_FILE.name, remedy="Make a build first."
        )
    return BackupView(file=str(made))


@router.get("/health", response=Health)
def health(request: HttpRequest) -> Health:
    """Reads the data file's journal mode, so that a broken file does not count as healthy."""
    with connection.cursor() as cursor:
        journal = cursor.execute("PRAGMA journal_mode").fetchone()[0]
    return Health(status="ok", version=__version__, journal=str(journal), data_file=settings.DATA_FILE.name)
