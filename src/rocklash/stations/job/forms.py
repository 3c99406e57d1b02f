"""What is written on the order for the machine shop, and what a job is composed of."""

from django import forms

from rocklash.ui.forms import BenchForm, OneOfField
from valvetrain.studies.head.shop import WORKS
from valvetrain.studies.job.facts import ASKS, HAS, KIND_WORDS, RENEWED


class OrderForm(BenchForm):
    """What is to be done, by whom, until when."""

    prefix_id = "order"
    works = forms.MultipleChoiceField(
        label="To be done", required=False, choices=list(WORKS.items()), widget=forms.CheckboxSelectMultiple,
        error_messages={"invalid_choice": "There is no such work on the list."},
    )  # fmt: skip
    shop = forms.CharField(label="Machine shop", required=False, max_length=80)
    wanted = forms.DateField(
        label="Wanted back on", required=False, widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"),
        error_messages={"invalid": "Write the day as 2027-03-14, or leave it empty."},
    )  # fmt: skip
    note = forms.CharField(label="A note to the shop", required=False, max_length=500, widget=forms.Textarea({"rows": 2, "cols": None}))


class JobForm(BenchForm):
    """What kind of job, on what, with which parts and schools; steps are composed from it."""

    prefix_id = "job"
    kind = OneOfField([(kind.value, words) for kind, words in KIND_WORDS.items()], label="The job")
    here = OneOfField(
        [("machine", "the whole machine"), ("engine", "the engine on a stand"), ("head", "the head alone")], label="What is here"
    )
    in_frame = forms.BooleanField(label="Engine stays in its frame", required=False)
    hold = OneOfField([("rope", "rope in the cylinder"), ("air", "air through the plug hole")], label="Valves held, head on, by")
    lapping = OneOfField([("none", "not at all"), ("hand", "by hand"), ("shop", "by the machine shop")], label="Valves lapped")
    drive = OneOfField([("chain", "a chain"), ("belt", "a belt"), ("gears", "gears")], label="Overhead cams driven by")
    held = OneOfField([("caps", "caps"), ("bridge", "one bridge"), ("bores", "bores and a plate")], label="Cams held by")
    renewed = forms.MultipleChoiceField(
        label="Renewed", required=False, choices=[(key, key) for key in RENEWED], widget=forms.CheckboxSelectMultiple
    )
    has = forms.MultipleChoiceField(label="The engine has", required=False, choices=list(HAS.items()), widget=forms.CheckboxSelectMultiple)
    asks = forms.MultipleChoiceField(
        label="And this is so", required=False, choices=list(ASKS.items()), widget=forms.CheckboxSelectMultiple
    )
