"""Search over everything a workshop keeps: words by PostgreSQL's full text, whole or begun, and names that are nearly right by trigrams.

The indexes stand in migration 0026; an expression here must be that of its index, or the whole table is read.
"""

import re
from dataclasses import dataclass

from django.db import connection, transaction

from rocklash.records.models import Workshop

MOST = 60  # hits in all
_EACH = 20  # of one kind
_WORDS = 8
# Of the trigrams of what was typed: two letters changed about in a word of six; of a longer text more must be right. Source: judgement
_NEAR, _NEAR_LONG, _LONG = "0.3", "0.45", 10


@dataclass(frozen=True, kw_only=True)
class Source:
    """One table: which columns are searched, the build and the workshop of a row, and what is told of it."""

    kind: str
    table: str
    columns: tuple[str, ...]
    title: str
    joins: str
    build: str
    workshop: str
    row: str = "t.id"


def text_of(columns: tuple[str, ...]) -> str:
    """Columns as one text."""
    return " || ' ' || ".join(columns)


_OF_BUILD = "JOIN records_build b ON b.id = t.build_id"
SOURCES = (
    Source(kind="engine", table="records_build", columns=("name",), title="t.name", joins="", build="t.id", workshop="t.workshop_id"),
    Source(
        kind="engine", table="records_engine", columns=("name", "description", "owner", "serial", "manual", "family"), title="concat_ws(', ', t.name, NULLIF(t.description, ''), NULLIF(t.owner, ''), NULLIF(t.serial, ''))",
        joins="JOIN records_build b ON b.engine_id = t.id", build="b.id", workshop="t.workshop_id",
    ),
    Source(
        kind="part", table="records_part", columns=("name", "number", "claim", "supplier", "place", "note"), title="concat_ws(', ', t.name, NULLIF(t.number, ''), NULLIF(t.place, ''), NULLIF(t.note, ''))", joins="", build="NULL",
        workshop="t.workshop_id",
    ),
    Source(
        kind="single part", table="records_individual", columns=("name", "history"), title="concat_ws(', ', p.name, t.name, NULLIF(t.history, ''))", joins="JOIN records_part p ON p.id = t.part_id",
        build="NULL", workshop="p.workshop_id", row="p.id",
    ),
    Source(
        kind="finding", table="records_finding", columns=("part", "place", "words", "measured", "settled"),
        title="concat_ws(', ', t.part, NULLIF(t.place, ''), NULLIF(t.words, ''), NULLIF(t.settled, ''))", joins=_OF_BUILD, build="b.id", workshop="b.workshop_id",
    ),
    Source(kind="note", table="records_lognote", columns=("words",), title="t.words", joins=_OF_BUILD, build="b.id", workshop="b.workshop_id"),
    Source(kind="ran", table="records_runentry", columns=("note",), title="t.note", joins=_OF_BUILD, build="b.id", workshop="b.workshop_id"),
    Source(kind="done", table="records_careentry", columns=("what", "note"), title="concat_ws(': ', t.what, NULLIF(t.note, ''))", joins=_OF_BUILD, build="b.id", workshop="b.workshop_id"),
    Source(kind="test", table="records_prooftest", columns=("kind", "name"), title="concat_ws(', ', t.kind, NULLIF(t.name, ''))", joins=_OF_BUILD, build="b.id", workshop="b.workshop_id"),
    Source(kind="sheet", table="records_clearancesession", columns=("note", "reason"), title="concat_ws(', ', NULLIF(t.note, ''), NULLIF(t.reason, ''))", joins=_OF_BUILD, build="b.id", workshop="b.workshop_id"),
    Source(kind="machine shop", table="records_shoporder", columns=("shop", "note"), title="concat_ws(', ', NULLIF(t.shop, ''), NULLIF(t.note, ''))", joins=_OF_BUILD, build="b.id", workshop="b.workshop_id"),
    Source(kind="over-rev", table="records_overrevcase", columns=("note",), title="t.note", joins=_OF_BUILD, build="b.id", workshop="b.workshop_id"),
    Source(
        kind="waits", table="records_jobwait", columns=("what",), title="t.what", joins="JOIN records_job j ON j.id = t.job_id JOIN records_build b ON b.id = j.build_id",
        build="b.id", workshop="b.workshop_id",
    ),
    Source(kind="family note", table="records_familynote", columns=("family", "text"), title="concat_ws(': ', t.family, t.text)", joins="", build="NULL", workshop="t.workshop_id"),
    Source(kind="change", table="records_journalentry", columns=("about", "after"), title="concat_ws(': ', t.about, NULLIF(t.after, ''))", joins="", build="t.build_id", workshop="t.workshop_id"),
)  # fmt: skip
_NEARLY = tuple(source for source in SOURCES if source.table in ("records_build", "records_part"))


@dataclass(frozen=True, kw_only=True)
class Hit:
    """One thing found: its kind, what it says, and the build or the part it leads to."""

    kind: str
    words: str
    build: int | None
    build_name: str
    row: int


_QUERY = "to_tsquery('simple', %(query)s)"


def _one(source: Source) -> str:
    # plus zero: else the newest twenty are looked for by reading rows backwards, past the index of the words; of the many lines of the journal,
    # where a word may stand in every one, that is the quicker way, and there the database chooses by itself
    newest = "t.id" if source.kind == "change" else "t.id + 0"
    words = f"to_tsvector('simple', {text_of(tuple(f't.{name}' for name in source.columns))})"
    if source.workshop == "t.workshop_id" and source.joins:
        # a word may stand in every engine: the newest are chosen before their builds are looked for
        inner = (
            f"(SELECT * FROM {source.table} t WHERE t.workshop_id = %(shop)s AND {words} @@ {_QUERY} ORDER BY {newest} DESC LIMIT {_EACH})"  # noqa: S608
        )
        return (
            f"(SELECT '{source.kind}' AS kind, {source.title} AS words, {source.build} AS build, {source.row} AS row, "  # noqa: S608  (written here)
            f"ts_rank({words}, {_QUERY}) AS rank FROM {inner} t {source.joins})"
        )
    return (
        f"(SELECT '{source.kind}' AS kind, {source.title} AS words, {source.build} AS build, {source.row} AS row, "  # noqa: S608  (written here)
        f"ts_rank({words}, {_QUERY}) AS rank FROM {source.table} t {source.joins} "
        f"WHERE {source.workshop} = %(shop)s AND {words} @@ {_QUERY} ORDER BY {newest} DESC LIMIT {_EACH})"
    )


_FULL = (
    "SELECT h.kind, h.words, h.build, coalesce(b.name, ''), h.row FROM ("  # noqa: S608
    + " UNION ALL ".join(_one(source) for source in SOURCES)
    + f") h LEFT JOIN records_build b ON b.id = h.build WHERE b.deleted_at IS NULL ORDER BY (h.kind = 'engine') DESC, h.rank DESC LIMIT {MOST}"
)


def _near(source: Source) -> str:
    return (
        f"(SELECT '{source.kind}' AS kind, {source.title} AS words, {source.build} AS build, {source.row} AS row, "  # noqa: S608  (written here)
        f"word_similarity(%(text)s, t.name) AS rank FROM {source.table} t {source.joins} "
        f"WHERE {source.workshop} = %(shop)s AND t.name %%> %(text)s ORDER BY rank DESC LIMIT {_EACH})"
    )


_SIMILAR = (
    "SELECT h.kind, h.words, h.build, coalesce(b.name, ''), h.row FROM ("  # noqa: S608
    + " UNION ALL ".join(_near(source) for source in _NEARLY)
    + f") h LEFT JOIN records_build b ON b.id = h.build WHERE b.deleted_at IS NULL ORDER BY h.rank DESC LIMIT {_EACH}"
)


def query_of(text: str) -> str:
    """What was typed as a query: every word, whole or begun; beside others a word of one or two letters whole. Empty where it holds no word."""
    words = re.findall(r"[^\W_]+(?:[.\-'][^\W_]+)*", text)[:_WORDS]
    begun = lambda word: ":*" if len(words) == 1 or len(word) > 2 or word.isdigit() else ""
    return " & ".join(f"'{word.replace(chr(39), chr(39) * 2)}'{begun(word)}" for word in words)


def search(workshop: Workshop, text: str) -> tuple[list[Hit], bool]:
    """What a workshop keeps of these words, engines first; nearly right names where nothing is quite right (then True)."""
    query = query_of(text)
    if not query:
        return [], False
    with connection.cursor() as cursor:
        cursor.execute(_FULL, {"shop": workshop.pk, "query": query})
        found, nearly = cursor.fetchall(), False
        if not found:
            with transaction.atomic():
                cursor.execute(
                    "SELECT set_config('pg_trgm.word_similarity_threshold', %s, TRUE)", [_NEAR_LONG if len(text.strip()) > _LONG else _NEAR]
                )
                cursor.execute(_SIMILAR, {"shop": workshop.pk, "text": text.strip()[:60]})
                found, nearly = cursor.fetchall(), True
    hits: dict[tuple[str, int | None, str], Hit] = {}
    for kind, words, build, name, row in found:
        hits.setdefault(
            (kind, build, "" if kind == "engine" else words), Hit(kind=kind, words=words, build=build, build_name=name, row=row)
        )
    return list(hits.values()), nearly
