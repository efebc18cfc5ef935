"""Start the server on a data file: take the port, claim the file, migrate, listen, print the address."""

from __future__ import annotations

import argparse
import contextlib
import errno
import os
import signal
import socket
import sys
import tempfile
import threading
from pathlib import Path

from yardmeter.server.backup import back_up
from yardmeter.server.datafile import MARK, SIDE_FILES, Claim, DataFileError, claim_demo, make_ready, sentence
from yardmeter.server.paths import data_file, demo_folder
from yardmeter.server.tidying import few_arenas, give_back_memory

LOOPBACK = ("127.0.0.1", "localhost", "::1")
STOPPED = 130
"""Exit status after Ctrl+C, as shells count it."""
CHANNELS = 1000
"""Connections held at once; a browser uses six, the rest is for those that never finish what they ask."""
SWITCH_S = 2e-4
"""An edit gives the interpreter up wherever NumPy works by itself, and would wait 5 ms each time to have it back."""
THREADS = 24
"""Few of them work at a time (see `urgency`); the others wait in line or for another's answer."""
AGAIN_S = 0.05
"""A stop that was lost is said again after this long."""
IN_MEMORY = 16 << 20
"""Bytes of an answer that wait to be sent before they go by way of a file; that of a thousand devices has seven million."""
IDLE_S = 30
"""An open connection on which nothing comes for this long is closed."""


class StartError(Exception):
    """The server cannot start; the text says why in one sentence."""


def main(arguments: list[str] | None = None) -> int:
    """Exit status: 0 never, since only a signal ends the server; 1 for what is said in one sentence, 130 for Ctrl+C."""
    options = argparse.Namespace()
    try:
        _hear_signals()
        few_arenas()
        options = _options(arguments)
        return _start(options)
    except (StartError, DataFileError) as error:
        print(error, file=sys.stderr)
        return 1
    except BaseException as error:
        if not _is_stop(error, running=getattr(options, "running", False)):
            raise
        print("Stopped.", file=sys.stderr)
        return STOPPED


def _is_stop(error: BaseException | None, *, running: bool) -> bool:
    """Whether it is Ctrl+C. On the way up that may come in the middle of an import or of a class that is being made, which hand it
    on as an error of their own; once the server runs, what goes wrong while it ends is told."""
    while error is not None and not isinstance(error, KeyboardInterrupt):
        error = None if running else error.__cause__ or error.__context__
    return error is not None


def _hear_signals() -> None:
    """Ctrl+C was held back until there is somebody to answer it (see `yard`); from now on it is heard."""
    if hasattr(signal, "pthread_sigmask"):
        signal.signal(signal.SIGINT, signal.default_int_handler)
        signal.signal(signal.SIGTERM, signal.default_int_handler)  # what a service manager says is Ctrl+C
        sys.unraisablehook = _said_again
        signal.pthread_sigmask(signal.SIG_UNBLOCK, [signal.SIGINT])


def _said_again(lost: sys.UnraisableHookArgs) -> None:
    """A stop that fell where no exception can leave, as in a destructor, is said once more."""
    if lost.exc_type is KeyboardInterrupt:
        again = threading.Timer(AGAIN_S, os.kill, (os.getpid(), signal.SIGINT))
        again.daemon = True
        again.start()
    else:
        sys.__unraisablehook__(lost)


def _options(arguments: list[str] | None) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="yard run")
    parser.add_argument("--demo", action="store_true", help="fresh demo data in a file of its own")
    parser.add_argument("--data", type=Path, help="the data file")
    parser.add_argument(
        "--host", default="127.0.0.1", help="address to listen at; another than this machine's own loop needs a login"
    )
    parser.add_argument("--port", type=int, default=8127)
    parser.add_argument(
        "--name",
        action="append",
        default=[],
        help="a name this server is asked for by, besides its address; may be repeated",
    )
    parser.add_argument(
        "--instrument",
        action="append",
        default=[],
        help="another machine, by address or name, whose instruments may be asked; may be repeated",
    )
    parser.add_argument("--proxy", default="", help="address of a proxy that speaks TLS in front of this server")
    parser.add_argument("--no-browser", action="store_true")
    options = parser.parse_args(arguments)
    if options.demo and options.data:
        raise StartError("The demo has a file of its own and starts from nothing: leave out --demo or --data.")
    if not 0 <= options.port <= 65535:
        raise StartError(f"{options.port} is no port. Choose one from 0 (any that is free) to 65535 with --port.")
    return options


def _start(options: argparse.Namespace) -> int:
    # The port first: a second start must fail before it has touched anything.
    listener = _bind(options.host, options.port)
    with listener:
        host = f"[{options.host}]" if ":" in options.host else options.host
        address = f"http://{host}:{listener.getsockname()[1]}/"
        if options.demo:
            data, claim = _demo_data()
        else:
            data = data_file(options.data)
            claim = Claim(data)
        claim.tell(address)
        try:
            _open(options, data, claim)
            return _listen(options, listener, address)
        finally:
            claim.release()


def _demo_data() -> tuple[Path, Claim]:
    """A demo's data is made anew each time: where its usual folder cannot be written, one for the moment does."""
    try:
        return claim_demo(demo_folder())
    except DataFileError:
        return claim_demo(Path(tempfile.mkdtemp(prefix="yard-meter-demo-")))


def _bind(host: str, port: int) -> socket.socket:
    try:
        family, kind, number, _, where = socket.getaddrinfo(
            host, port, type=socket.SOCK_STREAM, flags=socket.AI_PASSIVE
        )[0]
        listener = socket.socket(family, kind, number)
    except (OSError, UnicodeError):
        raise StartError(f"“{host}” is no address of this machine. Give one with --host, or leave it out.") from None
    try:
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listener.bind(where)
        listener.listen(CHANNELS)
    except OSError as error:
        listener.close()
        if error.errno == errno.EADDRNOTAVAIL:
            raise StartError(
                f"“{host}” is no address of this machine. Give one with --host, or leave it out."
            ) from None
        raise StartError(
            f"Port {port} at {host} cannot be used ({error.strerror}). Choose another with --port."
        ) from None
    return listener


def _open(options: argparse.Namespace, data: Path, claim: Claim) -> None:
    """Everything between a named file and a server that may answer from it."""
    made = make_ready(data)
    claim.hold_the_file()
    os.environ.update(
        YARD_DATA=str(data),
        YARD_HOST=options.host,
        YARD_NAMES=" ".join(options.name),
        YARD_INSTRUMENTS=" ".join(options.instrument),
        YARD_PROXY=options.proxy,
        DJANGO_SETTINGS_MODULE="yardmeter.server.settings",
    )
    import django
    from django.db import DatabaseError, connections

    try:
        django.setup()
        _prepare(options, data, made=made)
        fold_log()
    except (DatabaseError, OSError) as error:
        connections.close_all()
        if made:  # a log left beside no file would be taken for another's
            for leftover in (data, *(data.with_name(data.name + one) for one in SIDE_FILES)):
                leftover.unlink(missing_ok=True)
        raise DataFileError(sentence(data, error)) from None
    from django.conf import settings

    if not settings.LOOPBACK and not _login_exists():
        raise StartError(
            f"{options.host} is reachable from other machines and no login is set up.\nSet one with: ./yard login NAME"
        )


def _prepare(options: argparse.Namespace, data: Path, *, made: bool) -> None:
    """Migrate the file; fill the demo's."""
    from django.core.management import call_command
    from django.db import connection

    due = migrations_are_due()
    if due and not made:
        copied = back_up(data, "before-migration")
        if copied:
            print(f"The data file was copied to {copied} before its format is brought up to date.", flush=True)
    call_command("migrate", verbosity=0, interactive=False)
    call_command("clearsessions", verbosity=0)
    with connection.cursor() as cursor:
        cursor.execute(f"PRAGMA application_id = {MARK}")
        if due and not made:
            cursor.execute("VACUUM")  # a new format may need less room
    from yardmeter.server.shelf.services import stock_shelf

    stock_shelf()
    if options.demo:
        from yardmeter.server.builds.services.demos import load_all_demos

        load_all_demos()


def _stand_in() -> None:
    """A meter and a supply that measure a demo build, for any program that talks to instruments."""
    from yardmeter import demo
    from yardmeter.instruments.listening import HOST
    from yardmeter.instruments.meter_cli import PORT
    from yardmeter.server.builds.services.meters import stand_ins

    found = stand_ins(demo.plan("marshlight-as-soldered"), PORT)
    print(
        f"A stand-in meter measures Marshlight at {HOST}:{found.meter.port}, a supply at {HOST}:{found.supply.port}.",
        flush=True,
    )


def migrations_are_due() -> bool:
    """Whether the data file lacks tables that this program needs."""
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    executor = MigrationExecutor(connection)
    return bool(executor.migration_plan(executor.loader.graph.leaf_nodes()))


def _login_exists() -> bool:
    from django.contrib.auth.models import User

    return User.objects.exists()


def _say_what_is_compiled() -> None:
    """The first analysis, and the first run, compile where that could not be done before: nobody should wonder what they do."""
    from yardmeter.compiled import is_ready

    if not is_ready():
        print(
            "Nothing is compiled yet, and what is compiled cannot be kept: the first analysis takes half a minute, the first run another.",
            flush=True,
        )


def _listen(options: argparse.Namespace, listener: socket.socket, address: str) -> int:
    from waitress.server import create_server

    from yardmeter.compiled.pages import let_compiler_pages_go
    from yardmeter.server.builds.services.meters import put_away
    from yardmeter.server.tidying import Tidying
    from yardmeter.server.wsgi import application

    trusted = (
        {
            "trusted_proxy": options.proxy,
            "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto", "x-forwarded-host"},
        }
        if options.proxy
        else {}
    )
    sys.setswitchinterval(SWITCH_S)
    server = create_server(
        Tidying(application, fold_log, give_back_memory, let_compiler_pages_go),
        sockets=[listener],
        threads=THREADS,
        connection_limit=CHANNELS,
        channel_timeout=IDLE_S,
        cleanup_interval=5,
        asyncore_use_poll=True,  # select() stops at 1,024 descriptors
        outbuf_overflow=IN_MEMORY,
        channel_request_lookahead=1,  # tells a request that its client has gone
        **trusted,
    )
    print(f"Yard Meter is at {address}  (stop with Ctrl+C)", flush=True)
    _say_what_is_compiled()
    if options.demo:
        _stand_in()
    if not options.no_browser and sys.stdout.isatty():
        import webbrowser

        webbrowser.open(address)
    options.running = True
    try:
        server.run()  # takes Ctrl+C for its end
    finally:
        put_away()  # whatever supply is on goes off
        fold_log()
    raise KeyboardInterrupt


def fold_log() -> None:
    """Bring what stands in the write-ahead log into the data file, so that the file alone is the whole."""
    from django.db import DatabaseError, connection

    # A file that is busy or gone is no reason to stop: the log is as safe as the file, and the next pause comes.
    with contextlib.suppress(DatabaseError), connection.cursor() as cursor:
        cursor.execute("PRAGMA wal_checkpoint(PASSIVE)")


if __name__ == "__main__":
    status = main()
    sys.stdout.flush()
    sys.stderr.flush()
    # Not by way of the interpreter's own end: where Ctrl+C came in the middle of an extension's import, that would end with
    # the signal's status, though it was answered.
    os._exit(status)
