"""Set the login that is asked from other machines."""

from __future__ import annotations

import argparse
import getpass
import os
import re
import sys
from pathlib import Path

from yardmeter.core.plan.text import CLEAN
from yardmeter.server.datafile import DataFileError, make_ready, sentence
from yardmeter.server.paths import data_file

SHORTEST = 10


def main(arguments: list[str] | None = None) -> int:
    """Exit status: 0 when set, 1 for what is said in one sentence, 130 for Ctrl+C."""
    parser = argparse.ArgumentParser(prog="yard login")
    parser.add_argument("name")
    parser.add_argument("--data", type=Path)
    options = parser.parse_args(arguments)
    try:
        return _set(options.name.strip(), data_file(options.data))
    except DataFileError as error:
        print(error, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("Stopped; nothing was set.", file=sys.stderr)
        return 130


def _set(name: str, data: Path) -> int:
    if not name or len(name) > 150 or not re.match(CLEAN, name):
        print("A login needs a name of 1 to 150 characters, without line breaks; nothing was set.", file=sys.stderr)
        return 1
    asked = "Password (10 characters or more): "
    password = getpass.getpass(asked) if sys.stdin.isatty() else sys.stdin.readline().rstrip("\n")
    if len(password) < SHORTEST:
        print(f"The password is shorter than {SHORTEST} characters; nothing was set.", file=sys.stderr)
        return 1
    make_ready(data)
    os.environ.update(YARD_DATA=str(data), DJANGO_SETTINGS_MODULE="yardmeter.server.settings")
    import django
    from django.db import DatabaseError

    django.setup()
    from django.contrib.auth.models import User
    from django.core.management import call_command

    try:
        call_command("migrate", verbosity=0, interactive=False)
        user, _ = User.objects.get_or_create(username=name)
        user.set_password(password)
        user.save()
    except DatabaseError as error:
        raise DataFileError(sentence(data, error)) from None
    print(f"Login {name} is set in {data.name}. Start with ./yard run --host ADDRESS.")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
