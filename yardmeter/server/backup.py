"""Safe copies of the data file: on demand, and before each migration."""

from __future__ import annotations

import sqlite3
from datetime import datetime
from pathlib import Path

KEPT = 20


def back_up(data: Path, reason: str) -> Path | None:
    """Copy the file with SQLite's own backup, which is safe while it is written to. None when there is nothing to copy."""
    if not data.is_file() or data.stat().st_size == 0:
        return None
    folder = data.parent / "backups"
    folder.mkdir(exist_ok=True)
    stamp = datetime.now().astimezone().strftime("%Y%m%d-%H%M%S-%f")
    target = folder / f"{data.stem}-{stamp}-{reason}.sqlite3"
    source, copy = sqlite3.connect(data), sqlite3.connect(target)
    try:
        source.backup(copy)
    finally:
        copy.close()
        source.close()
    for old in sorted(folder.glob(f"{data.stem}-*.sqlite3"))[:-KEPT]:
        old.unlink()
    return target
