"""The look: base templates, tags, drawings, static files."""

from django.apps import AppConfig


class UiConfig(AppConfig):
    """No models here."""

    name = "rocklash.ui"
    label = "ui"
