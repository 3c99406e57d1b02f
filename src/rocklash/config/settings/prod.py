"""A server behind TLS. Needs ROCKLASH_SECRET_KEY, ROCKLASH_HOSTS and the database in the environment."""

from rocklash.config.settings.base import *

SECRET_KEY = env("ROCKLASH_SECRET_KEY")
SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31536000
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}
