"""Whether the server and its data file answer."""

from __future__ import annotations

from django.conf import settings
from django.db import connection
from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel

from yardmeter import __version__

router = Router(tags=["health"])


class Health(BaseModel):
    status: str
    version: str
    journal: str
    data_file: str


@router.get("/health", response=Health)
def health(request: HttpRequest) -> Health:
    """Reads the data file's journal mode, so that a broken file does not count as healthy."""
    with connection.cursor() as cursor:
        journal = cursor.execute("PRAGMA journal_mode").fetchone()[0]
    return Health(status="ok", version=__version__, journal=str(journal), data_file=settings.DATA_FILE.name)
