"""Start the server on a data file: migrate, load demo data if asked, listen, print the address."""

from __future__ import annotations

import argparse
import contextlib
import os
import sys
from pathlib import Path

from yardmeter.server.backup import back_up
from yardmeter.server.paths import data_file

LOOPBACK = ("127.0.0.1", "localhost", "::1")


def main(arguments: list[str] | None = None) -> int:
    options = _options(arguments)
    data = data_file(options.data, demo=options.demo)
    data.parent.mkdir(parents=True, exist_ok=True)
    os.environ.update(YARD_DATA=str(data), YARD_HOST=options.host, DJANGO_SETTINGS_MODULE="yardmeter.server.settings")
    import django

    django.setup()
    _prepare(options, data)
    fold_log()
    if options.host not in LOOPBACK and not _login_exists():
        print(
            f"{options.host} is reachable from other machines and no login is set up.\nSet one with: ./yard login NAME",
            file=sys.stderr,
        )
        return 2
    return _listen(options)


def _options(arguments: list[str] | None) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="yard run")
    parser.add_argument("--demo", action="store_true")
    parser.add_argument("--data", type=Path)
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, default=8127)
    parser.add_argument("--no-browser", action="store_true")
    return parser.parse_args(arguments)


def _prepare(options: argparse.Namespace, data: Path) -> None:
    """Migrate the file; for the demo start from an empty one and fill it."""
    from django.core.management import call_command

    if options.demo:
        for leftover in (data, data.with_name(data.name + "-wal"), data.with_name(data.name + "-shm")):
            leftover.unlink(missing_ok=True)
    if not options.demo and migrations_are_due():
        copied = back_up(data, "before-migration")
        if copied:
            print(f"The data file was copied to {copied} before its format is brought up to date.", flush=True)
    call_command("migrate", verbosity=0, interactive=False)
    from yardmeter.server.shelf.services import stock_shelf

    stock_shelf()
    if options.demo:
        from yardmeter.server.builds.services.demos import load_all_demos

        load_all_demos()


def migrations_are_due() -> bool:
    """Whether the data file has tables, but not yet all that this program needs."""
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    executor = MigrationExecutor(connection)
    return bool(executor.loader.applied_migrations) and bool(
        executor.migration_plan(executor.loader.graph.leaf_nodes())
    )


def _login_exists() -> bool:
    from django.contrib.auth.models import User

    return User.objects.exists()


def _listen(options: argparse.Namespace) -> int:
    from waitress.server import create_server

    from yardmeter.server.tidying import Tidying
    from yardmeter.server.wsgi import application

    try:
        server = create_server(Tidying(application, fold_log), host=options.host, port=options.port, threads=4)
    except OSError as error:
        print(f"Port {options.port} cannot be used ({error.strerror}). Choose another with --port.", file=sys.stderr)
        return 1
    port = options.port or getattr(server, "effective_port", options.port)
    host = f"[{options.host}]" if ":" in options.host else options.host
    address = f"http://{host}:{port}/"
    print(f"Yard Meter is at {address}  (stop with Ctrl+C)", flush=True)
    if not options.no_browser and sys.stdout.isatty():
        import webbrowser

        webbrowser.open(address)
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    fold_log()
    return 0


def fold_log() -> None:
    """Bring what stands in the write-ahead log into the data file, so that the file alone is the whole."""
    from django.db import DatabaseError, connection

    # A file that is busy or gone is no reason to stop: the log is as safe as the file, and the next pause comes.
    with contextlib.suppress(DatabaseError), connection.cursor() as cursor:
        cursor.execute("PRAGMA wal_checkpoint(PASSIVE)")


if __name__ == "__main__":
    raise SystemExit(main())
