"""The demo on one's own machine: plain HTTP on loopback."""

from rocklash.config.settings.base import *

SECRET_KEY = SECRET_KEY or "demo-on-loopback-only-never-in-production-3f1c"
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = False
# Nothing is collected for the demo: the files are served from where they lie.
STATIC_ROOT = SITE / "ui" / "static"

MAIL = MAIL or "consolemail://"  # reminders are written where the demo writes everything else
globals().update(env.email_url_config(MAIL))
