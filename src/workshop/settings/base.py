"""Settings of the web application; everything local lives in one folder, ``VAR``."""

import ipaddress
import os
import secrets
import socket
from datetime import timedelta
from http import HTTPStatus
from pathlib import Path

from csp.constants import NONE, SELF
from platformdirs import user_data_path

from workshop.settings.digest import static_digest

PROGRAM = Path(__file__).resolve().parents[1]
"""Where the program's own files lie: nothing is written there."""
VAR = Path(os.environ.get("OLD_EMBER_VAR") or user_data_path("old-ember", appauthor=False))
VAR.mkdir(parents=True, exist_ok=True)

HOST = os.environ.get("HOST", "127.0.0.1")
PORT = int(os.environ.get("PORT", "8000"))
CONTROLLER_PORT = int(os.environ.get("CONTROLLER_PORT", "4210"))
WITNESS_PORT = int(os.environ.get("WITNESS_PORT", "4211"))
MORE_STANDINS = [
    tuple(int(port) for port in pair.split(":"))
    for pair in os.environ.get("MORE_STANDINS", "").split(",")
    if pair
]
"""Controller and witness ports of further stand-ins, as ``4212:4213,…``."""
LINK_FOLDER = VAR / "link"
LINK_HOSTS = [one for one in os.environ.get("LINK_HOSTS", "").split(",") if one]
"""Hosts beyond this machine that a machine's port may lie on (``socket://host:port``)."""


def _is_loopback(host: str) -> bool:
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


def _secret() -> str:
    path = VAR / "secret"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(48))
        path.chmod(0o600)
    return path.read_text().strip()


REQUIRE_LOGIN = not _is_loopback(HOST)
"""On any address but loopback everyone must sign in."""

SECRET_KEY = _secret()
DEBUG = False


def _names() -> list[str]:
    """Return the names this machine is asked by; others are refused.

    ALLOWED_HOSTS names them, with commas. Without it off loopback: this machine's own
    name and addresses.
    """
    near = ["localhost", "127.0.0.1", "[::1]"]
    if named := os.environ.get("ALLOWED_HOSTS"):
        return [*near, *(one.strip() for one in named.split(",") if one.strip())]
    if not REQUIRE_LOGIN:
        return near
    own = socket.gethostname()
    try:
        found = {str(one[4][0]) for one in socket.getaddrinfo(own, None)}
    except OSError:
        found = set()
    return [*near, HOST, own, f"{own}.local", *sorted(found)]


ALLOWED_HOSTS = _names()

BEHIND_TLS = os.environ.get("BEHIND_TLS", "") == "1"
"""Whether a proxy on this machine speaks TLS to the world and hands requests on."""
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = BEHIND_TLS
SECURE_HSTS_SECONDS = 31_536_000 if BEHIND_TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = BEHIND_TLS
CSRF_COOKIE_HTTPONLY = True
X_FRAME_OPTIONS = "DENY"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "django_htmx",
    "csp",
    "axes",
    "huey.contrib.djhuey",
    "workshop.shell",
    "workshop.shelf",
    "workshop.jobs",
    "workshop.bench",
    "workshop.keeping",
    "workshop.demo",
    "workshop.handbook",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "workshop.shell.middleware.Operator",
    "workshop.shell.middleware.Trouble",
]
if REQUIRE_LOGIN:
    MIDDLEWARE.append("django.contrib.auth.middleware.LoginRequiredMiddleware")
MIDDLEWARE += ["workshop.shell.roles.Roles", "axes.middleware.AxesMiddleware"]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
_CHECKS = ("MinimumLengthValidator", "CommonPasswordValidator", "NumericPasswordValidator")
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"} for name in _CHECKS
]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = ["username", "ip_address"]
AXES_LOCKOUT_CALLABLE = "workshop.shell.views.locked_out"
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
LOGIN_URL = "login"
LOGIN_REDIRECT_URL = "rack"

ROOT_URLCONF = "workshop.urls"
WSGI_APPLICATION = "workshop.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        # A station's template lies in its own folder.
        "DIRS": [PROGRAM],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "workshop.bench.context.lamp",
                "workshop.shell.context.units",
            ],
            "builtins": [
                "workshop.shell.templatetags.ember",
                "workshop.handbook.templatetags.handbook",
            ],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "workshop.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 5,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

MEDIA_ROOT = Path(os.environ.get("OLD_EMBER_FILES") or VAR / "files")
# An address says what lies there, so a browser never asks for it again, and an upgrade
# never mixes old files with new; scripts import one another by their way from here.
STATIC_URL = f"static/{static_digest(PROGRAM)}/"
# The handbook's pictures lie beside its pages, where its files refer to them.
STATICFILES_DIRS = [("handbook", PROGRAM / "handbook" / "pages" / "img")]
WHITENOISE_USE_FINDERS = True
WHITENOISE_IMMUTABLE_FILE_TEST = "^/static/"

DATA_UPLOAD_MAX_MEMORY_SIZE = 10 * 2**20
FILE_UPLOAD_MAX_MEMORY_SIZE = 4 * 2**20

LANGUAGE_CODE = "en"
TIME_ZONE = os.environ.get("TZ", "UTC")
USE_TZ = True

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "blob:", "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}

HUEY = {
    "huey_class": "huey.SqliteHuey",
    "name": "workshop",
    "filename": str(VAR / "tasks.sqlite3"),
    "immediate": False,
    "consumer": {
        "workers": 2,
        "worker_type": "thread",
        "initial_delay": 0.05,
        "max_delay": 0.5,
    },
}
if redis_url := os.environ.get("OLD_EMBER_REDIS"):
    del HUEY["filename"]
    HUEY |= {"huey_class": "huey.RedisHuey", "url": redis_url}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "filters": {
        # That a picture is past is no fault: a page asked while somebody went on.
        "but_past": {
            "()": "django.utils.log.CallbackFilter",
            "callback": lambda record: getattr(record, "status_code", 0) != HTTPStatus.GONE,
        }
    },
    "loggers": {"django.request": {"filters": ["but_past"]}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}

PICTURE_CACHE_BYTES = 700_000_000
"""Of each process: twelve tickets of 4 megapixels. All of it stays under 1.5 GB so."""
