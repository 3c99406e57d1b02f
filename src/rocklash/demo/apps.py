"""The invented scenario."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    """No models; it brings the commands that load and restore the demo."""

    name = "rocklash.demo"
    label = "demo"
