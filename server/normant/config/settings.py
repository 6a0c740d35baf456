"""Django's settings; what a house chooses comes through `options`."""

import sys

from csp.constants import SELF

from .options import OptionError, Options

try:
    OPTIONS = Options.read()
except OptionError as fault:
    sys.exit(f"normant: {fault}")

SECRET_KEY = OPTIONS.secret_key
DEBUG = OPTIONS.debug
ALLOWED_HOSTS = list(OPTIONS.hosts)
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "django.contrib.postgres",
    "procrastinate.contrib.django",
    "axes",
    "csp",
    "normant.accounts",
    "normant.ledger",
    "normant.proposals",
    "normant.people",
    "normant.dialects",
    "normant.packages",
    "normant.standards",
    "normant.seats",
    "normant.findings",
    "normant.bookings",
    "normant.templates",
    "normant.orders",
    "normant.plans",
    "normant.errands",
    "normant.stores",
    "normant.deliveries",
    "normant.clearings",
    "normant.standing_care",
    "normant.projects",
    "normant.trials",
    "normant.timelines",
    "normant.rollouts",
    "normant.notices",
    "normant.config",
]
MIDDLEWARE = [
    "normant.common.lost_connection.LostConnection",
    "normant.agents.middleware.AgentDoor",  # agents need no session, no CSRF token, no policy: first, and alone
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
    "normant.house.tables.AsTable",
    "normant.accounts.middleware.OneAct",  # last: what it keeps is the answer itself
]
ROOT_URLCONF = "normant.config.urls"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [OPTIONS.web], "APP_DIRS": True}]
WSGI_APPLICATION = "normant.config.wsgi.application"

# Connections stay with their thread: a pool's health check would cost every survey a query of its own.
DATABASES = {"default": {"ENGINE": "django.db.backends.postgresql", "CONN_MAX_AGE": None, **OPTIONS.database}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
# Scrypt takes a third of PBKDF2's time here, and memory from whoever guesses. What PBKDF2 hashed is hashed by scrypt at
# the next sign-in.
PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.ScryptPasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
PASSWORD_RESET_TIMEOUT = 24 * 3600  # seconds that a link to set a password holds
AXES_FAILURE_LIMIT = 10
AXES_COOLOFF_TIME = 0.25  # hours
# The two together: a stranger who guesses must not lock a person, or everybody at an address, out of the house.
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "normant.accounts.services.verify_password.lockout_answer"
AXES_CLIENT_IP_CALLABLE = "normant.accounts.auth.address_of"
AXES_RESET_ON_SUCCESS = False  # who signs in once in a while could try other people's passwords between
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False  # a name is not kept out for ever by who goes on trying it
AXES_VERBOSE = False

SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = OPTIONS.secure_cookies
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "img-src": [SELF, "data:"],
        "style-src": [SELF, "'unsafe-inline'"],  # the text editor brings its own styles; scripts stay strict
        "object-src": ["'none'"],
        "base-uri": [SELF],
        "frame-ancestors": ["'none'"],
    }
}
DATA_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024 + 1024

STATIC_URL = "/static/"
WHITENOISE_ROOT = OPTIONS.web
WHITENOISE_INDEX_FILE = False
WHITENOISE_AUTOREFRESH = False

USE_TZ = True
TIME_ZONE = OPTIONS.time_zone
LANGUAGE_CODE = "en-gb"
USE_I18N = False

PROCRASTINATE_AUTODISCOVER_MODULE_NAME = "jobs"
NORMANT = OPTIONS  # what the house chose, as one typed object: `settings.NORMANT.second_person`
NORMANT_SIGNS = False  # a worker says otherwise of itself
TEST_RUNNER = "normant.tests.runner.Runner"

_MAIL = OPTIONS.mail
EMAIL_BACKEND = (
    f"django.core.mail.backends.{'smtp' if _MAIL.host else 'filebased' if _MAIL.folder else 'dummy'}.EmailBackend"
)
EMAIL_FILE_PATH = _MAIL.folder
EMAIL_HOST, EMAIL_PORT, EMAIL_USE_SSL = _MAIL.host, _MAIL.port, _MAIL.tls
EMAIL_HOST_USER, EMAIL_HOST_PASSWORD = _MAIL.user, _MAIL.password
EMAIL_TIMEOUT = 20
DEFAULT_FROM_EMAIL = _MAIL.sender

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "json": {
            "()": "pythonjsonlogger.json.JsonFormatter",
            "format": "{message}{levelname}",
            "style": "{",
            "rename_fields": {"message": "event", "levelname": "level"},
            "timestamp": True,
        }
    },
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "json"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    # What a caller did wrong is told to the caller.
    "loggers": {name: {"level": "ERROR"} for name in ("django.request", "django.security.csrf", "axes")},
}
