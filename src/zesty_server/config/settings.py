"""Django settings. Everything that differs between machines comes from ``ZESTY_*`` variables.

``ZESTY_DATA``: folder of the database and the sound files. ``ZESTY_HOSTS``: host names to answer
to, besides this machine. ``ZESTY_DEBUG``: error pages for developers. ``ZESTY_TASKS``: "now" runs
background work inside the request (tests). ``ZESTY_LEASE_S``: seconds after which silent work is taken
up again. ``ZESTY_ACCOUNTS``: people sign in, and each sees what is theirs. ``ZESTY_HTTPS``: a server in
front speaks HTTPS and says so in ``X-Forwarded-Proto``. ``ZESTY_WATCHABLE``: folders, joined by colons,
in which people who sign in may choose one to watch.
"""

from __future__ import annotations

import os
from pathlib import Path

from zesty_core.foundation.spool import keep_spools_in
from zesty_server.config.backing import database, task_backend
from zesty_server.config.data_folder import make_folders, secret_key

SOURCE = Path(__file__).resolve().parents[2]
CHECKOUT = SOURCE.parent if (SOURCE.parent / "pyproject.toml").exists() else None


def _data_folder() -> Path:
    if named := os.environ.get("ZESTY_DATA"):
        return Path(named).expanduser().resolve()
    if CHECKOUT:
        return CHECKOUT / "var"
    home = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(home) / "zesty-voice"


# What lies in the data folder is for whoever runs this, whatever the shell's habits are.
os.umask(0o077)
DATA = _data_folder()
MEDIA_ROOT = DATA / "media"
WORK_FOLDER = DATA / "work"
STATIC_ROOT = DATA / "static"
make_folders(DATA, MEDIA_ROOT, WORK_FOLDER, STATIC_ROOT)
keep_spools_in(WORK_FOLDER)
SECRET_KEY = secret_key(DATA / "secret-key")
DEBUG = bool(os.environ.get("ZESTY_DEBUG"))
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *os.environ.get("ZESTY_HOSTS", "").split()]

#: Whether people sign in; otherwise one person on this machine sees everything.
ACCOUNTS = bool(os.environ.get("ZESTY_ACCOUNTS"))
#: Folders whose folders may be watched where people sign in; otherwise any may.
WATCHABLE = [f for f in os.environ.get("ZESTY_WATCHABLE", "").split(os.pathsep) if f]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "MinimumLengthValidator",
        "CommonPasswordValidator",
        "NumericPasswordValidator",
    )
]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "rest_framework",
    "drf_spectacular",
    "django_tasks",
    "django_tasks_db",
    "zesty_server.accounts",
    "zesty_server.jobs",
    "zesty_server.rooms",
    "zesty_server.recipes",
    "zesty_server.targets",
    "zesty_server.preferences",
    "zesty_server.recordings",
    "zesty_server.uploads",
    "zesty_server.runs",
    "zesty_server.passages",
    "zesty_server.comparisons",
    "zesty_server.batches",
    "zesty_server.deliveries",
    "zesty_server.beds",
    "zesty_server.mixes",
    "zesty_server.watched",
    "zesty_server.house_voices",
]
REDIS_URL = os.environ.get("REDIS_URL", "")
if REDIS_URL:
    INSTALLED_APPS += ["django_rq", "django_tasks_rq"]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "zesty_server.config.middleware.ContentSecurityMiddleware",
    "zesty_server.accounts.middleware.AccountMiddleware",
]
ROOT_URLCONF = "zesty_server.config.urls"
WSGI_APPLICATION = "zesty_server.config.wsgi.application"
TEMPLATES: list[dict[str, object]] = []

DATABASES = {"default": database(os.environ.get("DATABASE_URL", ""), DATA)}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"

#: So long work that tells nothing is believed to be alive.
LEASE_S = float(os.environ.get("ZESTY_LEASE_S", "30"))
_BACKEND = task_backend(REDIS_URL, at_once=os.environ.get("ZESTY_TASKS") == "now")
#: In the order in which work is taken from them.
QUEUES = ("measuring", "default", "batches")
TASKS = {"default": {"BACKEND": _BACKEND, "QUEUES": list(QUEUES)}}
# No limit of time: leases on the rows tell whether work is alive.
RQ_QUEUES = {q: {"URL": REDIS_URL, "DEFAULT_TIMEOUT": -1} for q in QUEUES} if REDIS_URL else {}

WEB_BUILD = SOURCE / "zesty_server" / "web_build"
STATIC_URL = "/static/"
WHITENOISE_ROOT = WEB_BUILD if WEB_BUILD.exists() else None
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[\w-]{8}\.\w+$"

#: Largest upload in bytes: 4 hours of stereo at 96 kHz and 24 bit fit.
MAX_UPLOAD_BYTES = int(os.environ.get("ZESTY_MAX_UPLOAD_BYTES", "9000000000"))
#: Largest body that is no file: a batch of some thousand recordings with tags of their own.
DATA_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
CSRF_COOKIE_SAMESITE = SESSION_COOKIE_SAMESITE = "Strict"
SESSION_COOKIE_AGE = 30 * 24 * 3600
#: Whether a server in front speaks HTTPS; what it says of its clients is believed then.
BEHIND_HTTPS = bool(os.environ.get("ZESTY_HTTPS"))
if BEHIND_HTTPS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    CSRF_COOKIE_SECURE = SESSION_COOKIE_SECURE = True
    SECURE_HSTS_SECONDS = 365 * 24 * 3600
CSRF_FAILURE_VIEW = "zesty_server.http.errors.csrf_failure"
SECURE_REFERRER_POLICY = "same-origin"

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["zesty_server.config.access.PageAccess"],
    "DEFAULT_PERMISSION_CLASSES": ["zesty_server.config.access.SignedIn"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["zesty_server.http.json_body.JsonParser"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "EXCEPTION_HANDLER": "zesty_server.http.errors.answer_error",
    "UNAUTHENTICATED_USER": None,
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Zesty Voice",
    "VERSION": "0.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "POSTPROCESSING_HOOKS": [
        "drf_spectacular.hooks.postprocess_schema_enums",
        "zesty_server.config.schema.add_error_answers",
    ],
    "ENUM_NAME_OVERRIDES": {"JobStateEnum": "zesty_server.jobs.models.JobState"},
}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
