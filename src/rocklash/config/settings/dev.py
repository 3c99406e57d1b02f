"""The demo on one's own machine: plain HTTP on loopback."""

from rocklash.config.settings.base import *

SECRET_KEY = SECRET_KEY or "demo-on-loopback-only-never-in-production-3f1c"
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
# Where the start command collected them, packed and named by what is in them; else they are served from where they lie.
COLLECTED = env("ROCKLASH_STATIC", default="")
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"
        if COLLECTED
        else "django.contrib.staticfiles.storage.StaticFilesStorage"
    },
}
WHITENOISE_USE_FINDERS = not COLLECTED
WHITENOISE_AUTOREFRESH = False
STATIC_ROOT = COLLECTED or SITE / "ui" / "static"

MAIL = MAIL or "consolemail://"  # reminders are written where the demo writes everything else
globals().update(env.email_url_config(MAIL))
