"""What is written on the order for the machine shop."""

from django import forms

from rocklash.ui.forms import BenchForm
from valvetrain.studies.head.shop import WORKS


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
