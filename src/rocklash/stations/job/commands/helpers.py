"""What the helpers of a job are told: bolts of the head, cam caps, air."""

from rocklash.commands.base import Refused
from rocklash.stations.job.commands.plan import JobCommand
from rocklash.stations.job.forms import HelperForm
from valvetrain.errors import QuantityError
from valvetrain.studies.job.bolts import read_stages


class KeepHelper(JobCommand):
    """Keep what the helpers were told."""

    verb = "helpers of the job"
    form = HelperForm

    def standing(self) -> object:
        """What they are told now."""
        return self.told("helper")

    def apply(self) -> None:
        """As the form has it; stages must be readable."""
        job, told = self.open_job(), {key: value for key, value in self.cleaned.items() if value not in (None, "")}
        if told.get("stages"):
            try:
                read_stages(str(told["stages"]))
            except QuantityError as error:
                raise Refused(fields={"stages": error.sentence}) from error
        if told == job.helper:
            return
        self.ledger.set(job, helper=told)
        self.note("", "", ", ".join(f"{key} {value}" for key, value in told.items())[:200])
