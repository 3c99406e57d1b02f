#!/usr/bin/env python
"""Django's command line, with src on the path."""

import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "rocklash.config.settings.dev")

if __name__ == "__main__":
    if {"migrate", "upgrade", "restore", "load_demo"} & set(sys.argv):
        os.environ.setdefault("ROCKLASH_STATEMENT_SECONDS", "0")  # a migration may take longer than any request
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
