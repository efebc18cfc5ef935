"""Where data lies."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_cache_path, user_data_path


def data_file(named: Path | None) -> Path:
    """The file named, else the builder's own where the platform keeps application data."""
    return Path(named).expanduser().resolve() if named else user_data_path("yard-meter") / "yard-meter.sqlite3"


def demo_folder() -> Path:
    """Where demos keep their data, which nobody misses: in the platform's cache."""
    return user_cache_path("yard-meter")


def held_folder() -> Path:
    """Locks of data files by what they are, not by what they are called."""
    return user_cache_path("yard-meter") / "held"
