"""Names of people: brought to one form, without signs nobody sees, and compared as eyes compare them."""

import unicodedata

# Letters of other scripts that look like Latin ones. Source: those of Unicode's confusables (UTS 39) that stand in one place of a keyboard
_LIKE = str.maketrans("аеёіјкорсѕухһԁԛԝѵαικνορυχγϲ", "aeeijkopcsyxhdqwvaikvopuxyc")
_ALSO = str.maketrans({"0": "o", "1": "l", "|": "l", "і": "i", "ı": "i", "5": "s", "$": "s"})


def normal(name: str) -> str:
    """The one form of a name: compatible signs joined (NFKC), single spaces."""
    return " ".join(unicodedata.normalize("NFKC", name).split())


def trouble_of(name: str, *, of_person: bool = True) -> str:
    """Why a name cannot be one, empty where it can."""
    if not name:
        return "Write a name."
    if any(unicodedata.category(sign)[0] == "C" for sign in name):
        return "This name holds signs that nobody can see. Type it again."
    if of_person and not any(sign.isalnum() for sign in name):
        return "A name has at least one letter."
    scripts = {unicodedata.name(sign, "? ?").split()[0] for sign in name if sign.isalpha()}
    if len(scripts & {"LATIN", "CYRILLIC", "GREEK"}) > 1:
        return "This name mixes letters of two alphabets that look alike. Type it in one."
    return ""


def likeness_of(name: str) -> str:
    """A name as an eye reads it: case, accents, digits that look like letters and letters of other alphabets make no other name."""
    plain = unicodedata.normalize("NFKD", unicodedata.normalize("NFKC", name).casefold())
    plain = "".join(sign for sign in plain if unicodedata.category(sign)[0] not in "CMZ")
    return plain.translate(_LIKE).translate(_ALSO)[:150]
