"""Django settings. Everything that differs between shops comes from the environment.

BRIGHT_DATA      folder of database, cache and secret (default: var/shop beside the project)
BRIGHT_HOSTS     host names to answer to, comma separated (default: localhost) BRIGHT_ORIGINS
trusted origins behind an HTTPS proxy, such as https://bench.example BRIGHT_DEBUG     "1" for
development BRIGHT_STANDIN   line of the stand-in (default: tcp:127.0.0.1:8502 in the demo)
BRIGHT_DEMO      "1" shows the demo account on the sign-in page
"""

import sys
from pathlib import Path

import environ
from csp.constants import NONE, SELF
from django.core.management.utils import get_random_secret_key

env = environ.Env()
ROOT = Path(__file__).resolve().parents[2]
TESTING = len(sys.argv) > 1 and sys.argv[1] == "test"
DATA = (
    ROOT / "var" / "test"
    if TESTING
    else Path(env.str("BRIGHT_DATA", default=str(ROOT / "var" / "shop")))
)
DATA.mkdir(parents=True, exist_ok=True)
DEBUG = env.bool("BRIGHT_DEBUG", default=False)
DEMO = env.bool("BRIGHT_DEMO", default=False)
STANDIN = env.str("BRIGHT_STANDIN", default="tcp:127.0.0.1:8502" if DEMO else "")
"""The line of the stand-in that the demo starts; "" where there is none."""


def _secret() -> str:
    """Return this installation's own secret, made on first use and kept private."""
    if TESTING:
        return "only-for-tests"
    path = DATA / "secret"
    if not path.exists() or not path.read_text().strip():
        path.touch(mode=0o600)
        path.chmod(0o600)
        path.write_text(get_random_secret_key())
    return path.read_text().strip()


SECRET_KEY = _secret()
ALLOWED_HOSTS = env.list("BRIGHT_HOSTS", default=["localhost", "127.0.0.1", "[::1]"])
CSRF_TRUSTED_ORIGINS = env.list("BRIGHT_ORIGINS", default=[])
TRUSTED_PROXY = env.str("BRIGHT_PROXY", default="127.0.0.1" if CSRF_TRUSTED_ORIGINS else "")
"""The one address whose word about scheme and client is taken."""

IDLE_MINUTES = env.int("BRIGHT_IDLE_MINUTES", default=0)
"""After so many minutes without a request a person is signed out; 0: never. For shared tablets."""

if IDLE_MINUTES:
    SESSION_COOKIE_AGE, SESSION_SAVE_EVERY_REQUEST = 60 * IDLE_MINUTES, True

SECURE_HSTS_SECONDS = env.int("BRIGHT_HSTS_SECONDS", default=0)
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = bool(CSRF_TRUSTED_ORIGINS)
if CSRF_TRUSTED_ORIGINS:
    SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "__Host-session", "__Host-csrf"

IN_ORDER = ("arrive", "match", "wire", "set", "program", "trace", "prove", "record")
STATIONS = [f"brightcircuit.{name}" for name in IN_ORDER]
"""Stations in the order of work: each is an app with a `station.py`.

Adding one is its folder and one name here.
"""

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "brightcircuit.shop",
    "brightcircuit.library",
    "brightcircuit.bikes",
    "brightcircuit.jobs",
    "brightcircuit.engines",
    "brightcircuit.stations",
    *STATIONS,
    "brightcircuit.bench",
    "brightcircuit.practice",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "brightcircuit.shop.welcome.entrance",
    "brightcircuit.shop.welcome.shop_time",
    "brightcircuit.common.limits.limit_bodies",
    "brightcircuit.common.answers.leaving",
    "brightcircuit.common.once.once",
    "brightcircuit.jobs.stale.ShowStale",
    "brightcircuit.stations.current.Summaries",
    "brightcircuit.common.once.SignedIn",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
AXES_LOCKOUT_CALLABLE = "brightcircuit.shop.lockout.locked"
AXES_ENABLED = not TESTING

AUTH_USER_MODEL = "shop.Person"
SHORTEST_PASSWORD = 12
AUTH_PASSWORD_VALIDATORS = [
    {
        "NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator",
        "OPTIONS": {"max_similarity": 0.6},
    },
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": SHORTEST_PASSWORD},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
PASSWORD_HASHERS = (
    ["django.contrib.auth.hashers.MD5PasswordHasher"]
    if TESTING
    else ["brightcircuit.common.hashing.ShopHasher"]
)
CSRF_FAILURE_VIEW = "brightcircuit.common.broken.other_token"
LOGIN_URL = "login"
LOGIN_REDIRECT_URL = "bench"
LOGOUT_REDIRECT_URL = "login"

ROOT_URLCONF = "brightcircuit.urls"
WSGI_APPLICATION = "brightcircuit.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [Path(__file__).parent / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "brightcircuit.shop.context.installation",
            ],
            "builtins": ["brightcircuit.common.dates", "brightcircuit.stations.tags"],
        },
    }
]

_PRAGMAS = "PRAGMA journal_mode=WAL;PRAGMA foreign_keys=ON;PRAGMA synchronous="
_PRAGMAS += "OFF;PRAGMA wal_autocheckpoint=1;" if TESTING else "FULL;"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "bright.sqlite3",
        "CONN_MAX_AGE": None,
        "OPTIONS": {"timeout": 20, "transaction_mode": "IMMEDIATE", "init_command": _PRAGMAS},
        "TEST": {"NAME": DATA / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
PREDICTION_CACHE = DATA / "predictions"
PREDICTION_CACHE_FILES = 24
PREPARE_PREDICTIONS = not TESTING and (
    sys.argv[1:2] in (["serve"], ["runserver"]) or "manage.py" not in sys.argv[0]
)

LANGUAGE_CODE = "en-gb"
TIME_ZONE = env.str("BRIGHT_TIME_ZONE", default="UTC")
USE_TZ = True

STATIC_URL = "/static/"
STATIC_ROOT = DATA / "static"
STATICFILES_DIRS = [Path(__file__).parent / "static"]
PLAIN_STATIC = DEBUG or TESTING
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
        if PLAIN_STATIC
        else "brightcircuit.storage.ModuleStorage"
    },
}
WHITENOISE_USE_FINDERS = PLAIN_STATIC

MOST_BODY, MOST_BODY_UNKNOWN = 13_000_000, 20_000
"""Bytes of a request: one photo and its form; a name and a password."""

DATA_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "img-src": [SELF, "data:"],
        "object-src": [NONE],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "form-action": [SELF],
    }
}
X_FRAME_OPTIONS = "DENY"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "ERROR" if TESTING else "WARNING"},
}
SILENCED_SYSTEM_CHECKS = ["security.W004", "security.W008", "security.W012", "security.W016"]
"""HTTPS is the proxy's business where there is one; a bench tablet on the shop's own network may do
without."""
