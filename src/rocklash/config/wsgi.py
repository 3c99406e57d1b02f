"""Entry point of the web server."""

import gc
import os
import sys

from django.conf import settings
from django.contrib.staticfiles.storage import staticfiles_storage
from django.core.wsgi import get_wsgi_application

from valvetrain.studies.motion.sweep import warm

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "rocklash.config.settings.dev")
application = get_wsgi_application()
if getattr(settings, "REFUSE_ROOT", False) and os.geteuid() == 0:
    sys.exit("The site does not run as root: give it a user of its own (docs/deploy.md).")
if getattr(staticfiles_storage, "manifest_strict", False) and not getattr(staticfiles_storage, "hashed_files", None):
    # said once at the start, in the log the keeper of the server reads, instead of as an error on every page
    sys.exit("The styles and scripts are not collected yet. Run:  python -m django collectstatic --noinput")
warm()  # the compiled march is loaded before the first request, so that none waits for it
gc.collect()
gc.freeze()  # what was loaded by now stays for good: no later collection walks through it, and forked workers share it
gc.set_threshold(*settings.COLLECT)
