"""Entry point of the web server."""

import gc
import os

from django.core.wsgi import get_wsgi_application

from valvetrain.studies.motion import warm

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "rocklash.config.settings.dev")
application = get_wsgi_application()
warm()  # the compiled march is loaded before the first request, so that none waits for it
gc.freeze()  # what was loaded by now stays for good: no later collection walks through it, and forked workers share it
