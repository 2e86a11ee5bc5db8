"""Settings, all from the environment; the launcher fills it (see launch/environment.py)."""

import os
from pathlib import Path
from secrets import token_urlsafe
from urllib.parse import unquote, urlsplit
from zoneinfo import ZoneInfo

from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parents[3]


def required(name: str) -> str:
    """An environment variable that must be there."""
    value = os.environ.get(name)
    if not value:
        raise ImproperlyConfigured(f"{name} is not set. Start through ./yoke, or set it yourself.")
    return value


# A connection whose other end is gone, or that swallows what is sent, is noticed within seconds:
# by us, and by the server, which then lets go of what its session held.
PATIENCE = {
    "keepalives_idle": 2,
    "keepalives_interval": 1,
    "keepalives_count": 3,
    "tcp_user_timeout": 5000,
    "connect_timeout": 5,
}
SERVER_PATIENCE = (
    "-c tcp_keepalives_idle=2 -c tcp_keepalives_interval=1 -c tcp_keepalives_count=3 "
    "-c tcp_user_timeout=5000"
)


def database(url: str, pool: tuple[int, int] = (2, 12)) -> dict[str, object]:
    """Django's settings for a postgresql:// address; fewest and most connections of a pool."""
    parts = urlsplit(url)
    if parts.scheme not in ("postgres", "postgresql"):
        raise ImproperlyConfigured(
            f"DATABASE_URL must begin with postgresql://, not {parts.scheme}"
        )
    # Only statements that ask for it are prepared: lookups by index, which cost less than planning
    # them anew. (Django's own default would not prepare even those.)
    options: dict[str, object] = {
        "options": f"-c plan_cache_mode=force_generic_plan {SERVER_PATIENCE}",
        "prepare_threshold": 1_000_000,
        **PATIENCE,
    }
    if os.environ.get("YOKE_POOL"):
        options["pool"] = dict(zip(("min_size", "max_size"), pool, strict=True))
    return {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": parts.path.lstrip("/"),
        "USER": unquote(parts.username or ""),
        "PASSWORD": unquote(parts.password or ""),
        "HOST": parts.hostname or "127.0.0.1",
        "PORT": str(parts.port or 5432),
        "CONN_MAX_AGE": 0 if os.environ.get("YOKE_POOL") else 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": options,
    }


RECORDS = os.environ.get("YOKE_ROLE") == "recorder"
# The recorder serves nobody, so it is not trusted with the key that sessions are signed with.
SECRET_KEY = token_urlsafe(48) if RECORDS else required("YOKE_SECRET_KEY")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("YOKE_HOSTS", "127.0.0.1,localhost,[::1]").split(",")
# The recorder works as a role that can do no more than it needs (record/grants.py).
DATABASE = "YOKE_RECORDER_DATABASE_URL" if RECORDS else ""
DATABASES = {"default": database(os.environ.get(DATABASE) or required("DATABASE_URL"))}
if os.environ.get("YOKE_POOL"):  # in the web process stops have connections of their own
    DATABASES["stops"] = database(required("DATABASE_URL"), pool=(1, 4))
DATABASE_ROUTERS = ["yoke_server.common.db.stops_first.StopsFirst"]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "channels",
    "procrastinate.contrib.django",
    "yoke_server.accounts",
    "yoke_server.ledger",
    "yoke_server.live",
    "yoke_server.bench",
    "yoke_server.sensors",
    "yoke_server.setups",
    "yoke_server.wire",
    "yoke_server.calibrate",
    "yoke_server.record",
    "yoke_server.derive",
    "yoke_server.report",
    "yoke_server.exchange",
    "yoke_server.demo",
    "yoke_server.config",
]
MIDDLEWARE = [
    "yoke_server.config.error_responses.problem_answers",
    "django.middleware.security.SecurityMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
]
ROOT_URLCONF = "yoke_server.config.urls"
ASGI_APPLICATION = "yoke_server.config.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {"context_processors": []},
    }
]

AUTH_USER_MODEL = "accounts.User"
# scrypt fills memory, which a guesser's graphics card has little of, and lets a person in three
# times sooner than PBKDF2; a hash of the older kind is made anew as its owner signs in.
PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.ScryptPasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
AUTHENTICATION_BACKENDS = ["django.contrib.auth.backends.ModelBackend"]
# So many wrong passwords of one account from one address, and it must wait (accounts/tries.py).
WRONG_PASSWORDS = int(os.environ.get("YOKE_WRONG_PASSWORDS", "10"))
# Whose word on where a request comes from is believed (X-Forwarded-For).
PROXIES = frozenset(filter(None, os.environ.get("YOKE_PROXIES", "").split(",")))

# How long an order to a recorder lives; measuring takes some seconds by itself.
# How long a live signal of several devices waits for the slower one, in samples' time.
LIVE_WAIT_SECONDS = float(os.environ.get("YOKE_LIVE_WAIT_SECONDS", "2"))
ORDER_SECONDS = float(os.environ.get("YOKE_ORDER_SECONDS", "8"))
MEASURE_SECONDS = 1.5 * ORDER_SECONDS
LOOK_SECONDS = 1.1 * ORDER_SECONDS  # on the network, for an address that answers slowly
# What the worker may take for a report before it gives it up.
PDF_SECONDS = float(os.environ.get("YOKE_PDF_SECONDS", "120"))
# What the recorder may hold in memory while the database stalls.
# Whether devices may be stand-ins that take faults (the demo, and tests).
# Where the database's files lie, if that is known; their disk is looked at for free space.
DATABASE_FOLDER = os.environ.get("YOKE_DATABASE_FOLDER", "")
STAND_INS = bool(os.environ.get("YOKE_STAND_INS"))
# Devices may have addresses of this computer itself (bench/drivers/elsewhere.py).
LOCAL_DEVICES = STAND_INS or bool(os.environ.get("YOKE_LOCAL_DEVICES"))
RECORDER_QUEUE_BYTES = int(os.environ.get("YOKE_QUEUE_BYTES", str(512 << 20)))
# Bench time against the wall's: more than 1 only beside a rig that runs faster than life.
CLOCK_SPEED = float(os.environ.get("YOKE_CLOCK_SPEED", "1"))

# How often an open screen looks whether its session still lives.
SESSION_LOOK_SECONDS = float(os.environ.get("YOKE_SESSION_LOOK_SECONDS", "60"))
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
# Behind a proxy with TLS set YOKE_TLS=1 (docs/security.md); on loopback it speaks plain HTTP,
# and config/checks.py refuses any other address without TLS.
TLS = bool(os.environ.get("YOKE_TLS"))
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = TLS
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if TLS else None
SECURE_HSTS_SECONDS = 31_536_000 if TLS else 0
SILENCED_SYSTEM_CHECKS = [
    "security.W002",  # frames are refused for every answer in config/request_guard.py
    "security.W005",
    "security.W021",  # other hosts of the lab's domain are not ours to bind
    *([] if TLS else ["security.W004", "security.W008", "security.W012", "security.W016"]),
]
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
# How large a request may be; the door counts, before anything is looked up.
MAX_BYTES = 262_144
MAX_BYTES_OF_STRANGERS = 8_192
# How long the head of a request may take, its body, and each part of an answer to be taken.
HEAD_SECONDS = float(os.environ.get("YOKE_HEAD_SECONDS", "10"))
BODY_SECONDS = float(os.environ.get("YOKE_BODY_SECONDS", "10"))
MAX_BYTES_OF_FILES = 4 << 20  # of a setup: 512 channels are half a megabyte
DATA_UPLOAD_MAX_MEMORY_SIZE = MAX_BYTES_OF_FILES

STATIC_URL = "/static/"
WEB_DIST = ROOT / "web" / "dist"

USE_TZ = True
TIME_ZONE = "UTC"  # of what is stored; Django puts this process there
# Where the laboratory is: its dates stand on certificates. The computer's own zone unless told.
LOCAL = Path("/etc/localtime")
if os.environ.get("YOKE_TIME_ZONE") or not LOCAL.exists():
    LABORATORY_ZONE = ZoneInfo(os.environ.get("YOKE_TIME_ZONE", "UTC"))
else:
    with LOCAL.open("rb") as zone:
        LABORATORY_ZONE = ZoneInfo.from_file(zone)
LANGUAGE_CODE = "en-gb"
USE_I18N = False
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "loggers": {
        "procrastinate": {"level": "WARNING"},
        "weasyprint": {"level": "ERROR"},  # a line for each attribute of a drawing that it skips
    },
    "root": {"handlers": ["console"], "level": os.environ.get("YOKE_LOG", "INFO")},
}

# Messages go to files, unless a mail server is named (docs/fatigue-weekend.md).
EMAIL_HOST = os.environ.get("YOKE_MAIL_HOST", "")
EMAIL_PORT = int(os.environ.get("YOKE_MAIL_PORT", "25"))
EMAIL_HOST_USER = os.environ.get("YOKE_MAIL_USER", "")
EMAIL_HOST_PASSWORD = os.environ.get("YOKE_MAIL_PASSWORD", "")
EMAIL_USE_TLS = bool(os.environ.get("YOKE_MAIL_TLS"))
EMAIL_TIMEOUT = 20
EMAIL_BACKEND = f"django.core.mail.backends.{'smtp' if EMAIL_HOST else 'filebased'}.EmailBackend"
EMAIL_FILE_PATH = os.environ.get("YOKE_MAIL_FOLDER", "")
DEFAULT_FROM_EMAIL = os.environ.get("YOKE_MAIL_FROM", "yoke-bench@localhost")
