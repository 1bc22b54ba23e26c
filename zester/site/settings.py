"""Settings, all from the environment (django-environ); see docs/running.md for what each variable does."""

import os
from pathlib import Path
from tempfile import gettempdir

import environ
from django.core.exceptions import ImproperlyConfigured

env = environ.Env()

DATA_DIR = Path(env("ZESTER_DATA", default="var")).resolve()
DEMO = env.bool("ZESTER_DEMO", default=False)
DEBUG = env.bool("ZESTER_DEBUG", default=False)
LOCAL = DEMO or DEBUG

SECRET_KEY = env("ZESTER_SECRET_KEY", default="only-for-the-demo-on-this-machine" if LOCAL else "")
if not SECRET_KEY:
    raise ImproperlyConfigured("Set ZESTER_SECRET_KEY (or ZESTER_DEMO=1 to try Zester on your own machine).")
ALLOWED_HOSTS = env.list("ZESTER_HOSTS", default=["127.0.0.1", "localhost", "[::1]"])
CSRF_TRUSTED_ORIGINS = env.list("ZESTER_ORIGINS", default=[])

INSTALLED_APPS = [
    "zester.site",
    "zester.shelf",
    "zester.designs",
    "zester.classes",
    "zester.fits",
    "zester.bench",
    "zester.bags",
    "zester.demo",
    "django.contrib.admin",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "django_htmx",
    "django_tasks",
    "django_tasks_db",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "zester.site.limits.limit_requests",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
]

ROOT_URLCONF = "zester.site.urls"
WSGI_APPLICATION = "zester.site.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "zester.site.context.site",
            ],
        },
    },
]

# Write-ahead logging lets the fitting worker write while pages read; IMMEDIATE avoids lock upgrades that fail.
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": env("ZESTER_DATABASE", default=str(DATA_DIR / "zester.sqlite3")),
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
        # A file like the real one: in memory, pages that ask while a test writes would find the tables locked.
        "TEST": {"NAME": str(Path(gettempdir(), f"zester-test-{os.getpid()}.sqlite3"))},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# No list of queues: any may be named.
TASKS = {"default": {"BACKEND": env("ZESTER_TASKS", default="django_tasks_db.DatabaseBackend"), "QUEUES": []}}
# Whether workers go on with what nobody waits for: less handling, what each piece costs.
IDLE_WORK = env.bool("ZESTER_IDLE_WORK", default=True)

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("UserAttributeSimilarityValidator", "MinimumLengthValidator", "CommonPasswordValidator")
]
LOGIN_URL = "sign_in"
LOGIN_REDIRECT_URL = "classes:list"
LOGOUT_REDIRECT_URL = "sign_in"

LANGUAGE_CODE = "en"
TIME_ZONE = env("ZESTER_TIME_ZONE", default="UTC")
USE_I18N = True
USE_TZ = True
# django-environ reads a default that begins with $ as the name of another variable.
CURRENCY = env("ZESTER_CURRENCY", default="") or "$"

STATIC_URL = "static/"
STATIC_ROOT = DATA_DIR / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": (
            "django.contrib.staticfiles.storage.StaticFilesStorage"
            if LOCAL
            else "whitenoise.storage.CompressedManifestStaticFilesStorage"
        )
    },
}
WHITENOISE_USE_FINDERS = LOCAL

# Photos lie beside the database and are served to their owners only, by a view.
MEDIA_ROOT = DATA_DIR

LARGEST_REQUEST = 10_000_000
DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
DATA_UPLOAD_MAX_NUMBER_FIELDS = 500

# Behind a proxy that speaks HTTPS; on one's own machine (demo, debug) there is none.
SECURE_SSL_REDIRECT = SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = not LOCAL
SECURE_HSTS_SECONDS = 0 if LOCAL else 365 * 24 * 3600
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = not LOCAL
if env.bool("ZESTER_BEHIND_PROXY", default=False):
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
X_FRAME_OPTIONS = "DENY"
MESSAGE_STORAGE = "django.contrib.messages.storage.session.SessionStorage"

# The test runner is Django's with a plain closing line.
TEST_RUNNER = "zester.site.runner.CountingRunner"
