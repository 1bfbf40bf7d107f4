"""Settings of the one installation that `./ember` runs: loopback only, database and secrets under var/."""

from __future__ import annotations

import json
import os
from ipaddress import ip_network
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent.parent
VAR = ROOT / "var"


def _read(path: Path, otherwise: str) -> str:
    return path.read_text() if path.exists() else otherwise


SECRET_KEY = _read(VAR / "secret-key", "only-for-building")
DEBUG = False
DEMO = os.environ.get("EMBER_DEMO", "1") == "1"  # offers the demo account on the sign-in page
DEMO_USER = "demo"
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
PORT = os.environ.get("EMBER_PORT", "8000")
TRUSTED_PROXIES = os.environ.get("EMBER_TRUSTED_PROXIES", "").split()  # addresses whose X-Forwarded-For is believed
CSRF_TRUSTED_ORIGINS = [f"http://{host}:{PORT}" for host in ("127.0.0.1", "localhost")]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django_tasks",
    "django_tasks_db",
    "accounts",
    "blobs",
    "catalogue",
    "instruments",
    "jobs",
    "notes",
    "operations",
    "projects",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "config.headers.content_security_policy",
    "config.headers.server_timing",
    "config.problems.one_shape",  # within both: refusals have their headers too
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "config.watch.watched",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"
TEMPLATES: list[dict[str, object]] = []

# A request may take this long [s]; a database that does not answer is given up sooner, so that it is told in time.
REQUEST_SECONDS, REQUEST_SECONDS_BY_CLOCK = 20.0, 90.0  # of processor time, and in all
END_HUNG_PROCESS = os.environ.get("EMBER_SERVES") == "1"  # only where the web server replaces it
_impatient = {"connect_timeout": 1, "read_timeout": 3, "write_timeout": 3} if END_HUNG_PROCESS else {}

_database = json.loads(_read(VAR / "database.json", "{}"))
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "NAME": os.environ.get("EMBER_DATABASE", _database.get("name", "ember")),
        "USER": _database.get("user", "ember"),
        "PASSWORD": _database.get("password", ""),
        "HOST": _database.get("socket", "127.0.0.1"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"charset": "utf8mb4", "init_command": "SET sql_mode='STRICT_ALL_TABLES', innodb_lock_wait_timeout=2",
                    **_impatient},
        "TEST": {"CHARSET": "utf8mb4", "COLLATION": "utf8mb4_unicode_ci"},
    }
}  # fmt: skip
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("UserAttributeSimilarityValidator", "MinimumLengthValidator", "CommonPasswordValidator",
                 "NumericPasswordValidator")
]  # fmt: skip
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_AGE = 60 * 60 * 24 * 30

# Networks in which accounts may reach instruments, as 192.168.7.0/24, a comma between them; none unless the operator names some.
_networks = os.environ.get("EMBER_INSTRUMENT_NETWORKS", "").replace(" ", "").split(",")
INSTRUMENT_NETWORKS = [str(ip_network(x, strict=False)) for x in _networks if x]

DATA_UPLOAD_MAX_MEMORY_SIZE = 6_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 6_000_000

TIME_ZONE = "UTC"
USE_TZ = True
LANGUAGE_CODE = "en"
USE_I18N = False

WEB_DIST = ROOT / "web" / "dist"
STATIC_URL = "/static/"
STATIC_ROOT = None
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.exists() else None
WHITENOISE_MAX_AGE = 3600
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[A-Za-z0-9_-]{8}\.\w+$"  # the build puts a digest into these names
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"

TEST_RUNNER = "config.test_runner.CountingRunner"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"django.request": {"level": "ERROR"}},
}
SILENCED_SYSTEM_CHECKS = ["staticfiles.W004"]
