"""A complaint that is about one field: which one, and what else may be given there, once. Pure.

Rules:
1. A complaint means the field whose value it repeats, whose label it says, or whose subject its words are about; in this order.
2. Only what is ours to choose is changed: names and passwords that were generated, the form of a host. Never a database's login.
3. Each way is tried once; then an operator is asked with the page's own words.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Form, Page
from highshelf.core.walk.assign import assign
from highshelf.core.walk.ending import complaints_of
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.marks import form_mark
from highshelf.core.walk.moves import Adapt, AskFor, Turn, signature_of

# An operator has to say another one: nothing of these is ours to make up.
ASKED = ("site.title", "admin.email", "licence.key", "setup.password", "site.address", "site.email")

# The stroke at an address's end, as complaints about it say.
SLASH = re.compile(r"slash|schragstrich|barre|barra|streep|ukosnik|(?<![/\w]) ?/(?![\w/])")
# A password that is shorter is none.
SHORTEST = 8


def adapted(page: Page, know: Knowledge, history: Sequence[Turn]) -> Adapt | AskFor | None:
    """What to change after a form was refused, or None where the page complains of nothing that was filled in."""
    # Only right after it was sent: what was changed since is to be tried first.
    sent = {history[-1].form} - {""}
    complaints = complaints_of(page, know, history)
    for form in page.forms:
        if form_mark(form) not in sent:
            continue
        meant = {a.value: a.field.label for a in assign(form, page) if a.value in know.values}
        for complaint in complaints:
            for value in _meant(complaint, meant, know):
                if (move := _another(value, complaint, meant, know, form)) is not None:
                    return move
    return None


def wanted_form(page: Page, know: Knowledge) -> Adapt | None:
    """A value that the installer's source would refuse as it is: given in another form before the page can complain."""
    for assigned in [a for form in page.real_forms for a in assign(form, page)]:
        value, field = know.values.get(assigned.value), assigned.field
        if not value or assigned.value in know.given:
            continue
        if assigned.value == "admin.name" and field.mail and "@" not in value and know.values.get("admin.email"):
            way, why = "address", "its source takes nothing but an address for mail"
        elif assigned.value == "admin.password" and field.least > len(value):
            way, why = f"long {field.least}", f"its source takes nothing shorter than {field.least} letters"
        elif assigned.value == "admin.password" and len(value) > field.most >= SHORTEST:
            way, why = f"plain {field.most}", f"its source takes nothing longer than {field.most} letters"
        else:
            continue
        if f"{assigned.value} {way}" not in know.tried:
            return Adapt(assigned.value, way, why)
    return None


def _meant(complaint: str, meant: dict[str, str], know: Knowledge) -> list[str]:
    """The values that a complaint is about, the surest first."""
    folded = fold(complaint)
    repeated = [v for v in meant if len(know.values[v]) > 3 and know.values[v] in complaint]
    # What a sentence is about stands first in it: "the name must be an address" is about the name.
    places = {v: _first(_called(v, meant[v]), folded) for v in meant}
    return list(dict.fromkeys([*repeated, *sorted((v for v in meant if places[v] >= 0), key=lambda v: places[v])]))


def _first(names: Sequence[str], folded: str) -> int:
    """Where the first of these stands, also as the end of a longer word; -1 where none does."""
    return min((at for n in names if n and (at := folded.find(n)) >= 0), default=-1)


def _called(value: str, label: str) -> tuple[str, ...]:
    """How a complaint may call a value."""
    own = fold(label.strip(" *:"))
    topic = {"password": "password", "name": "called", "email": "mail", "key": "licence"}.get(
        value.partition(".")[2], ""
    )
    general = lexicon().lists[topic] if topic and not value.startswith("database.") else ()
    return (own, *general)


def _another(value: str, complaint: str, meant: dict[str, str], know: Knowledge, form: Form) -> Adapt | AskFor | None:
    ways = _ways(value, fold(complaint), know)
    for way in ways:
        if f"{value} {way}" not in know.tried:
            return Adapt(value, way, complaint[:300])
    if value in ASKED or ways:
        key = f"{value} asked " + signature_of(complaint)[:6]
        if key in know.tried:
            return None
        text = f"The installer refuses “{meant[value] or value}”: {complaint[:300]}"
        return AskFor(value, text, secret=value.endswith((".password", ".key")), again=key)
    return None


def _ways(value: str, folded: str, know: Knowledge) -> list[str]:
    words = lexicon()
    number = next((int(n) for n in re.findall(r"\b\d{1,3}\b", folded) if 4 <= int(n) <= 128), 0)
    if value == "admin.name":
        mail = ["address"] if words.says("mail", folded) and know.values.get("admin.email") else []
        return [*mail, f"letters {min(number, 10) if number else 8}"]
    if value in ("admin.password", "setup.password"):
        most = words.says("atmost", folded)
        long = f"long {number}" if most and number else f"long {max(number, 28)}"
        plain = f"plain {number if number else 16}"
        return [plain, long] if words.says("characters", folded) and not number else [long, plain]
    if value == "site.address" and SLASH.search(folded):
        return ["bare" if know.values["site.address"].endswith("/") else "closed"]
    if value == "database.host":
        port = know.values.get("database.port", "")
        return [*(["with port"] if port else []), "number" if know.values.get(value) == "localhost" else "name"]
    return []
