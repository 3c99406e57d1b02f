"""make attack: hostile inputs, access cells, two hands on one row, eight at once, kills and a full disk in the middle of writing, and a backup brought back.

Under five minutes, each with its count; a short form of each runs with the tests, this one is for a look before a release.
"""

import contextlib
import os
import random
import re
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import cluster
import prepare
from attackers import Environment, Hand, Site, ask_database, digests, python, together

LONGER = float(os.environ.get("LONGER", "1"))  # LONGER=8 make attack: so many times as long, for the whole figures
HOSTILE_SECONDS, MOST_INPUTS = 30.0 * LONGER, 5000
PAIRS, WRITES, DISK, MOST_SECONDS = (
    int(120 * LONGER),
    int(500 * LONGER),
    900,
    25.0 * LONGER,
)  # pairs of writes, runs to be acknowledged, MB of the small disk, seconds for it
CLIENTS, SECONDS, THINKS = 8, 30.0, 0.5  # people at once, for how long, seconds between their presses
LEFT_OUT = {
    "django_session",
    "axes_accessattempt",
    "axes_accesslog",
    "axes_accessfailurelog",
}  # of every backup: sessions and who tried the door
Told = dict[str, str]


def doors(environment: Environment, folder: Path, told: Told) -> bool:
    """Every address of the registry as a viewer, a stranger, nobody; and every form, query and file with hostile values, in two processes that share the work."""
    seed = str(random.randrange(10**6))  # noqa: S311
    more = {
        "ROCKLASH_ATTACK": str(MOST_INPUTS),
        "ROCKLASH_ATTACK_SECONDS": str(HOSTILE_SECONDS),
        "ROCKLASH_ATTACK_SEED": seed,
        "ROCKLASH_ATTACK_TOLD": str(folder / "sent"),
    }
    files = ["tests/rocklash/test_hostile.py", "tests/rocklash/test_doors.py"]
    run = python("-m", "pytest", "-q", "-n", "2", *files, "-k", "hostile_input or build_is or stranger or viewer or without_signing", "-p", "no:cacheprovider", environment=environment | more)  # fmt: skip
    said, good = run.communicate()[0], run.returncode == 0
    passed, sent = re.search(r"(\d+) passed", said), folder / "sent"
    told["access"] = f"{int(passed[1]) - 1 if passed else 0} rows of the table, one to four cells each, {'no leak' if good else 'FAILED'}"
    told["hostile inputs"] = f"{sent.read_text() if sent.exists() else 0}, {'none a 500, none over 2 s' if good else 'FAILED'}, seed {seed}"
    if not good:
        print(said[-6000:])
    return good and sent.exists()


def _pairs(build: str) -> list[tuple[str, str, Callable[[int], dict[str, str]]]]:
    """Page, what marks its form, and what the hand of a number sends."""
    at = f"/shop/skerrow/build/{build}/"
    return [
        (f"{at}goal/", 'value="goal_rpm"', lambda n: {"text": str(5000 + n), "basis": "card"}),
        (f"{at}lash/", 'name="was_hours"', lambda n: {"act": "manner", "hours": str(100 + n)}),
        (f"{at}choose/family/", 'value="family"', lambda n: {"family": f"family {n}"}),
        (f"{at}logbook/due/", 'value="rule"', lambda n: {"what": "oil", "whose": "own", "least": str(1 + n), "unit": "h"}),
    ]


def races(environment: Environment, _: Path, told: Told) -> bool:
    """Two people on one row, again and again: whoever comes second is told, nothing is written over in silence."""
    site = Site(environment)
    hands = [Hand(site.base, "builder"), Hand(site.base, "owner")]
    found = re.search(r"/build/(\d+)/[^>]*>Knot 389", hands[0].get("/shop/skerrow/")[1])
    kinds, late, silent, done = _pairs(found[1] if found else "0"), 0, 0, 0
    for number in range(PAIRS):
        where, mark, sent = kinds[number % len(kinds)]
        shown, answers = hands[0].form(where, mark), list[int]()
        if not shown:
            print(f"no form on {where}")
            continue

        def press(hand: Hand, own: int, where: str = where, sent: Callable[[int], dict[str, str]] = sent, shown: Told = shown, answers: list[int] = answers) -> None:  # fmt: skip
            answers.append(hand.post(where, **(shown | sent(own) | {"once": f"race{own}"}))[0])

        together(*(threading.Thread(target=press, args=(hand, 2 * number + place)) for place, hand in enumerate(hands)))
        late += answers.count(409)
        silent += answers.count(200) == len(hands)
        done += len(answers)
    site.stop()
    told["interleaved writes"] = f"{done} on {len(kinds)} kinds of rows, {late} told of the other, {silent} written over in silence"
    return silent == 0 and late > done // 3


def eight(environment: Environment, _: Path, told: Told) -> bool:
    """Eight people for half a minute."""
    site = Site(environment)
    hands = [Hand(site.base, name) for name in ("builder", "owner") * (CLIENTS // 2)]
    numbers = sorted(set(re.findall(r"/build/(\d+)/", hands[0].get("/shop/skerrow/")[1])))
    pages = ["", "goal/", "cams/", "springs/", "room/", "lash/", "logbook/", "job/"]
    took, wrong, end = list[float](), list[int](), time.monotonic() + SECONDS

    def work(hand: Hand, seed: int) -> None:
        draw = random.Random(seed)  # noqa: S311
        while time.monotonic() < end:
            begun = time.monotonic()
            if draw.random() < 0.2:
                status = hand.post("/shop/skerrow/ran/", text="5 min on Knot 389")[0]
            else:
                status = hand.get(draw.choice(["/shop/skerrow/", f"/shop/skerrow/build/{draw.choice(numbers)}/{draw.choice(pages)}"]))[0]
            took.append(time.monotonic() - begun)
            wrong.extend([status] if status != 200 else [])
            time.sleep(THINKS)

    together(*(threading.Thread(target=work, args=(hand, number)) for number, hand in enumerate(hands)))
    site.stop()
    took.sort()
    p95 = 1e3 * took[int(0.95 * len(took))]
    told["eight at once"] = f"{len(took)} answers in {SECONDS:.0f} s, {THINKS} s between presses, median {1e3 * took[len(took) // 2]:.0f} ms, p95 {p95:.0f} ms, {len(wrong)} wrong"  # fmt: skip
    return not wrong


def _bring_up(folder: Path) -> None:
    """The database started again; what a dead postmaster left running has to end first."""
    end = time.monotonic() + 30
    while time.monotonic() < end:
        try:
            server = cluster.start(folder, durable=True)
        except (cluster.ClusterError, OSError):
            time.sleep(0.3)
            continue
        if cluster.port_open(server.port):
            return


def _written(environment: Environment, folder: Path, harm: Callable[[int, Site], None], every: float, writes: int) -> tuple[int, int, int]:
    """Runs acknowledged, those kept, and how often harm was done, which is every so many seconds until so many runs are acknowledged."""
    count = "select count(*) from records_runentry"
    site, before, acknowledged = Site(environment), int(ask_database(environment, count)), 0
    hand, harms, begun, number = Hand(site.base, "builder"), list[threading.Thread](), time.monotonic(), 0
    while acknowledged < writes and time.monotonic() - begun < MOST_SECONDS:
        if time.monotonic() - begun > every * (len(harms) + 0.5):
            harms.append(threading.Thread(target=harm, args=(len(harms), site), daemon=True))
            harms[-1].start()
        number += 1
        status, page = hand.post("/shop/skerrow/ran/", text="10 min on Petrel 1498", once=f"{folder.name}{harm.__name__}{number}")
        acknowledged += status == 200 and "Logbook of Petrel" in page
        if status != 200:
            time.sleep(0.05)
    for each_harm in harms:
        each_harm.join(timeout=60)
    _bring_up(folder)
    kept = int(ask_database(environment, count)) - before
    site.stop()
    return acknowledged, kept, len(harms)


def kills(environment: Environment, folder: Path, told: Told) -> bool:
    """Workers, master and postmaster killed with signal 9 while runs are entered."""

    one_at_a_time = threading.Lock()

    def killed(number: int, site: Site) -> None:
        with one_at_a_time:
            if number % 4 == 1:
                with contextlib.suppress(ProcessLookupError, OSError):  # it may be down already
                    os.kill(int((folder / "data/postmaster.pid").read_text().split()[0]), signal.SIGKILL)
                _bring_up(folder)
            elif number % 4 == 3:
                site.kill()
                site.start()
            elif site.workers():
                os.kill(random.choice(site.workers()), signal.SIGKILL)  # noqa: S311

    acknowledged, kept, count = _written(environment, folder, killed, 2.0, WRITES)
    told["acknowledged under kill -9"] = f"{acknowledged} in {count} kills, {kept} kept, {max(0, acknowledged - kept)} lost"
    return WRITES // 3 < acknowledged <= kept


def full(environment: Environment, folder: Path, told: Told) -> bool:
    """The disk runs full while runs are entered, and is emptied again."""
    if not folder.parent.is_mount():
        told["disk full"] = "not tried: a small disk is mounted by root alone"
        return True
    filler = folder.parent / "filler"

    def filled(number: int, _: Site) -> None:
        if number % 2 == 0:
            with contextlib.suppress(OSError), filler.open("ab") as file:
                while True:
                    file.write(b"\0" * 65536)
                    file.flush()
            return
        filler.unlink(missing_ok=True)

    acknowledged, kept, count = _written(environment, folder, filled, 0.8, 120)
    filler.unlink(missing_ok=True)
    told["disk full"] = f"{acknowledged} acknowledged, filled or emptied {count} times, {kept} kept, {max(0, acknowledged - kept)} lost"
    return 0 < acknowledged <= kept


def restored(environment: Environment, folder: Path, told: Told) -> bool:
    """A backup of what has come of all this, brought back: the same in every table."""
    told_to = environment | {"ROCKLASH_BACKUPS": str(folder.parent / "backup"), "ROCKLASH_STATEMENT_SECONDS": "0"}
    before = {name: digest for name, digest in digests(environment).items() if name not in LEFT_OUT}
    for words in (["backup"], ["restore"]):
        last = sorted(map(str, (folder.parent / "backup").glob("*.dump")))[-1:] if words == ["restore"] else []
        run = python("manage.py", *words, *last, environment=told_to)
        said = run.communicate()[0]
        if run.returncode:
            told["restore"] = f"FAILED: {said[-500:]}"
            return False
    after = digests(environment)
    apart = sorted(name for name in before if before[name] != after.get(name))
    told["restore"] = f"{len(before)} tables, {', '.join(apart) or 'all the same'}"
    return not apart


@contextlib.contextmanager
def small_disk() -> Iterator[Path]:
    """A folder on a disk that can be filled, where that may be mounted; else a folder."""
    with tempfile.TemporaryDirectory(prefix="rocklash-attack-", dir="/tmp") as name:
        Path(name).chmod(0o755)
        mounted = os.geteuid() == 0 and subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={DISK}m,mode=755", "tmpfs", name], check=False, capture_output=True).returncode == 0  # fmt: skip
        try:
            yield Path(name)
        finally:
            if mounted:
                subprocess.run(["umount", "-l", name], check=False)


def main() -> int:
    prepare.debian(prepare.SERVER)
    prepare.python_packages()
    began, told, good = time.monotonic(), dict[str, str](), True
    with small_disk() as disk, cluster.running(disk / "pg", durable=True) as server:
        test = prepare.environment(server.environment() | {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.test", "DJANGO_ALLOW_ASYNC_UNSAFE": "true"})  # fmt: skip
        site = prepare.environment(server.environment() | {"DJANGO_SETTINGS_MODULE": "rocklash.config.settings.dev", "ROCKLASH_BACKUPS": "", "ROCKLASH_WORKERS": "never"})  # fmt: skip
        for command in ("migrate", "load_demo"):
            run = python("manage.py", command, "-v", "0", environment=site | {"ROCKLASH_STATEMENT_SECONDS": "0"})
            run.communicate()
        asked = sys.argv[1:]
        for step, environment in (
            (races, site),
            (eight, site),
            (kills, site),
            (full, site),
            (restored, site),
            (doors, test),
        ):
            if asked and step.__name__ not in asked:
                continue
            begun = time.monotonic()
            good = step(environment, disk / "pg", told) and good
            print(f"{step.__name__} {time.monotonic() - begun:.0f} s", flush=True)
    for what, words in told.items():
        print(f"{what}: {words}")
    print(f"{time.monotonic() - began:.0f} s")
    return 0 if good else 1


if __name__ == "__main__":
    try:
        sys.exit(main())
    except cluster.ClusterError as error:
        sys.exit(str(error))
