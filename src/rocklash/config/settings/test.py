"""The checks: as the demo, with quick password hashing and no throttling where a test does not ask for it."""

from rocklash.config.settings.dev import *

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
DATABASES["default"]["CONN_MAX_AGE"] = 0
WORKERS = "never"
# a database that is migrated already: the copy each test process makes of it then takes no time
DATABASES["default"]["TEST"] = {"TEMPLATE": env("ROCKLASH_TEST_TEMPLATE", default=None)}
