"""Set the login that is asked from other machines."""

from __future__ import annotations

import argparse
import getpass
import os
import sys
from pathlib import Path

from yardmeter.server.paths import data_file


def main() -> int:
    parser = argparse.ArgumentParser(prog="yard login")
    parser.add_argument("name")
    parser.add_argument("--data", type=Path)
    options = parser.parse_args()
    data = data_file(options.data)
    data.parent.mkdir(parents=True, exist_ok=True)
    os.environ.update(YARD_DATA=str(data), DJANGO_SETTINGS_MODULE="yardmeter.server.settings")
    import django

    django.setup()
    from django.contrib.auth.models import User
    from django.core.management import call_command

    call_command("migrate", verbosity=0, interactive=False)
    password = (
        getpass.getpass("Password (10 characters or more): ")
        if sys.stdin.isatty()
        else sys.stdin.readline().rstrip("\n")
    )
    if len(password) < 10:
        print("The password is shorter than 10 characters; nothing was set.", file=sys.stderr)
        return 1
    user, _ = User.objects.get_or_create(username=options.name)
    user.set_password(password)
    user.save()
    print(f"Login {options.name} is set in {data.name}. Start with ./yard run --host ADDRESS.")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
