"""Forms of people and workshops."""

from typing import Any

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password
from django_otp import devices_for_user, match_token

from rocklash.desk.clock import zones
from rocklash.records.models import Role, User
from rocklash.records.selectors.members import looks_taken, tries_for
from rocklash.ui.names import normal, trouble_of

_LONGEST_PASSWORD = 1000
_MANY_TRIES = 30  # wrong passwords for one name within an hour, from wherever


class SignInForm(AuthenticationForm):
    """Name and password, the code of a second factor where there is one, with a sentence that gives nothing away."""

    code = forms.CharField(
        label="Code", required=False, max_length=16, help_text="only if you use a second factor",
        widget=forms.TextInput(attrs={"autocomplete": "one-time-code", "inputmode": "numeric"}),
    )  # fmt: skip
    error_messages = {
        "invalid_login": "This name and password do not belong together. Both are case-sensitive; after five tries the name rests for a quarter of an hour.",
        "inactive": "This sign-in was switched off. Ask the owner of your workshop.",
        "code": "Write the six figures that your app shows now, or one of the codes you kept.",
        "many": "Somebody tries passwords for this name. Sign in on a device you have used before, or wait an hour.",
    }

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["username"].max_length = 150  # type: ignore[attr-defined]
        self.fields["username"].validators = []
        self.fields["password"].max_length = _LONGEST_PASSWORD  # type: ignore[attr-defined]

    def clean(self) -> dict[str, Any]:
        """Name and password as the door has them; far too long ones belong to nobody."""
        name, password = str(self.data.get("username", "")), str(self.data.get("password", ""))
        if len(name) > 150 or len(password) > _LONGEST_PASSWORD or "\x00" in name + password:
            raise self.get_invalid_login_error()
        known = str(self.request.get_signed_cookie("known", "", salt="known-device") if self.request else "") if self.request else ""
        if tries_for(normal(name)) > _MANY_TRIES and normal(name) not in known.split("\n"):
            raise forms.ValidationError(self.error_messages["many"], code="many")
        self.cleaned_data["username"] = normal(name)
        return super().clean() or {}

    def confirm_login_allowed(self, user: Any) -> None:
        """With a second factor, its code too."""
        super().confirm_login_allowed(user)
        if any(devices_for_user(user)):
            token = str(self.data.get("code", "")).replace(" ", "")[:16]
            device = match_token(user, token) if token else None
            if device is None:
                raise forms.ValidationError(self.error_messages["code"], code="code")
            user.otp_device = device


class PersonForm(forms.Form):
    """A new person: sign-in name and password."""

    name = forms.CharField(label="Your sign-in name", max_length=60, widget=forms.TextInput(attrs={"autocomplete": "username"}))
    password = forms.CharField(
        label="Password", help_text="Ten characters or more.", max_length=_LONGEST_PASSWORD, widget=forms.PasswordInput(attrs={"autocomplete": "new-password"})
    )  # fmt: skip

    def clean_name(self) -> str:
        """Bring the name to its one form; refuse one that is taken, or looks like one that is."""
        name = normal(self.cleaned_data["name"])
        why = trouble_of(name)
        if why:
            raise forms.ValidationError(why)
        if looks_taken(name):
            raise forms.ValidationError(f"“{name}” is taken, or looks like a name that is. Add your initials, for example {name[:50]} jh.")
        return name

    def clean(self) -> dict[str, Any]:
        """Refuse passwords that are guessed at once, the name among them."""
        sent = super().clean() or {}
        if sent.get("password"):
            try:
                validate_password(sent["password"], User(username=sent.get("name") or str(self.data.get("name", ""))[:60]))
            except forms.ValidationError as error:
                self.add_error("password", error)
        return sent


class StartForm(PersonForm):
    """A new workshop with its owner."""

    field_order = ["workshop", "name", "password"]
    workshop = forms.CharField(label="Name of the workshop", max_length=80)

    def clean_workshop(self) -> str:
        """The same care for its name."""
        name = normal(self.cleaned_data["workshop"])
        why = trouble_of(name, of_person=False)
        if why:
            raise forms.ValidationError(why)
        return name


_ROLES = [
    (Role.BUILDER, "builder: may change everything but people"), (Role.VIEWER, "viewer: may look"), (Role.OWNER, "owner: may invite too"),
]  # fmt: skip


class InviteForm(forms.Form):
    """What the invited person may do."""

    role = forms.ChoiceField(label="They come as", choices=_ROLES)


class NewPasswordForm(forms.Form):
    """A new password for a person who came by an owner's link."""

    password = forms.CharField(
        label="New password", help_text="Ten characters or more.", max_length=_LONGEST_PASSWORD,
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
    )  # fmt: skip

    def __init__(self, *args: Any, user: User, **options: Any) -> None:
        super().__init__(*args, **options)
        self.user = user

    def clean_password(self) -> str:
        """Refuse passwords that are guessed at once."""
        validate_password(self.cleaned_data["password"], self.user)
        return str(self.cleaned_data["password"])


class ChangePasswordForm(NewPasswordForm):
    """One's own password: the old one first."""

    field_order = ["old", "password"]
    old = forms.CharField(
        label="Password now", max_length=_LONGEST_PASSWORD, widget=forms.PasswordInput(attrs={"autocomplete": "current-password"})
    )

    def clean_old(self) -> str:
        """It must be the right one."""
        old = str(self.cleaned_data["old"])
        if not self.user.check_password(old):
            raise forms.ValidationError("This is not your password.")
        return old


class ReadingForm(forms.Form):
    """How a person reads: units, light, paper, clock, keys."""

    unit_system = forms.ChoiceField(label="Units", choices=[("metric", "mm, N, bar"), ("inch", "in, lbf, psi")])
    theme = forms.ChoiceField(label="Light", choices=[("auto", "as the device"), ("light", "light"), ("dark", "dark")])
    paper = forms.ChoiceField(label="Paper", choices=[("A4", "A4"), ("letter", "letter")])
    time_zone = forms.ChoiceField(label="Time zone", required=False)
    single_keys = forms.BooleanField(
        label="Single letters and digits do something", required=False, help_text="Off, only Enter, Tab, arrows and the space bar do."
    )

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | options)
        self.fields["time_zone"].choices = [("", "as the device"), *((name, name.replace("_", " ")) for name in sorted(zones()))]  # type: ignore[attr-defined]


class MailForm(forms.Form):
    """Where reminders go."""

    email = forms.EmailField(
        label="E-mail for reminders", required=False, max_length=200, help_text="empty: reminders are on the board only"
    )
