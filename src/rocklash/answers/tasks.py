"""Work that takes longer than a page may: asked for by content, done once by a worker, however many ask and wherever they sit.

Where no worker runs (tests, a server that starts none), a thread of the asking process does it.
"""

import pickle
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import close_old_connections
from django.utils import timezone
from procrastinate import RetryStrategy, exceptions
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateWorker
from procrastinate.jobs import Job

from rocklash.answers import store
from rocklash.records.models import Result, ResultState
from valvetrain.errors import StoppedError, ValveTrainError

GoOn = Callable[[float], bool]
Work = Callable[[Any, GoOn], Any]
_KINDS: dict[str, Work] = {}
_TELL_EVERY = 0.4  # s between two notes of the share done
_ALIVE = 12.0  # s without a sign after which a worker counts as gone
_KEEP_DAYS = {"motion": 2, "strain": 400, "calibration": 60, "pdf": 1, "choose": 3, "proof": 2}


@dataclass(frozen=True)
class Ready:
    """The result is there."""

    value: Any


@dataclass(frozen=True)
class Running:
    """It is being worked out: the share done, and the seconds left where that can be told."""

    share: float
    left: float | None = None


@dataclass(frozen=True)
class Refused:
    """It cannot be worked out; the sentence holds amounts in SI."""

    sentence: str


@dataclass(frozen=True)
class Stopped:
    """Somebody left it out while it was worked out."""


Asked = Ready | Running | Refused | Stopped


def kind(name: str) -> Callable[[Work], Work]:
    """Declare how results of a kind are worked out from their inputs."""

    def declare(work: Work) -> Work:
        _KINDS[name] = work
        return work

    return declare


class _LocalJob:
    """A job in a thread of this process."""

    def __init__(self, name: str, key: str, inputs: Any) -> None:
        self.name, self.key, self.inputs = name, key, inputs
        self.began, self.share, self.stopped = time.monotonic(), 0.0, False
        self.ended: Refused | Stopped | None = None
        self.thread = threading.Thread(target=self._run, name=name, daemon=True)
        self.thread.start()

    def _go_on(self, share: float) -> bool:
        self.share = share
        return not self.stopped

    def _run(self) -> None:
        try:
            store.remember(self.name, self.key, _KINDS[self.name](self.inputs, self._go_on))
        except StoppedError:
            self.ended = Stopped()
        except ValveTrainError as error:
            self.ended = Refused(error.sentence)


_local: dict[tuple[str, str], _LocalJob] = {}
_lock = threading.Lock()
_looked: dict[str, float | bool] = {"at": -1e9, "alive": False}


def forget(name: str) -> None:
    """Drop what this process keeps of a kind, and the jobs it has begun itself."""
    store.forget(name)
    with _lock:
        for job in [each for each in _local if each[0] == name]:
            _local.pop(job).stopped = True


def workers_run() -> bool:
    """Whether a worker gave a sign of life just now; looked up at most every few seconds."""
    if settings.WORKERS == "never":
        return False
    now = time.monotonic()
    if now - float(_looked["at"]) > 3.0:
        since = timezone.now() - timedelta(seconds=_ALIVE)
        _looked.update(at=now, alive=ProcrastinateWorker.objects.filter(last_heartbeat__gt=since).exists())
    return bool(_looked["alive"])


def _row_key(key: str) -> str:
    return f"{store.code_key()}-{key}"


def _left(share: float, seconds: float) -> float | None:
    return seconds * (1.0 - share) / share if share > 0.02 else None


def peek(name: str, key: str) -> Asked | None:
    """How far a result is; None when nobody has asked for it. Begins nothing."""
    value = store.recall(name, key)
    if value is not None:
        return Ready(value)
    with _lock:
        job = _local.get((name, key))
    if job is not None:
        return job.ended or Running(job.share, _left(job.share, time.monotonic() - job.began))
    if not workers_run():
        return None
    return peek_many(name, [key]).get(key)


def peek_many(name: str, keys: list[str]) -> dict[str, Asked]:
    """The same for several keys, in one query at most."""
    found: dict[str, Asked] = {key: Ready(value) for key in keys if (value := store.recall(name, key)) is not None}
    missing = {_row_key(key): key for key in keys if key not in found}
    if not missing or not workers_run():
        return found
    for row in Result.objects.filter(key__in=missing):
        found[missing[row.key]] = _read(name, missing[row.key], row)
    return found


def _read(name: str, key: str, row: Result) -> Asked:
    match row.state:
        case ResultState.DONE:
            value = pickle.loads(row.payload)  # type: ignore[arg-type]  # noqa: S301  (our own table, written by `keep` alone)
            store.remember(name, key, value)
            return Ready(value)
        case ResultState.REFUSED:
            return Refused(row.sentence)
        case ResultState.CANCELLED:
            return Stopped()
    seconds = (timezone.now() - row.begun_at).total_seconds() if row.begun_at else 0.0
    return Running(row.share, _left(row.share, seconds))


def ask(name: str, key: str, inputs: Any) -> Asked:
    """How far a result is; begun if nobody has asked for it yet, or if it was stopped."""
    known = peek(name, key)
    if known is not None and not isinstance(known, Stopped):
        return known
    if not workers_run():
        with _lock:
            job = _local.get((name, key))
            if job is None or job.ended:
                for old in [each for each, other in _local.items() if not other.thread.is_alive()]:
                    del _local[old]
                _local[name, key] = _LocalJob(name, key, inputs)
        return peek(name, key) or Running(0.0)
    row_key = _row_key(key)
    _, made = Result.objects.get_or_create(key=row_key, defaults={"kind": name, "inputs": pickle.dumps(inputs)})
    if not made:
        again = Result.objects.filter(key=row_key, state=ResultState.CANCELLED)
        made = bool(again.update(state=ResultState.QUEUED, share=0.0, begun_at=None, inputs=pickle.dumps(inputs)))
    if made:
        _defer(row_key, key)
    return Running(0.0)


def _defer(row_key: str, key: str) -> None:
    try:
        compute.configure(queueing_lock=row_key).defer(row_key=row_key, key=key)
    except exceptions.AlreadyEnqueued:
        return  # somebody asked in the same moment: one job is enough


def ask_many(name: str, wanted: list[tuple[str, Any]]) -> None:
    """Have many results of a kind worked out, each begun unless it was already: a handful of queries however many."""
    if not workers_run():
        for key, inputs in wanted:
            ask(name, key, inputs)
        return
    keys = {_row_key(key): (key, inputs) for key, inputs in wanted}
    known = dict(Result.objects.filter(key__in=keys).values_list("key", "state"))
    fresh = [row_key for row_key in keys if known.get(row_key, ResultState.CANCELLED) == ResultState.CANCELLED]
    rows = [Result(key=row_key, kind=name, inputs=pickle.dumps(keys[row_key][1])) for row_key in fresh]
    Result.objects.filter(key__in=fresh).delete()
    Result.objects.bulk_create(rows, ignore_conflicts=True)
    jobs: list[Any] = [{"row_key": row_key, "key": keys[row_key][0]} for row_key in fresh]
    if jobs:
        compute.batch_defer(*jobs)


def stop_many(name: str, keys: list[str]) -> None:
    """Nobody waits for these any more."""
    if not workers_run():
        for key in keys:
            stop(name, key)
        return
    rows = Result.objects.filter(key__in=[_row_key(key) for key in keys], state__in=[ResultState.QUEUED, ResultState.RUNNING])
    rows.update(state=ResultState.CANCELLED, inputs=None)


def stop(name: str, key: str) -> None:
    """Nobody waits for a result any more: the work ends at its next step."""
    with _lock:
        job = _local.get((name, key))
    if job is not None:
        job.stopped = True
    if workers_run():
        rows = Result.objects.filter(key=_row_key(key), state__in=[ResultState.QUEUED, ResultState.RUNNING])
        rows.update(state=ResultState.CANCELLED, inputs=None)


def keep(name: str, key: str, value: Any) -> None:
    """Keep a result that was worked out on the way to another one."""
    store.remember(name, key, value)
    if workers_run():
        now = timezone.now()
        done = {"kind": name, "state": ResultState.DONE, "share": 1.0, "payload": pickle.dumps(value), "ended_at": now, "inputs": None}
        Result.objects.update_or_create(key=_row_key(key), defaults=done)


def _telling(row_key: str) -> GoOn:
    """Note the share done now and then, and whether somebody left the result out."""
    last = [0.0]

    def go_on(share: float) -> bool:
        if time.monotonic() - last[0] < _TELL_EVERY:
            return True
        last[0] = time.monotonic()
        return bool(Result.objects.filter(key=row_key, state=ResultState.RUNNING).update(share=share))

    return go_on


@app.task(name="compute", queue="heavy", retry=RetryStrategy(max_attempts=3, wait=1))
def compute(row_key: str, key: str) -> None:
    """Work one result out. A job that was taken up before, by a worker that died, is simply worked out again."""
    close_old_connections()
    mine = Result.objects.filter(key=row_key)
    open_ = mine.exclude(state__in=[ResultState.DONE, ResultState.REFUSED, ResultState.CANCELLED])
    row = open_.first()
    if row is None or row.inputs is None:
        return
    # somebody may have left it out since it was read: what is cancelled stays so
    if not open_.update(state=ResultState.RUNNING, begun_at=timezone.now(), share=0.0, tries=row.tries + 1):
        return
    try:
        value = _KINDS[row.kind](pickle.loads(row.inputs), _telling(row_key))  # noqa: S301  (our own table)
    except StoppedError:
        return
    except ValveTrainError as error:
        mine.exclude(state=ResultState.CANCELLED).update(
            state=ResultState.REFUSED, sentence=error.sentence, ended_at=timezone.now(), inputs=None
        )
        return
    store.remember(row.kind, key, value)
    done = {"state": ResultState.DONE, "share": 1.0, "payload": pickle.dumps(value), "ended_at": timezone.now(), "inputs": None}
    mine.exclude(state=ResultState.CANCELLED).update(**done)


@app.periodic(cron="* * * * * */5")  # the sixth field is the seconds: every five of them
@app.task(name="mend", queue="mend", queueing_lock="mend", pass_context=True)
async def mend(context: Any, timestamp: int) -> None:  # noqa: ARG001  (the library hands it)
    """Take up again what a dead worker left."""
    manager = context.app.job_manager
    jobs: list[Job] = list(await manager.get_stalled_jobs(seconds_since_heartbeat=_ALIVE))
    for job in jobs:
        await manager.retry_job(job)


@app.periodic(cron="17 3 * * *")
@app.task(name="sweep", queue="mend", queueing_lock="sweep")
def sweep(timestamp: int) -> None:  # noqa: ARG001  (the library hands it)
    """Drop results that nobody will ask for: figures change, and each motion is megabytes."""
    for name, days in _KEEP_DAYS.items():
        Result.objects.filter(kind=name, asked_at__lt=timezone.now() - timedelta(days=days)).delete()
