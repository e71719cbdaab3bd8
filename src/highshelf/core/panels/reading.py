"""Which form of a panel's page makes a database, makes a user, or lets one use the other, and what goes into its fields. Pure.

Rules:
1. A form counts only with words of its goal and in the company of databases; mail, transfer logins, backups and the like speak against it.
2. A field that is neither known nor needed keeps what stands in it.
3. Nothing that deletes, searches or changes an own password is ever filled here.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal
from urllib.parse import unquote, urlsplit

from highshelf.core.pages.page import Button, Field, Form, Link, Page
from highshelf.core.pages.purposes import is_login, searches
from highshelf.core.panels.words import says, token_in

Goal = Literal["database", "user", "attach"]
Role = Literal[
    "database",
    "user",
    "name",
    "password",
    "current",
    "kind",
    "rights",
    "pick-database",
    "pick-user",
    "user-too",
    "sure",
    "note",
    "other",
]
VERBS = re.compile(
    r"\b(?:select|insert|update|delete|create|drop|alter|index|references|trigger|lock tables|execute|event)\b", re.I
)
KINDS = {"mariadb": re.compile(r"mysql|mariadb", re.I), "postgresql": re.compile(r"postgres|pgsql|\bpg\b", re.I)}
# In addresses a word is not set apart: /dbusers, /mysqldatabases.
ADDRESS = re.compile(
    r"(?:^|[^a-z])(?:db|sql|mysql|mariadb|postgres|database|datenbank|databank|(?:bdd?|bbdd|bases?|bazy?|bancos?)(?![a-z]))",
    re.I,
)
PREFIX = re.compile(r"[A-Za-z0-9]+[_-]")
# With less a form could as well be another one.
LEAST = {"database": 5, "user": 5, "attach": 4}


@dataclass(frozen=True)
class Wish:
    """What is to be made: names without what the panel adds, or, to attach, the whole ones."""

    kind: str = "mariadb"
    database: str = ""
    user: str = ""
    password: str = ""


@dataclass(frozen=True)
class Known:
    """Whole names that the panel was seen to have: lists that offer them are lists of databases, or of users.

    `standing`: whatever stood in lists before this job made anything.
    """

    databases: frozenset[str] = frozenset()
    users: frozenset[str] = frozenset()
    standing: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Found:
    form: Form
    score: int
    roles: tuple[tuple[Field, Role], ...]

    def has(self, *roles: Role) -> bool:
        return any(role in roles for _, role in self.roles)


def is_about_databases(page: Page, trail: str, kind: str = "") -> bool:
    """Whether a page, or the way to it, speaks of databases; of this kind, where one is given and the page names any."""
    heads = " ".join([*page.headings[:2], page.title.split(" - ")[0], trail])
    path = unquote(urlsplit(page.url).path)
    named = {k for k, pattern in KINDS.items() if pattern.search(f"{heads} {path}")}
    if kind and named and kind not in named:
        return False
    return (says("database", heads) or ADDRESS.search(path) is not None) and not says(
        "others", " ".join(page.headings[:1])
    )


def role_of(field: Field, form: Form, known: Known) -> Role:
    """What a field of a panel's form is for."""
    # What the panel puts before a name may be all that stands before its field.
    label = re.sub(rf"(?:^|\s){PREFIX.pattern}$", "", field.label)
    said = f"{label} {field.placeholder} {field.name if len(field.name) > 2 else ''}"
    if field.kind in ("select", "radio"):
        return _role_of_list(field, form, said, known)
    if field.kind == "checkbox":
        return _role_of_box(field, form, said, known)
    if field.kind == "password" or says("password", said):
        return "current" if says("current", said) else "password"
    if says("noting", said):
        return "note"
    if says("others", said) or (says("server", said) and not says("naming", said)):
        return "other"
    if says("user", f"{field.label} {field.placeholder}") or (not field.label and says("user", said)):
        return "user"
    if says("database", said):
        return "database"
    return "name" if says("naming", said) or not said.strip() else "other"


def roles_in(form: Form, known: Known) -> tuple[tuple[Field, Role], ...]:
    """The roles of a form's fields; the only one in which something is to be written, however it is called, has the name."""
    roles = tuple((f, role_of(f, form, known)) for f in form.fields if f.typed)
    # Among kinds of servers a website or a mailbox is one kind more of whatever can be ordered.
    kinds = {f.name for f, role in roles if f.kind == "radio" and role == "kind"}
    roles = tuple((f, "kind" if f.kind == "radio" and f.name in kinds else role) for f, role in roles)
    texts = [f for f, role in roles if f.kind == "text" and role == "other" and not f.value]
    if any(role in ("database", "name", "user") for _, role in roles) or len(texts) != 1:
        return roles
    unknown = not any(
        says(topic, f"{texts[0].label} {texts[0].placeholder}") for topic in ("server", "apart", "noting")
    )
    return tuple((f, "name" if f is texts[0] and unknown else role) for f, role in roles)


def _role_of_box(field: Field, form: Form, said: str, known: Known) -> Role:
    names = {field.value, field.label}
    if names & (known.databases | known.users | known.standing):
        return "pick-user" if names & known.users - known.databases else "pick-database"
    alike = [f for f in form.fields if f.kind == "checkbox" and f.name == field.name]
    verbs = VERBS.search(f"{field.label} {field.value}") is not None
    if verbs or says("rights", f"{field.near} {said}") or (len(alike) > 3 and _is_everything(field)):
        return "rights"
    if says("making", said) and says("user", said):
        return "user-too"
    return "sure" if says("sure", said) or says("deleting", said) else "other"


def _role_of_list(field: Field, form: Form, said: str, known: Known) -> Role:
    texts = [t for o in field.options for t in (o.value, o.label)] or [field.value, field.label]
    if known.databases.intersection(texts):
        # Names that both have say nothing; what the list is called does.
        return "pick-user" if known.users.intersection(texts) and says("user", said) else "pick-database"
    if known.users.intersection(texts):
        return "pick-user"
    graded = any(says("everything", t) for t in texts) and any(says("reading", t) for t in texts)
    if graded and says("rights", said):
        # What lists call the rights of others stands among the names that were found there.
        return "rights"
    if known.standing.intersection(o.value for o in field.options) - known.databases - known.users:
        return "pick-user" if says("user", said) or not says("database", said) else "pick-database"
    if any(p.search(t) for p in KINDS.values() for t in texts):
        return "kind"
    if says("rights", said) or graded or any(VERBS.search(t) for t in texts):
        return "rights"
    return "other"


def look_for(goal: Goal, page: Page, trail: str, known: Known, wish: Wish) -> Found | None:
    """The page's form for this, or None; two that are as good as each other are none."""
    found = sorted(
        filter(None, (_weigh(goal, form, page, trail, known, wish) for form in page.forms)), key=lambda f: -f.score
    )
    if not found or found[0].score < LEAST[goal]:
        return None
    if len(found) > 1 and found[1].score == found[0].score and found[0].form.action != found[1].form.action:
        return None
    return found[0]


def own_words(form: Form) -> str:
    """What stands on a form itself: its button, its legend or heading, the labels of its fields."""
    shown = [f for f in form.fields if f.typed]
    return " ".join(
        [
            *(b.label for b in form.buttons),
            *dict.fromkeys(f.near for f in shown),
            *(f"{f.label} {f.placeholder}" for f in shown if f.kind != "checkbox"),
        ]
    )


def _weigh(goal: Goal, form: Form, page: Page, trail: str, known: Known, wish: Wish) -> Found | None:
    if form.method != "post" or (is_login(form, page) and goal != "user") or (searches(form) and len(form.fields) < 3):
        return None
    roles = roles_in(form, known)
    found = Found(form, 0, roles)
    hidden = {f.value for f in form.fields if f.kind == "hidden"}
    if hidden & (known.standing - known.databases - known.users):
        # It is about something that stood there before.
        return None
    pressed, own = " ".join(b.label for b in form.buttons), own_words(form)
    nears = " ".join(dict.fromkeys(f.near for f in form.fields if f.near))
    if (
        says("deleting", pressed)
        or found.has("current")
        or (not any(not b.disabled for b in form.buttons) and form.buttons)
    ):
        return None
    heads = " ".join([*page.headings[:2], trail])
    grid = goal == "attach" and any(_names_both(f, wish) for f, _ in roles if f.kind == "checkbox")
    about = is_about_databases(page, trail) or says("database", own) or grid
    if not about or says("apart", f"{' '.join(page.headings[:1])} {pressed} {nears}"):
        return None
    if says("others", f"{pressed} {nears}") and not says("database", f"{pressed} {nears}"):
        return None
    if not _is_of_kind(found, f"{heads} {nears} {pressed} {unquote(urlsplit(page.url).path)}", wish.kind):
        return None
    score = 2 + (2 if says("database", f"{own} {urlsplit(form.action).path}") else 0)
    score += 2 if says("making", pressed) else 1 if says("making", f"{heads} {nears}") else 0
    match goal:
        case "database":
            if not _may_make_database(found, own, heads, nears):
                return None
            score += 2 if found.has("database") else 0
            score += 1 if says("making", heads) or says("making", nears) else 0
        case "user":
            if not found.has("password") or (not found.has("user", "name", "database") and not found.has("pick-user")):
                return None
            if found.has("pick-user") and not found.has("user", "name"):
                return None
            if not _can_be_new(found):
                return None
            score += 2 if found.has("user") or says("user", f"{pressed} {nears} {heads}") else 0
            score -= 2 if found.has("database") and not found.has("user") else 0
            # On the page of the very database it can be no other kind of user.
            score += 2 if wish.database and token_in(wish.database, " ".join([*page.headings, page.title])) else 0
        case "attach":
            offered = [t for f, r in roles for o in f.options for t in (o.value, o.label)] + [
                f.value for f, r in roles if f.kind in ("checkbox", "radio")
            ]
            held = " ".join(sorted(hidden))
            here = token_in(
                wish.database, " ".join([*page.headings, page.title, held, unquote(page.url), unquote(form.action)])
            )
            # On the page of the user the databases are what is offered.
            hers = wish.database in offered and token_in(
                wish.user, " ".join([*page.headings, held, unquote(page.url), unquote(form.action)])
            )
            if found.has("password") or not (
                grid or hers or (wish.user in offered and (wish.database in offered or here))
            ):
                return None
            score += 4 + (1 if says("attaching", f"{pressed} {nears} {heads}") else 0)
    return Found(form, score, roles)


def _is_of_kind(found: Found, said: str, kind: str) -> bool:
    """Whether a form is of the wished kind of server: none is named where a panel has but MySQL."""
    offered = [t for f, role in found.roles if role == "kind" for o in f.options for t in (o.value, o.label)]
    if offered:
        return any(KINDS[kind].search(t) for t in offered)
    named = {k for k, pattern in KINDS.items() if pattern.search(said)}
    return kind in named or (not named and kind == "mariadb")


def _may_make_database(found: Found, own: str, heads: str, nears: str) -> bool:
    """Whether a form could make a database: it has a place for its name, or is one for those that the panel names."""
    if found.has("pick-user") and (not found.has("database", "name") or not _can_be_new(found)):
        return False
    if found.has("password") and not found.has("database", "name") and not says("database", nears):
        return False
    if found.has("pick-user") and found.has("name") and found.has("user"):
        # One of those there are, or a new one with a name of its own: the other name is the database's.
        return True
    if found.has("database", "name"):
        # A form of a user is not one of a database, unless it names one too.
        of_user = says("user", nears) or (found.has("password") and says("user", own))
        return found.has("database") or not of_user or says("database", f"{nears} {own}")
    # Where the panel names everything itself, nothing is chosen but the kind of server, and a password at the most.
    if found.has("user", "current", "pick-database", "pick-user", "rights", "sure") or says("attaching", heads):
        return False
    if found.has("password") and (says("user", own) or not says("making", f"{own} {nears}")):
        return False
    if any(f.kind in ("select", "radio") and role == "other" for f, role in found.roles):
        return False
    return says("making", f"{own} {heads}") and says("database", f"{own} {heads}")


def _names_both(field: Field, wish: Wish) -> bool:
    """Whether a box of a grid stands for this user and this database."""
    said = f"{field.name} {field.value}"
    return (
        bool(wish.user and wish.database) and wish.user in said and wish.database in said and wish.user != wish.database
    )


def names_database(found: Found, database: str) -> bool:
    """Whether a form offers this database among those that a new user is for, or is about it."""
    offered = {
        t for f, role in found.roles if role == "pick-database" for t in (f.value, *(o.value for o in f.options))
    }
    return database in offered or database in {f.value for f in found.form.fields if f.kind == "hidden"}


def _new_option(field: Field, *, or_none: bool = True) -> str | None:
    """The value of a list's option that stands for a new one, or for none."""
    for option in field.options:
        if says("making", option.label) and not re.fullmatch(r"[\w-]+", option.label):
            return option.value
    return next((o.value for o in field.options if or_none and not o.value.strip()), None)


def _can_be_new(found: Found) -> bool:
    """Whether a form that offers the users there are leaves room for none of them."""
    modes = [f for f, _ in found.roles if f.kind == "radio" and says("making", f.label)]
    return all(modes or _new_option(f) is not None for f, role in found.roles if role == "pick-user")


def fill(found: Found, goal: Goal, wish: Wish, button: Button | None = None) -> list[tuple[str, str]]:
    """What is sent: the form as it stands, with what the wish says in the fields of its meaning."""
    roles = {id(f): r for f, r in found.roles}
    has_database = any(r == "database" for _, r in found.roles)
    has_everything = any(r == "rights" and f.kind == "checkbox" and _is_everything(f) for f, r in found.roles)
    modes = _modes(found, goal, wish)
    sent: list[tuple[str, str]] = []
    for field in found.form.fields:
        if field.disabled or field.kind in ("file", "submit", "button", "image", "reset"):
            continue
        role = roles.get(id(field), "other")
        sent += _pairs(field, role, goal, wish, has_database, has_everything, modes)
    pressed = button or next((b for b in found.form.buttons if not b.disabled and not says("not_sure", b.label)), None)
    if pressed is not None and pressed.name:
        sent.append((pressed.name, pressed.value))
    return sent


def _pairs(
    field: Field, role: Role, goal: Goal, wish: Wish, has_database: bool, has_everything: bool, modes: Mapping[str, str]
) -> Iterable[tuple[str, str]]:
    if field.kind == "checkbox":
        ticked = role in ("sure", "user-too") or (role == "rights" and (not has_everything or _is_everything(field)))
        if role in ("pick-database", "pick-user") or _names_both(field, wish):
            ticked = goal != "database" and (field.value in (wish.user, wish.database) or _names_both(field, wish))
        return [(field.name, field.value)] if ticked or field.checked else []
    if field.kind == "radio":
        return (
            [(field.name, field.value)]
            if field.value == modes.get(field.name, field.value if field.checked else None)
            else []
        )
    if field.kind == "select":
        if field.multiple:
            return [
                (field.name, o.value)
                for o in field.options
                if o.selected or (goal != "database" and {o.value, o.label} & {wish.database, wish.user})
            ]
        new = _new_option(field) if role == "pick-user" and goal != "attach" else None
        return [(field.name, _option(field, role, wish) if new is None else new)]
    match role:
        case "database":
            text = wish.database
        case "user":
            text = wish.user
        case "name":
            text = wish.user if goal == "user" or has_database else wish.database
        case "password":
            text = wish.password
        case _:
            return [(field.name, field.value)]
    # What the panel writes before a name stands in the field already on some.
    if role != "password" and field.value and PREFIX.fullmatch(field.value) and not text.startswith(field.value):
        text = field.value + text
    return [(field.name, text)]


def _modes(found: Found, goal: Goal, wish: Wish) -> dict[str, str]:
    """Which of several radio buttons is meant, by their name: a new one where one is made, every right where rights are graded."""
    meant: dict[str, str] = {}
    for field, role in found.roles:
        if field.kind != "radio":
            continue
        of_kind = role == "kind" and KINDS[wish.kind].search(f"{field.value} {field.label}") is not None
        if (
            of_kind
            or (goal != "attach" and says("making", field.label))
            or (role == "rights" and _is_everything(field))
        ):
            meant.setdefault(field.name, field.value)
    return meant


def _is_everything(field: Field) -> bool:
    return says("everything", f"{field.label}") or field.value.lower() in ("all", "full", "everything", "*")


def _option(field: Field, role: Role, wish: Wish) -> str:
    def first(*those: str) -> str | None:
        return next((o.value for o in field.options for t in those if t and t in (o.value, o.label)), None)

    preset = next((o.value for o in field.options if o.selected), field.options[0].value if field.options else "")
    match role:
        case "pick-database" | "pick-user":
            # Whose list it is, what it offers says better than its words.
            ours = (wish.database, wish.user) if role == "pick-database" else (wish.user, wish.database)
            return first(ours[0]) or first(ours[1]) or preset
        case "kind":
            return next((o.value for o in field.options if KINDS[wish.kind].search(f"{o.value} {o.label}")), preset)
        case "rights":
            return next((o.value for o in field.options if says("everything", f"{o.label} {o.value}")), preset)
    return preset


def confirmation(
    page: Page, names: Sequence[str], lists: Collection[str] = (), *, sent_to: str = "", to_delete: bool = False
) -> Form | None:
    """The form of a page that only asks whether it is meant.

    It holds what was given, has nothing to type in, and is the only one: a page that lists things has a form for each of them,
    whatever its buttons are called. `lists` are the paths of pages that are known to list.
    """
    asking = [f for f in page.forms if f.method == "post" and not says("leaving", " ".join(b.label for b in f.buttons))]
    if to_delete:
        asking = [f for f in asking if any(n in value for n in names if n for value in _held(f))]
    if len(asking) != 1 or (urlsplit(page.url).path in lists and not to_delete):
        return None
    [form] = asking
    if not to_delete and any(r == "rights" for _, r in roles_in(form, Known())):
        # Which rights are meant is no question of yes or no.
        return None
    held = _held(form)
    typed = [f for f in form.fields if f.typed and f.kind not in ("checkbox", "radio")]
    # Before something is deleted its name is to be typed on some.
    open_fields = typed and not (to_delete and [f.kind for f in typed] == ["text"])
    pressed = " ".join(b.label for b in form.buttons)
    if (
        open_fields
        or not any(n in value for n in names if n for value in held)
        or (says("deleting", pressed) and not to_delete)
    ):
        return None
    meant = (
        to_delete
        or says("sure", pressed)
        or says("making", pressed)
        or urlsplit(form.action).path == urlsplit(sent_to).path
    )
    return form if meant and any(not b.disabled and not says("not_sure", b.label) for b in form.buttons) else None


def _held(form: Form) -> list[str]:
    """What a form brings along unseen: hidden values, its address, what its buttons stand for."""
    hidden = [f.value for f in form.fields if f.kind == "hidden"]
    return [*hidden, unquote(form.action), *(f"{b.name} {b.value}" for b in form.buttons)]


def second_page(
    page: Page, before: Found, names: Sequence[str], known: Known, lists: Collection[str] = ()
) -> Found | None:
    """The form of a page that goes on with what was just given: it holds that, and asks for more of the same thing."""
    if urlsplit(page.url).path in lists:
        return None
    for form in page.forms:
        held = [f.value for f in form.fields if f.kind == "hidden"] + [unquote(form.action), unquote(page.url)]
        typed = [f for f in form.fields if f.typed]
        found = Found(form, 0, roles_in(form, known))
        asked_before = {f.name for f, _ in before.roles}
        if form.method != "post" or says("deleting", " ".join(b.label for b in form.buttons)) or found.has("current"):
            continue
        if (
            {f.name for f in typed} - asked_before
            and found.has("user", "password", "rights")
            and any(n in v for n in names if n for v in held)
        ):
            return found
    return None


def interruption(page: Page) -> Form | Link | None:
    """The form or link that lets a page pass that only wants to tell something."""
    for form in page.forms:
        pressed = " ".join(b.label for b in form.buttons)
        if (
            not any(f.typed and f.kind not in ("checkbox",) for f in form.fields)
            and says("later", pressed)
            and not says("deleting", pressed)
        ):
            return form
    return next((link for link in page.links if says("later", link.label) and not says("leaving", link.label)), None)


def rank(link: Link, page: Page, trail: str, goal: Goal | Literal["list"], names: Sequence[str]) -> int:
    """How much a link promises to lead to what is looked for; below one it is not followed."""
    path = unquote(f"{urlsplit(link.url).path} {urlsplit(link.url).query}")
    said = f"{link.label} {re.sub(r'[/?&=_.-]', ' ', path)}"
    if says("leaving", said) or says("deleting", said) or urlsplit(link.url).netloc != urlsplit(page.url).netloc:
        return -9
    about = 3 if says("database", link.label) or ADDRESS.search(path) else 0
    score = about - (3 if says("others", link.label) else 0)
    # With its marks: a name is no two words.
    whole = f"{link.label} {re.sub(r'[/?&=]', ' ', path)}"
    if any(token_in(n, whole) for n in names if n):
        score += 4
    if about or is_about_databases(page, trail):
        score += 1 if says("making", link.label) else 0
        score += 2 if goal == "user" and says("user", link.label) else 0
        score += 2 if goal == "attach" and says("attaching", link.label) else 0
    elif says("hub", link.label):
        score += 1
    return score
