"""What installers differ in. Each trait is drawn by the seed alone; what is missed on a real one becomes a trait here, never a rule for one page."""

from __future__ import annotations

import re
from dataclasses import dataclass, fields
from functools import lru_cache
from pathlib import Path
from random import Random

import yaml

WORDS: dict[str, dict[str, list[str]]] = yaml.safe_load((Path(__file__).parent / "words.yaml").read_text("utf-8"))
HINTS: dict[str, dict[str, list[str]]] = yaml.safe_load((Path(__file__).parent / "hints.yaml").read_text("utf-8"))
APPS = ("Reedlog", "Harbourmaster", "Quillbox", "Eelbook", "Tidewell", "Saltcask", "Mudlark", "Fogbell")


@dataclass(frozen=True)
class Traits:
    """One installer's. Every field is a trait by which figures are told."""

    language: str
    # How the step is told: an address of its own, a hidden field, the button's name, the button's value.
    step: str
    method: str
    # table, dl, p with label for, label for the field's name, wrapping label, text before, div with a sibling label, placeholder, aria-label.
    labels: str
    # button, input, image with alt, icon with title, link dressed as a button.
    button: str
    # Whether labels of database fields name the database, or the group's heading alone does.
    bare: bool
    # fieldset, heading, none: what tells groups apart.
    group: str
    order: str
    one_page: bool
    redirects: bool
    licence: bool
    # table, list, divs, icons, marks (the row's class alone tells), dl, none.
    checks: str
    # fine, optional red, required red with a disabled button, required red and nothing said.
    health: str
    # none, restart first, back first, test mail beside, check beside.
    decoy: str
    # none, mail, directory: a foreign group with a host and a password of its own, already filled.
    foreign: str
    extras: bool
    # number and yes/no presets that have to stay.
    presets: bool
    prefix: bool
    port: str
    email: bool
    # writes, offers in a textarea, offers in pre.
    configuration: str
    # praise on the way ("once installed ..."), a login, a page without a form, the site itself, links and dangerous buttons behind it.
    ending: str
    noise: bool
    # How steps without fields lead on: a form, a link with odd words, a button outside forms; refresh leads out of a silent step.
    lead: str
    silent_step: str
    # none, made up (chosen on the first page, asked for afterwards), given (whoever installs has it from elsewhere).
    token: str
    # What is refused after it was sent: an administrator's name that is no address, a password that is too short or has marks.
    refuses: str
    # php, snippet, ini, env, json, yaml; and how the page calls the file: relative, absolute, bare.
    format: str
    path: str
    # An add-on with a second database form; a step list with links back, or with words of success.
    module: bool
    step_list: str
    # none, select, custom element, a label that says nothing (known by its options alone).
    kind: str
    second_mail: bool
    # installer, not yet (503 and a link), link.
    front: str
    # fine, empty page, 500: with a line in PHP's log.
    weather: str
    # none, a hidden field that changes, a field whose name changes.
    forgery: str
    profile: bool
    # Whether the host can be asked for tables, or for files alone.
    witness: str
    # One database field is called by a word that nobody knows, and its name says nothing; the heading over it does.
    odd_word: str
    # Whose name is asked: none, a person's in two fields, an organisation's.
    names: str
    # none, asked without a preset, preset, a list of which nobody chose the first.
    country: str
    # A login stands before the installer, and the page tells it to everybody.
    gate: bool
    # Where PHP may not write until it is let, and how a page says so: in a row of checks (with or without a word about writing), in a row about
    # a file that is not there yet or about the application's own folder, in a complaint, in PHP's own warning; and who has to be let.
    locked: str
    lets: str
    # How tables that only a dump of the release brings are asked for: none are, the page names the file, it says after a refusal which
    # tables are missing, it lets PHP's own word for that stand.
    dump: str
    # Whether what the dump made is sorted otherwise than the installer takes, and where it says what it takes: in the complaint, or
    # its sources do.
    collation: str
    # An extension of PHP that is off until somebody switches it on in the panel, and how the installer says so.
    extension: str
    # A setting of PHP that is too low, or wrong, until the site sets it itself.
    setting: str
    # Words of the application's own for its site and for whoever looks after it: "Name of the library", "Keeper", "Keeper's e-mail".
    own_words: bool
    # Whether pages carry texts of failure and success that nobody sees, and coloured buttons.
    unseen: bool
    # Whether a form begins between a table and its rows, or is sent by the script of a link
    dress: str
    # Whom the administrator's password is for: asked, in a field that nobody may change, or told in a sentence.
    whose: str
    # Whether groups name themselves: tables by captions, boxes by the words that they point to.
    grouped: str
    # Where a sentence explains a field: nowhere, between its label and it, behind it, pointed to by it.
    hints: str
    # Where the hosting login is wanted, which nobody gets: nowhere, under a heading of its own with bare words, by its own words among the
    # site's; or the login of some service, whatever it is, under its heading, or
    # that of somebody else than the administrator.
    hosting: str
    # The same on a page of its own, which may be left as it is.
    aside: str
    # Whether the database is asked for on one page, its login on another, or each of its questions on its own, with a heading that asks and
    # no label.
    apart: str
    # A page where one of several ways is chosen by pressing it, and how: links, buttons of one form, forms of their own; what is chosen is
    # the kind of database, or whether anything stands there already.
    fork: str
    # How the licence is agreed to: a box, two choices of which none or the wrong one is taken, a list that says no, two buttons.
    consent: str
    # How languages are chosen from on a page of its own: not at all, a list, links by their names, links by flags, buttons.
    tongue: str
    # A small form beside that of the step, on each page: none, a search, a choice of languages, a letter.
    second: str
    # What else stands beside an administrator's name and password: nothing, a name to be shown, a box that shows the password.
    beside: str
    # Words for browsers without scripts, which a page is good without.
    noscript: bool
    # Whether all that was said is shown once more before anything is made, with links that change it.
    summary: bool
    # How sample data are asked about beside a box: two choices, a list.
    samples: str
    # How labels are written: plainly, with a star or a word where something has to be said, in capitals.
    written: str
    # What stands before a heading: nothing, its number, "Step 2 of 5".
    numbered: str
    # What a button's words end with: nothing, an arrow; or an arrow is all there is.
    arrow: str
    # An address that is asked for twice; a button that ends it all beside the one that leads on.
    mail_again: bool
    cancel: bool
    # Whether what was said can be saved as well without going on. The last trait, so that seeds of before stay.
    save: bool


CHOICES: dict[str, tuple[tuple[object, int], ...]] = {
    "language": tuple((code, 5 if code == "en" else 1) for code in WORDS),
    "step": (("address", 3), ("hidden", 3), ("button name", 2), ("button value", 2)),
    "method": (("post", 8), ("get", 1)),
    "labels": (
        ("for", 5),
        ("table", 2),
        ("dl", 2),
        ("by name", 1),
        ("wrapping", 1),
        ("before", 1),
        ("sibling", 2),
        ("placeholder", 1),
        ("aria", 1),
    ),
    "button": (("button", 4), ("input", 4), ("image", 1), ("title", 1)),
    "bare": ((False, 3), (True, 2)),
    "group": (("fieldset", 3), ("heading", 3), ("none", 1)),
    "order": (("usual", 3), ("admin first", 1)),
    "one_page": ((False, 4), (True, 1)),
    "redirects": ((True, 1), (False, 1)),
    "licence": ((False, 3), (True, 1)),
    "checks": (("none", 2), ("table", 2), ("list", 1), ("divs", 1), ("icons", 1), ("marks", 1), ("dl", 1)),
    # What nobody could get through is rare, as it is on hosts that were surveyed; test_garden.py walks many of each on purpose.
    "health": (("fine", 120), ("optional red", 40), ("stubborn", 10), ("blocked", 1), ("silent block", 1)),
    "decoy": (("none", 3), ("restart first", 1), ("back first", 1), ("test mail", 1), ("check", 1)),
    "foreign": (("none", 4), ("mail", 1), ("directory", 1)),
    "extras": ((False, 2), (True, 1)),
    "presets": ((False, 2), (True, 1)),
    "prefix": ((False, 1), (True, 1)),
    "port": (("none", 3), ("own field", 2)),
    "email": ((True, 2), (False, 1)),
    "configuration": (("writes", 4), ("textarea", 1), ("pre", 1), ("frame", 1), ("download", 1)),
    "ending": (
        ("praise", 54),
        ("login", 18),
        ("bare page", 18),
        ("site", 18),
        ("dangerous", 36),
        ("no words", 18),
        ("already", 18),
        ("lie", 1),
    ),
    "noise": ((False, 3), (True, 1)),
    "lead": (("form", 5), ("link", 1), ("onclick", 1)),
    # A step that leads on by itself, once or after it has come back to itself a few times.
    "silent_step": (("none", 4), ("once", 1), ("comes back", 1)),
    "token": (("none", 8), ("made up", 1), ("given", 1)),
    "refuses": (("nothing", 5), ("no address", 1), ("short", 1), ("marks", 1)),
    "format": (("php", 5), ("snippet", 1), ("ini", 1), ("env", 1), ("json", 1), ("yaml", 1)),
    "path": (("relative", 3), ("absolute", 1), ("bare", 1)),
    "module": ((False, 4), (True, 1)),
    "step_list": (("none", 2), ("links", 1), ("words", 1)),
    "kind": (("none", 2), ("select", 1), ("custom", 1), ("by options", 1)),
    "second_mail": ((False, 3), (True, 1)),
    "front": (("installer", 4), ("not yet", 1), ("link", 1)),
    "weather": (("fine", 200), ("empty", 1), ("500", 1)),
    "forgery": (("none", 2), ("hidden", 1), ("name", 1)),
    "profile": ((False, 3), (True, 1)),
    "witness": (("files and tables", 2), ("files", 1)),
    "names": (("none", 4), ("person", 1), ("organisation", 1)),
    "country": (("none", 4), ("asked", 1), ("preset", 1), ("first of a list", 1)),
    "gate": ((False, 9), (True, 1)),
    "unseen": ((False, 3), (True, 1)),
    "locked": (("nothing", 12), ("row", 1), ("bare row", 1), ("file", 1), ("root", 1), ("said", 1), ("warning", 1)),
    "lets": (("everybody", 2), ("group", 1)),
    "own_words": ((False, 14), (True, 1)),
    "setting": (
        ("none", 20),
        ("memory_limit", 1),
        ("max_execution_time", 1),
        ("date.timezone", 1),
        ("session.auto_start", 1),
    ),
    "extension": (("none", 20), ("named", 1), ("prose", 1), ("either", 1)),
    "collation": (("any", 2), ("page", 1), ("sources", 1)),
    "dump": (("none", 17), ("named", 1), ("missing", 1), ("server", 1)),
    "odd_word": (("none", 5), ("host", 1), ("user", 1), ("name", 1)),
    "dress": (("plain", 8), ("table form", 1), ("script", 1)),
    "whose": (("asked", 10), ("fixed", 1), ("told", 1)),
    "grouped": (("usual", 6), ("own names", 1)),
    "hints": (("none", 4), ("between", 1), ("behind", 1), ("pointed to", 1)),
    "hosting": (("none", 6), ("headed", 1), ("among", 1), ("service", 2), ("person", 1)),
    "aside": (("none", 6), ("service", 1), ("hosting", 1)),
    "apart": (("together", 8), ("login", 1), ("questions", 1)),
    "fork": (
        ("none", 12),
        ("kind by links", 1),
        ("kind by buttons", 1),
        ("kind by forms", 1),
        ("way by links", 1),
        ("way by buttons", 1),
        ("way by forms", 1),
        ("manner by links", 1),
        ("manner by buttons", 1),
        ("manner by forms", 1),
        ("kind by cards", 1),
        ("way by cards", 1),
        ("manner by cards", 1),
    ),
    "consent": (("box", 4), ("radio", 1), ("list", 1), ("buttons", 1)),
    "tongue": (("none", 8), ("list", 1), ("links", 1), ("flags", 1), ("buttons", 1)),
    "second": (("none", 8), ("search", 1), ("languages", 1), ("letter", 1)),
    "beside": (("nothing", 5), ("display", 1), ("show", 1)),
    "noscript": ((False, 6), (True, 1)),
    "summary": ((False, 6), (True, 1)),
    "samples": (("none", 6), ("choices", 1), ("list", 1)),
    "written": (("plainly", 5), ("star", 1), ("word", 1), ("capitals", 1)),
    "numbered": (("no", 4), ("number", 1), ("of", 1)),
    "arrow": (("none", 5), ("behind", 2), ("alone", 1)),
    "mail_again": ((False, 5), (True, 1)),
    "cancel": ((False, 5), (True, 1)),
    "save": ((False, 7), (True, 1)),
}


# A language that nobody reads: English with other letters, the same each time.
UNREAD = "xx"
_LETTERS = str.maketrans("abcdefghijklmnopqrstuvwxyz", "ozutagbkirmpnlecjvxdywqfhs")


@lru_cache(maxsize=16)
def words_of(language: str) -> dict[str, list[str]]:
    """What an installer says in a language."""
    if language != UNREAD:
        return WORDS[language]
    return {key: [_unread(way) for way in ways] for key, ways in WORDS["en"].items()}


@lru_cache(maxsize=16)
def hints_of(language: str) -> dict[str, list[str]]:
    """What explains fields in a language, by what they are for."""
    if language != UNREAD:
        return HINTS[language]
    return {key: [_unread(way) for way in ways] for key, ways in HINTS["en"].items()}


def _unread(way: str) -> str:
    """Other letters, but what is put in later stays, and so does what is no word of a language: PHP, file names, messages of servers."""
    parts = re.split(r"(\{\w+\}|[\w./]*[./_]\w+|\bPHP\b)", way)
    return "".join(part if n % 2 else part.lower().translate(_LETTERS).capitalize() for n, part in enumerate(parts))


@lru_cache(maxsize=4096)
def traits_of(seed: int) -> Traits:
    """The traits of a seed; the same in any process."""
    random = Random(f"garden {seed}")
    drawn = {}
    for field in fields(Traits):
        choices = CHOICES[field.name]
        drawn[field.name] = random.choices([c for c, _ in choices], [w for _, w in choices])[0]
    return Traits(**drawn)  # type: ignore[arg-type]
