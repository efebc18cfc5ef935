"""Django settings. Everything that differs between runs comes from the environment, set by the `yard` script."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from yardmeter.server.paths import data_file

ROOT = Path(__file__).resolve().parents[2]
WEB_DIST = Path(os.environ.get("YARD_WEB_DIST", ROOT / "web" / "dist"))
DATA_FILE = data_file(Path(os.environ["YARD_DATA"]) if os.environ.get("YARD_DATA") else None, demo=False)
HOST = os.environ.get("YARD_HOST", "127.0.0.1")
LOOPBACK = HOST in ("127.0.0.1", "localhost", "::1")

DEBUG = False
# Nothing outlives the process that would need a lasting key: no sessions, no signed cookies.
SECRET_KEY = secrets.token_urlsafe(50)
# Loopback names only, against other sites that resolve to this machine; another host needs a login (see access.py).
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", "testserver"] if LOOPBACK else ["*"]
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "yardmeter.server.builds",
    "yardmeter.server.shelf",
]
MIDDLEWARE = [
    "yardmeter.server.access.AccessMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
]
ROOT_URLCONF = "yardmeter.server.urls"
WSGI_APPLICATION = "yardmeter.server.wsgi.application"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": str(DATA_FILE),
        "CONN_MAX_AGE": None,
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"
STATIC_URL = "/static/"
WHITENOISE_ROOT = str(WEB_DIST)
WHITENOISE_INDEX_FILE = True
DATA_UPLOAD_MAX_MEMORY_SIZE = 8_000_000
SECURE_REFERRER_POLICY = "same-origin"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
