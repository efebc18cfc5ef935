"""Where data lies."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_cache_path, user_data_path


def data_file(named: Path | None, *, demo: bool) -> Path:
    """The file named, else the demo's in the cache, else the builder's own where the platform keeps application data."""
    if named:
        return Path(named).expanduser().resolve()
    if demo:
        return user_cache_path("yard-meter") / "demo.sqlite3"
    return user_data_path("yard-meter") / "yard-meter.sqlite3"
