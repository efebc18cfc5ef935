"""Django settings. Everything that differs between runs comes from the environment, set by the `yard` script."""

from __future__ import annotations

import os
from pathlib import Path
from urllib.parse import quote

from yardmeter.server.datafile import identity
from yardmeter.server.paths import data_file
from yardmeter.server.reach import allowed_hosts, is_loopback, signing_key

ROOT = Path(__file__).resolve().parents[2]
WEB_DIST = Path(os.environ.get("YARD_WEB_DIST", ROOT / "web" / "dist"))
DATA_FILE = data_file(Path(os.environ["YARD_DATA"]) if os.environ.get("YARD_DATA") else None)
DATA_IDENTITY = identity(DATA_FILE)
HOST = os.environ.get("YARD_HOST", "127.0.0.1")
PROXY = os.environ.get("YARD_PROXY", "")
LOOPBACK = is_loopback(HOST) and not PROXY
"""Whether this machine alone can ask; otherwise a login is needed."""
INSTRUMENT_HOSTS = tuple(os.environ.get("YARD_INSTRUMENTS", "").split())
"""Other machines on which instruments may be asked; the login's owner may allow more while the server runs."""

DEBUG = False
SECRET_KEY = signing_key(DATA_FILE, lasting=not LOOPBACK)
ALLOWED_HOSTS = allowed_hosts(HOST, os.environ.get("YARD_NAMES", "").split())
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "yardmeter.server.builds",
    "yardmeter.server.shelf",
]
MIDDLEWARE = [
    "yardmeter.server.packing.Packing",
    "yardmeter.server.access.seal",
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "yardmeter.server.access.door",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "yardmeter.server.access.login_asked",
    "yardmeter.server.access.data_file_guarded",
    "yardmeter.server.access.in_the_apis_form",
    "yardmeter.server.lines.lined_up",
]
ROOT_URLCONF = "yardmeter.server.urls"
WSGI_APPLICATION = "yardmeter.server.wsgi.application"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        # Never made anew by a connection: a file that was taken away must not come back empty.
        "NAME": f"file:{quote(str(DATA_FILE))}?mode={'rw' if DATA_IDENTITY else 'rwc'}",
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
DATA_UPLOAD_MAX_MEMORY_SIZE = 80_000_000
LARGEST_REQUEST, LARGEST_FLIGHT = 8_000_000, DATA_UPLOAD_MAX_MEMORY_SIZE
"""Bytes of a request, and of one with a recorder's table of a million rows; the door keeps both."""

# The login: a cookie that scripts cannot read, sent to this site alone, over TLS where a proxy speaks it. What it opens stands
# in the data file, so that a cookie that was copied opens nothing after its owner has logged out.
SESSION_ENGINE = "django.contrib.sessions.backends.db"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_AGE = 30 * 24 * 3600
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Strict"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = bool(PROXY)
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SILENCED_SYSTEM_CHECKS = [
    "security.W004",  # HSTS is said by whoever speaks TLS: the proxy
    "security.W008",  # likewise the redirect to it; on the machine's own loop there is no TLS
    "security.W012",  # the session's cookie is Secure behind a proxy; on the loop it would never be sent
    "security.W016",  # the token's cookie likewise
]
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    # A refused request is told to whoever asked; a queue of four threads is nothing to tell a builder.
    "loggers": {"django.request": {"level": "ERROR"}, "waitress.queue": {"level": "ERROR"}},
}
