"""Forms of people and workshops."""

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password

from rocklash.records.models import Role, User


class SignInForm(AuthenticationForm):
    """Name and password, with a sentence that gives nothing away."""

    error_messages = {
        "invalid_login": "This name and password do not belong together. Both are case-sensitive; after five tries the name rests for a quarter of an hour.",
        "inactive": "This sign-in was switched off. Ask the owner of your workshop.",
    }


class PersonForm(forms.Form):
    """A new person: sign-in name and password."""

    name = forms.CharField(label="Your sign-in name", max_length=60, widget=forms.TextInput(attrs={"autocomplete": "username"}))
    password = forms.CharField(
        label="Password", help_text="Ten characters or more.", widget=forms.PasswordInput(attrs={"autocomplete": "new-password"})
    )

    def clean_name(self) -> str:
        """Refuse a name that is taken."""
        name = self.cleaned_data["name"].strip()
        if User.objects.filter(username__iexact=name).exists():
            raise forms.ValidationError(f"“{name}” is taken. Add a number or your initials, for example {name}2.")
        return str(name)

    def clean_password(self) -> str:
        """Refuse passwords that are guessed at once."""
        validate_password(self.cleaned_data["password"])
        return str(self.cleaned_data["password"])


class StartForm(PersonForm):
    """A new workshop with its owner."""

    field_order = ["workshop", "name", "password"]
    workshop = forms.CharField(label="Name of the workshop", max_length=80)


class InviteForm(forms.Form):
    """What the invited person may do."""

    role = forms.ChoiceField(
        label="They come as",
        choices=[
            (Role.BUILDER, "builder: may change everything but people"),
            (Role.VIEWER, "viewer: may look"),
            (Role.OWNER, "owner: may invite too"),
        ],
    )
