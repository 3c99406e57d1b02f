"""Indexes of the search over everything: full text by table, trigrams of names. The expressions are those of selectors/search.py as they were then."""

from django.contrib.postgres.operations import TrigramExtension
from django.db import migrations

_TEXTS = {
    "build": ("name",),
    "engine": ("name", "description", "owner", "serial", "manual", "family"),
    "part": ("name", "number", "claim", "supplier", "place", "note"),
    "individual": ("name", "history"),
    "finding": ("part", "place", "words", "measured", "settled"),
    "lognote": ("words",),
    "runentry": ("note",),
    "careentry": ("what", "note"),
    "prooftest": ("kind", "name"),
    "clearancesession": ("note", "reason"),
    "shoporder": ("shop", "note"),
    "overrevcase": ("note",),
    "jobwait": ("what",),
    "familynote": ("family", "text"),
    "journalentry": ("about", "after"),
}
_NAMES = ("build", "part")


def _text(columns: tuple[str, ...]) -> str:
    return " || ' ' || ".join(columns)


class Migration(migrations.Migration):
    dependencies = [("records", "0025_logbook_board")]
    operations = [
        TrigramExtension(),
        *(
            migrations.RunSQL(
                f"CREATE INDEX records_{table}_words ON records_{table} USING gin (to_tsvector('simple', {_text(columns)}))",
                f"DROP INDEX records_{table}_words",
            )
            for table, columns in _TEXTS.items()
        ),
        *(
            migrations.RunSQL(
                f"CREATE INDEX records_{table}_nearly ON records_{table} USING gin (name gin_trgm_ops)",
                f"DROP INDEX records_{table}_nearly",
            )
            for table in _NAMES
        ),
    ]
