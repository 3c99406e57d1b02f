"""A server behind TLS. Needs ROCKLASH_SECRET_KEY, ROCKLASH_HOSTS and the database in the environment."""

from rocklash.config.settings.base import *

SECRET_KEY = env("ROCKLASH_SECRET_KEY")
REFUSE_ROOT = env.bool("ROCKLASH_REFUSE_ROOT", default=True)
SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31536000
# browsers keep to TLS for names below this one too; switch both off where another service of yours has none
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = env.bool("ROCKLASH_HSTS_WIDE", default=True)
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}
