"""What Dunlin did before its work and after, measured: gauge, leak-down, a run that floats and one that holds, and a pull by ear. All invented and simulated."""

import zlib
from dataclasses import replace
from datetime import timedelta

from django.utils import timezone

from rocklash.answers.proof import angles_of, expected_gauge, layout_of, order_of
from rocklash.answers.proof_files import heard_in, run_in, starter_in
from rocklash.answers.results import result_of
from rocklash.records.models import Build, Forecast, Membership, Phase, ProofFile, ProofKind, ProofTest, Workshop
from rocklash.records.selectors.builds import build_or_404
from valvetrain.formats import recording, run_table
from valvetrain.simulators import dyno_bench, pull_sound, starter_bench
from valvetrain.studies.proof.compression import Condition
from valvetrain.units import QuantityKind

_MET = [each.name.lower() for each in Condition]
_AIR = {"ambient": 100_900.0, "temperature": 289.15, "humidity": 62.0}
_BEFORE, _AFTER = 21, 3  # days ago
_ENDS = 12_480.0 / 60.0


def load_proof(shop: Workshop, member: Membership) -> None:
    """Everything of it."""
    build = build_or_404(shop, Build.objects.get(workshop=shop, name="Dunlin 598").pk)
    _cylinders(build, member)
    _runs(build, member)
    _pulls(build, member)


def _keep(build: Build, member: Membership, kind: ProofKind, phase: Phase, **told: object) -> ProofTest:
    day = timezone.localdate() - timedelta(days=_BEFORE if phase == Phase.BEFORE else _AFTER)
    return ProofTest.objects.create(build=build, kind=kind, phase=phase, made_on=day, by=member.user, **told)


def _file(test: ProofTest, raw: bytes, name: str) -> None:
    seen = run_table.preview(raw) if not name.endswith(".wav") else None
    ProofFile.objects.create(
        test=test, name=name, size=len(raw), columns=dict(seen.columns) if seen else {}, units=dict(seen.units) if seen else {}, data=zlib.compress(raw)
    )  # fmt: skip


def _cylinders(build: Build, member: Membership) -> None:
    pulls = {Phase.BEFORE: ((18.1, 18.0), (16.9, 16.8)), Phase.AFTER: ((17.4, 17.3), (17.2, 17.2))}
    leaks = {
        Phase.BEFORE: ((0.09, "breather or crankcase"), (0.17, "exhaust")),
        Phase.AFTER: ((0.06, "breather or crankcase"), (0.08, "breather or crankcase")),
    }
    for phase in (Phase.BEFORE, Phase.AFTER):
        read = {str(number): {"dry": [each * 1e5 for each in dry]} for number, dry in enumerate(pulls[phase], start=1)}
        gauge = _keep(
            build, member, ProofKind.COMPRESSION, phase, conditions={"met": _MET, "cranking": 300.0 / 60.0}, readings={"cylinders": read}
        )
        lost = {
            str(number): {"behind": 550e3 * (1.0 - part), "hisses": [hiss]} for number, (part, hiss) in enumerate(leaks[phase], start=1)
        }
        _keep(build, member, ProofKind.LEAK, phase, conditions={"regulated": 550e3, "restrictor": 1.0e-3}, readings={"cylinders": lost})
    band = expected_gauge(result_of(build))
    if band is not None:
        Forecast.objects.create(
            build=build, kind="compression", words="Compression, middle of the cylinders", unit=QuantityKind.PRESSURE.value, middle=band.middle, low=band.low,
            high=band.high, rests_on="trapped compression ratio, cranking at 300 rpm, usual leak and wall heat", result=17.4e5, test=gauge, by=member.user,
        )  # fmt: skip
    made = starter_bench.make(starter_bench.even(build.engine.cylinders, [(1, 0.9)]), 4)
    raw = run_table.write({"time": made.time, "current": made.current, "mark": made.mark}).encode()
    found, _, _ = starter_in(raw, angles_of(build), [])
    _file(
        _keep(build, member, ProofKind.STARTER, Phase.BEFORE, conditions={"order": order_of(build)}, found=found), raw, "starter-current.csv"
    )  # fmt: skip


def _runs(build: Build, member: Membership) -> None:
    plan = dyno_bench.DynoPlan(torque=57.5, at=160.0, low=68.0, high=216.0, wide=0.62, floats=12_080.0 / 60.0, loss=0.016)
    later = replace(plan, torque=60.6, at=166.0, high=212.0, floats=_ENDS, wide=0.6)
    for phase, each, name in ((Phase.BEFORE, plan, "before, 4th"), (Phase.AFTER, later, "after, 4th")):
        made = dyno_bench.run(each, 11)
        raw = run_table.write({"time": made.time, "rpm": made.speed, "torque": made.torque}).encode()
        seen = run_table.preview(raw)
        conditions = {"standard": "as measured", "dyno": "drum of the harbour school", "gear": "4th", **_AIR}
        _file(
            _keep(build, member, ProofKind.RUN, phase, name=name, conditions=conditions, found=run_in(raw, seen.columns, seen.units)),
            raw,
            "run.csv",
        )


def _pulls(build: Build, member: Membership) -> None:
    _keep(
        build, member, ProofKind.REV, Phase.BEFORE, conditions={"stretch": "quay straight", "gear": "4th", "by": "tachometer", "how": "wall"},
        readings={"speed": 12_080.0 / 60.0, "doubt": 70.0 / 60.0},
    )  # fmt: skip
    made = pull_sound.make(pull_sound.PullPlan(angles=angles_of(build), top=_ENDS, giving=pull_sound.Giving.CLATTER, seconds=12.0), 21)
    raw = recording.write(made.samples, made.rate)
    found = heard_in(raw, layout_of(build, 12_600.0 / 60.0))
    test = _keep(
        build,
        member,
        ProofKind.SOUND,
        Phase.AFTER,
        conditions={"top": 12_600.0 / 60.0, "where": "taped to the seat, simulated"},
        found=found,
    )
    _file(test, raw, "pull.wav")
    Forecast.objects.create(
        build=build, kind="float exhaust", words="Exhaust valves float", unit=QuantityKind.SPEED.value, middle=12_430.0 / 60.0, low=12_170.0 / 60.0,
        high=12_690.0 / 60.0, rests_on="motion at speed, weakest valve", result=found["end"]["speed"], test=test, by=member.user,
    )  # fmt: skip
