"""What a shop keeps."""

from django.apps import AppConfig


class RecordsConfig(AppConfig):
    """The one app with models."""

    name = "rocklash.records"
    label = "records"
