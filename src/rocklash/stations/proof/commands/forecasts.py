"""Forecasts: kept before a test, or with it where nobody asked, and given their results by the test that tells them."""

from rocklash.answers.motion import with_motions
from rocklash.answers.proof import Foretold, anchors_of, as_cranked, foretell
from rocklash.answers.results import BuildResult, result_of
from rocklash.commands.base import Command, Refused
from rocklash.records.models import Build, Forecast, ProofTest


def _answer(command: Command) -> BuildResult:
    return with_motions(result_of(command.subject))


def _make(command: Command, told: Foretold, rests_on: str = "") -> Forecast:
    row: Forecast = command.ledger.make(
        Forecast, build=command.subject, kind=told.kind, words=told.words, unit=told.unit.value, middle=told.middle, low=told.low, high=told.high,
        rests_on=f"{told.rests_on}{rests_on}"[:200], by=command.member.user,
    )  # fmt: skip
    return row


class MakeForecasts(Command):
    """Keep what the model says before a test begins, so that the result can be held against it."""

    verb = "forecast"
    judged = refreshes = False

    def apply(self) -> None:
        """Open forecasts of the same kinds give way to the new ones; those with a result stay."""
        answer = _answer(self)
        told = foretell(answer, anchors_of(self.subject, answer))
        if not told:
            raise Refused(
                "Nothing can be forecast yet: the build's figures contradict one another, or its motion at speed is still being computed."
            )
        Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk)
        for old in Forecast.objects.select_for_update(no_key=True).filter(
            build=self.subject, result=None, kind__in=[each.kind for each in told]
        ):
            self.ledger.drop(old)
        for each in told:
            _make(self, each)
        self.note("", "", f"{len(told)} forecasts")


_WITH = "; kept with the test, which the model had not seen"


def _open(command: Command, kind: str) -> Forecast | None:
    return Forecast.objects.select_for_update(no_key=True, of=("self",)).filter(build=command.subject, kind=kind, result=None).first()


def _tell(command: Command, row: Forecast, value: float, test: ProofTest) -> None:
    command.ledger.set(row, result=value, test=test)


def tell_compression(command: Command, value: float, test: ProofTest) -> None:
    """Hold the middle of the gauges against what was foretold; where the test says how it was cranked, against the forecast for that."""
    row, told = _open(command, "compression"), as_cranked(_answer(command), test)
    if told is not None and (row is None or any(test.conditions.get(key) for key in ("cranking", "ambient", "hose"))):
        if row is not None:
            command.ledger.drop(row)
        row = _make(command, told, _WITH)
    if row is not None:
        _tell(command, row, value, test)


def tell_float(command: Command, speed: float, test: ProofTest) -> None:
    """Give the forecast of the side that floats first its result, and that of the gain over what was seen before; the other side is only known
    to hold so far, which is no result."""
    answer = _answer(command)
    told = {each.kind: each for each in foretell(answer, anchors_of(command.subject, answer))}
    rows = list(Forecast.objects.filter(build=command.subject, kind__startswith="float", result=None).order_by("middle"))
    first = rows[0] if rows else None
    if first is None:
        made = [each for each in told.values() if each.kind.startswith("float")]
        if not made:
            return
        first = _make(command, min(made, key=lambda each: each.middle), _WITH)
    _tell(command, first, speed, test)
    side = first.kind.removeprefix("float ")
    gain = _open(command, f"gain {side}")
    if gain is None and f"gain {side}" in told:
        gain = _make(command, told[f"gain {side}"], _WITH)
    before = anchors_of(command.subject, answer).get(side)
    if gain is not None and before is not None:
        _tell(command, gain, speed - before.seen, test)
