"""Safe copies of the data file: on demand, and before each migration."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from datetime import datetime
from pathlib import Path

KEPT = 20


def back_up(data: Path, reason: str) -> Path | None:
    """Copy the file with SQLite's own backup, which is safe while it is written to. None when there is nothing to copy.

    Raises OSError or sqlite3.Error when there is no room or no right to; nothing half is left behind then.
    """
    if not data.is_file() or data.stat().st_size == 0:
        return None
    folder = data.parent / "backups"
    folder.mkdir(exist_ok=True, mode=0o700)
    stamp = datetime.now().astimezone().strftime("%Y%m%d-%H%M%S-%f")
    target = folder / f"{data.stem}-{stamp}-{reason}.sqlite3"
    try:
        os.close(os.open(target, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))
        with closing(sqlite3.connect(data)) as source, closing(sqlite3.connect(target)) as copy:
            source.backup(copy)
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    for old in sorted(folder.glob(f"{data.stem}-*.sqlite3"))[:-KEPT]:
        old.unlink()
    return target
