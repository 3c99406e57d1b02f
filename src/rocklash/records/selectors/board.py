"""The board of a workshop: which builds, in which order, and what is told of each beside its verdict."""

from dataclasses import dataclass
from typing import Any

from django.db import connection
from django.db.models import BooleanField, F, JSONField, Q, QuerySet
from django.db.models.expressions import RawSQL

from rocklash.records.models import Build, Workshop
from rocklash.records.selectors.builds import builds_of, deleted_builds

SHOWN = {"board": "in hand", "open": "open engines", "waits": "waiting", "due": "something due", "archive": "archive", "deleted": "deleted"}
_DUE_RANK = 1  # due or past its time, as studies.logbook.due.State counts

# What a row tells, with its build: written once, since composing it anew costs more than asking it.
_BOARD = """
jsonb_build_object(
  'job', (SELECT jsonb_build_object('kind', j.kind, 'promised', j.promised,
            'waits', coalesce((SELECT jsonb_agg(jsonb_build_object('what', w.what, 'last', w.last) ORDER BY w.last) FROM records_jobwait w
                                WHERE w.job_id = j.id AND w.got_on IS NULL), '[]'))
            FROM records_job j WHERE j.build_id = records_build.id AND j.closed_at IS NULL LIMIT 1),
  'due', (SELECT jsonb_build_object('rank', d.rank, 'hours', d.hours, 'lines', jsonb_path_query_array(d.lines, '$[*] ? (@.state == "over" || @.state == "due").what'))
            FROM records_duestate d WHERE d.build_id = records_build.id),
  'test', (SELECT jsonb_build_object('kind', t.kind, 'name', t.name, 'phase', t.phase, 'on', t.made_on) FROM records_prooftest t
            WHERE t.build_id = records_build.id AND NOT t.found ? 'pending' ORDER BY t.made_on DESC, t.at DESC LIMIT 1),
  'ran', (SELECT jsonb_build_object('seconds', r.seconds, 'on', r.made_on) FROM records_runentry r WHERE r.build_id = records_build.id
            ORDER BY r.made_on DESC, r.at DESC LIMIT 1)
)
"""
_OPEN = "records_build.id IN (SELECT j.build_id FROM records_job j WHERE j.closed_at IS NULL)"
_WAITS = "records_build.id IN (SELECT j.build_id FROM records_job j JOIN records_jobwait w ON w.job_id = j.id WHERE j.closed_at IS NULL AND w.got_on IS NULL)"


@dataclass(frozen=True, kw_only=True)
class Asked:
    """What is to be shown: one of SHOWN, words in the names of engine, build or owner, and a use."""

    show: str = "board"
    words: str = ""
    use: str = ""


def board_query(workshop: Workshop, asked: Asked) -> QuerySet[Build]:
    """Builds as asked: open engines first, then those changed last."""
    if asked.show == "deleted":
        builds = deleted_builds(workshop)
    else:
        builds = builds_of(workshop).filter(archived_at__isnull=asked.show != "archive")
    for word in asked.words.split()[:6]:
        builds = builds.filter(
            Q(name__icontains=word)
            | Q(engine__description__icontains=word)
            | Q(engine__owner__icontains=word)
            | Q(engine__serial__icontains=word)
        )
    if asked.use:
        builds = builds.filter(use=asked.use)
    if asked.show == "open":
        builds = builds.filter(RawSQL(_OPEN, [], output_field=BooleanField()))  # noqa: S611  (written here)
    elif asked.show == "waits":
        builds = builds.filter(RawSQL(_WAITS, [], output_field=BooleanField()))  # noqa: S611  (written here)
    elif asked.show == "due":
        builds = builds.filter(due_state__rank__lte=_DUE_RANK)
    return builds.annotate(at_work=RawSQL(_OPEN, [], output_field=BooleanField())).order_by(F("at_work").desc(), "-updated_at", "-pk")  # noqa: S611  (written here)


def numbers_as_asked(workshop: Workshop, asked: Asked) -> list[int]:
    """The numbers of all builds as asked, in their order: whole rows cost ten times as much to put in order."""
    return list(board_query(workshop, asked).values_list("pk", flat=True))


def page_of(workshop: Workshop, numbers: list[int]) -> list[Build]:
    """These builds with their engines, in the order of their numbers."""
    found = {build.pk: build for build in Build.objects.filter(workshop=workshop, pk__in=numbers).select_related("engine", "workshop")}
    return [found[number] for number in numbers if number in found]


# Versions of all rows that bear on a verdict, as the database counts them: where they are the same nothing is read and judged anew. Wider than need be (a
# new name changes a build's own row too), never narrower. Good while this process lives: a version may come again in another life of the database.
BEARS = """
SELECT b.id, (SELECT count(*) FROM records_position p WHERE p.engine_id = b.engine_id), md5(concat_ws('|', b.xmin, b.cmin, b.ctid, e.id, e.xmin, e.cmin, e.ctid, w.own::text,
  (SELECT string_agg(concat_ws(':', p.id, p.xmin, p.cmin, p.ctid), '|' ORDER BY p.id) FROM records_position p WHERE p.engine_id = b.engine_id),
  (SELECT string_agg(concat_ws(':', s.id, s.xmin, s.cmin, s.ctid, z.id, z.xmin, z.cmin, z.ctid), '|' ORDER BY z.id)
     FROM records_setup s JOIN records_setupside z ON z.setup_id = s.id WHERE s.build_id = b.id),
  (SELECT string_agg(concat_ws(':', f.id, f.xmin, f.cmin, f.ctid), '|' ORDER BY f.id)
     FROM records_setup s JOIN records_setupside z ON z.setup_id = s.id JOIN records_valvefit f ON f.setup_side_id = z.id WHERE s.build_id = b.id),
  (SELECT string_agg(concat_ws(':', q.id, q.xmin, q.cmin, q.ctid), '|' ORDER BY z.id, q.id) FROM records_setup s JOIN records_setupside z ON z.setup_id = s.id
     CROSS JOIN LATERAL unnest(ARRAY[z.cam_id, z.low_cam_id, z.valve_id, z.retainer_id, z.keepers_id, z.follower_id, z.shim_id, z.outer_spring_id, z.inner_spring_id]) u(id)
     JOIN records_part q ON q.id = u.id WHERE s.build_id = b.id),
  (SELECT string_agg(concat_ws(':', g.id, g.xmin, g.cmin, g.ctid), '|' ORDER BY g.id) FROM records_gapreading g WHERE g.build_id = b.id),
  (SELECT max(l.id)::text FROM records_journalentry l WHERE l.build_id = b.id)))
  FROM records_build b JOIN records_engine e ON e.id = b.engine_id JOIN records_workshop w ON w.id = b.workshop_id WHERE b.id = ANY(%s)
"""


def what_bears(builds: list[Build]) -> dict[int, tuple[int, str]]:
    """How many valves each build has, and a name for all rows that bear on its verdict, in one query."""
    with connection.cursor() as cursor:
        cursor.execute(BEARS, [[build.pk for build in builds]])
        return {number: (valves, name) for number, valves, name in cursor.fetchall()}


def laid_out(builds: list[Build]) -> dict[int, dict[str, Any]]:
    """What is told of these builds beside their verdicts, in one query."""
    found = Build.objects.filter(pk__in=[build.pk for build in builds]).annotate(told=RawSQL(_BOARD, [], output_field=JSONField()))  # noqa: S611  (written here)
    return dict(found.values_list("pk", "told"))
