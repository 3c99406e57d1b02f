"""The answers as an application: it has no models, but tasks for workers and the command that runs one."""

from importlib import import_module

from django.apps import AppConfig


class AnswersConfig(AppConfig):
    """Application of answers."""

    name = "rocklash.answers"

    def ready(self) -> None:
        """Declare every kind of work and every periodic task, so that a worker knows them all."""
        for kind in ("backup", "calibration", "documents", "motion", "proof_files", "reminders"):
            import_module(f"rocklash.answers.{kind}")
