"""Print the API's OpenAPI description, from which the front end's types are generated."""

from __future__ import annotations

import json
import os


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "yardmeter.server.settings")
    import django

    django.setup()
    from yardmeter.server.api import api

    print(json.dumps(api.get_openapi_schema(), indent=1, sort_keys=True))


if __name__ == "__main__":
    main()
