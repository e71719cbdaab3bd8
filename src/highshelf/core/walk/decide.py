"""The next move.

Rules:
1. Never the same form with the same values twice; never a control that goes back, restarts, copies or sends mail.
2. A check or test button only when nothing else leads on.
3. The pressed button is sent; the hosting login never is.
4. A licence is accepted only when an operator accepted that text.
5. Words of success are no proof: the same words stand on pages of failure. The prove leg decides.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from urllib.parse import urlsplit

from highshelf.core.pages.forms import bare_login
from highshelf.core.pages.judgement import leads_on, opens, praises, served
from highshelf.core.pages.lexicon import fold, lexicon
from highshelf.core.pages.page import Button, Field, Form, Link, Option, Page
from highshelf.core.pages.purposes import is_login, says_login, searches, without_what_stands_beside
from highshelf.core.walk.adapting import adapted, wanted_form
from highshelf.core.walk.assign import assign
from highshelf.core.walk.beginning import installing
from highshelf.core.walk.choosing import choose_option
from highshelf.core.walk.collating import collated
from highshelf.core.walk.ending import came_back, complaints_of, ending, login_end, shut
from highshelf.core.walk.fill import fill, only_tongues
from highshelf.core.walk.forks import choice_on, lone_buttons, told_apart, way_of_ours
from highshelf.core.walk.importing import wanted_import
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.logins import published_login
from highshelf.core.walk.marks import form_mark, is_token
from highshelf.core.walk.moves import MENDED, PLACED, AskFor, Follow, Move, Stuck, Submit, Turn, signature_of
from highshelf.core.walk.offers import offered_file, saves_itself
from highshelf.core.walk.opening import opened
from highshelf.core.walk.pressing import (
    APPLIES,
    CHANGING,
    MAKES_UP,
    OTHER_STORE,
    SAVES,
    TO_STEP,
    WITHOUT,
    affirms,
    counts_down,
    leads_or_unread,
    may_open,
    outdone,
    says_no,
    skips,
    waits_for_a_yes,
)
from highshelf.core.walk.proving import demanded_file
from highshelf.core.walk.sources import by_source
from highshelf.core.walk.steps import at_installer, next_step
from highshelf.core.walk.switching import switched
from highshelf.core.walk.tuning import tuned

SEVERAL = 2
SHUT_RANK = 2.5
# What a button weighs of which nothing is known, beside others.
UNREAD_RANK = 3.0
# That of the only button of a form, whatever it says.
LONE_RANK = 6.0
MOST_BOXES = 4
NO_BUTTON = Button("", "", "")
# So many ways a page offers, at most, of which one is asked for.
MOST_WAYS = 8
# The rank of a way that was told from others.
FORK_RANK = 12.0
# The rank of a link that brings up to date what stands there already.
UPDATES = 1.0
# What frames around the one that matters are called.
AROUND = re.compile(r"(?i)menu|nav|toc|contents|index|head|top|banner|logo|left|side|foot|bottom|status|title")
# A step that shows how far it is was never seen to come back more often; a page that wants longer only keeps itself fresh.
MOST_LED_ON, MOST_WAIT_SECONDS = 25, 30.0
NO_PAGE = (".pdf", ".txt", ".md", ".zip", ".gz", ".png", ".jpg", ".svg", ".css", ".js", ".xml", ".rss")
# "Database ›": where to, and that it goes on.
ARROW_ON = re.compile(r"\w\s*(?:[›»→▶►⇒]|>{1,2})$")


@dataclass(frozen=True)
class _Candidate:
    move: Submit | AskFor | Follow
    rank: float


def decide(page: Page, know: Knowledge, history: Sequence[Turn]) -> Move:
    """What to do on this page."""
    page = without_what_stands_beside(by_source(page, know.taken))
    move = _next(page, know, history)
    # Where nothing leads on, what PHP may not write to may be the reason, or tables that are not there.
    if isinstance(move, Stuck):
        return (
            opened(page, know, blocked=True)
            or switched(page, know)
            or tuned(page, know)
            or wanted_import(page, know, blocked=True)
            or collated(page, know, blocked=True)
            or move
        )
    return move


def _next(page: Page, know: Knowledge, history: Sequence[Turn]) -> Move:
    done = _done(history)
    if page.fatal and not page.real_forms:
        return ending(page, know, history)
    if page.refresh and (move := _led_on(page, history)):
        return move
    login = says_login(page) or _unread_login(page, know)
    if login is not None and (told := _with_told_login(login, page, know, done)) is not None:
        return told
    if login is not None and history and not _asks_repeat(login):
        return login_end(page, know, history)
    # A text that the installer could not write is put there first: its button would only say the same again.
    offered = offered_file(page, know, done)
    if (
        offered is not None
        and lexicon().says("unwritable", page.text)
        and not saves_itself(page, {turn.form for turn in history})
    ):
        return offered
    if offered is None and (proof := demanded_file(page, know, done)) is not None and not _was_put(proof.name, history):
        return proof
    returned = came_back(page, history)
    if (page.checks or returned) and (mended := opened(page, know, blocked=returned)) is not None:
        return mended
    if page.checks and (set_up := tuned(page, know)) is not None:
        return set_up
    if (brought := wanted_import(page, know, blocked=returned, given=any(t.gave for t in history))) is not None:
        return brought
    if returned and (sorted_otherwise := collated(page, know, blocked=False)) is not None:
        return sorted_otherwise
    if (closed := shut(page, know)) is not None:
        return closed
    if history and (change := adapted(page, know, history)) is not None:
        return change
    if (otherwise := wanted_form(page, know)) is not None:
        return otherwise
    candidates = _candidates(page, know, done)
    best = max(candidates, key=lambda c: c.rank, default=None)
    if best is not None and best.rank > 0:
        tied = best.rank == LONE_RANK and len([c for c in candidates if c.rank == LONE_RANK]) > 1
        if best.rank > UNREAD_RANK + 2 and not tied:
            return best.move
        if (known := _as_before(candidates, history)) is not None:
            return known.move
        if (choice := _which(page, know)) is None:
            return best.move
        here = {form_mark(form) for form in page.real_forms}
        if not any(turn.label in choice.options and turn.form in here for turn in history):
            return choice
        # One of them was pressed here already, and the page came back: the others are none that lead on.
    if offered is not None:
        return offered
    if returned and not complaints_of(page, know, history) and (ungated := _unticked(page, know, history, done)):
        return ungated
    end = _look_again(page, know, history, done) or ending(page, know, history)
    return (_which_link(page, know, done) or end) if isinstance(end, Stuck) else end


def _as_before(candidates: Sequence[_Candidate], history: Sequence[Turn]) -> _Candidate | None:
    """Of buttons that nobody here can read, the one that was pressed before and led on: by its words, else by its name alone."""
    unread = [c for c in candidates if c.rank >= UNREAD_RANK and isinstance(c.move, Submit)]
    for what, led_on in (("button", {t.label for t in history}), ("by", {t.by for t in history if t.by})):
        same = [c for c in unread if getattr(c.move, what) in led_on]
        if len(same) == 1:
            return same[0]
    return None


def _which(page: Page, know: Knowledge) -> AskFor | None:
    """Of several buttons whose words nobody here knows only a person can tell which leads on."""
    for form in page.real_forms:
        unread = [b for b in form.buttons if _button_rank(b, form, page, know) == UNREAD_RANK]
        labels = tuple(dict.fromkeys(b.label or b.value or b.name for b in unread))
        if len(labels) > 1:
            return _ask_which(page, _choice_of(form), labels)
    alone = [f for f in lone_buttons(page) if _button_rank(f.buttons[0], f, page, know) == LONE_RANK]
    said = [f.buttons[0].label or f.buttons[0].value or f.buttons[0].name for f in alone]
    labels = tuple(dict.fromkeys(told_apart(said, [f.near for f in alone])))
    return _ask_which(page, choice_on(page), labels) if len(labels) > 1 else None


def _which_link(page: Page, know: Knowledge, done: set[str]) -> AskFor | None:
    """Of several links into the installer, on a page that asks nothing, none of which is known to lead on."""
    if know.witness.made or praises(page, know.is_new) or choice_on(page) in know.values:
        return None
    ways = [link for link in _ways_inside(page, know).values() if _follow(link, done) is not None]
    labels = tuple(dict.fromkeys(f"{link.near} {link.label}".strip() for link in ways if link.label))
    return _ask_which(page, choice_on(page), labels) if 1 < len(labels) <= MOST_WAYS else None


def _ask_which(page: Page, key: str, labels: tuple[str, ...]) -> AskFor:
    return AskFor(key, f"Which of these leads on from the page “{page.title or page.url}”?", labels)


def _choice_of(form: Form) -> str:
    """Under which name it is kept which button of a form leads on."""
    return "press." + signature_of(form_mark(form), *sorted(b.label or b.value for b in form.buttons))[:8]


def _unread_login(page: Page, know: Knowledge) -> Form | None:
    """Once all was made, one name and one password outside the installer is where the application is signed in to, whatever it says."""
    if not know.witness.made or installing(page) or at_installer(page.url, know):
        return None
    return next((form for form in page.real_forms if bare_login(form)), None)


def _was_put(name: str, history: Sequence[Turn]) -> bool:
    return any(turn.label == PLACED + name for turn in history)


def _look_again(page: Page, know: Knowledge, history: Sequence[Turn], done: set[str]) -> Follow | None:
    """Once something was mended on the host, a link that has the page look again is the way on."""
    if not history or not history[-1].label.startswith(MENDED):
        return None
    for link in page.links:
        if (
            lexicon().says("look_again", link.label)
            and _same_site(link.url, know.address)
            and _is_inside(link, page, know)
        ):
            return _follow(link, done)
    return None


def _led_on(page: Page, history: Sequence[Turn]) -> Follow | None:
    """A page that leads on by itself. One that shows how far it is leads to itself again and again: so often, and with the wait it wants."""
    move = _follow(Link(page.refresh, "the page leads on"), set())
    asks = page.refresh == page.url and any(f.typed for form in page.forms for f in form.fields)
    if move is None or asks or page.refresh_seconds > MOST_WAIT_SECONDS:
        # A page that looks again after minutes only keeps itself fresh.
        return None
    often = sum(turn.signature == move.signature for turn in history)
    return replace(move, wait_seconds=min(page.refresh_seconds, 5.0) if often else 0.0) if often < MOST_LED_ON else None


def _with_told_login(form: Form, page: Page, know: Knowledge, done: set[str]) -> Submit | None:
    """A login that stands before the installer, with the name and password that its own page tells everybody."""
    told = published_login(page) if installing(page) and not know.witness.made else None
    if told is None or not form.buttons or not _same_site(form.action, know.address):
        return None
    texts = {f.name: told[0] for f in form.fields if f.kind in ("text", "email")}
    texts |= {f.name: told[1] for f in form.fields if f.kind == "password"}
    button = form.buttons[0]
    sent = [
        (f.name, texts.get(f.name, f.value))
        for f in form.fields
        if f.kind not in ("checkbox", "radio", "file") or f.checked
    ]
    signature = signature_of("login", form.action, *told)
    if signature in done:
        return None
    fields = (*sent, (button.name, button.value)) if button.name else tuple(sent)
    return Submit(
        form.action,
        form.method,
        tuple(fields),
        form.multipart,
        button.label,
        (),
        signature,
        form_mark(form),
        button.at or form.at,
    )


def _done(history: Sequence[Turn]) -> set[str]:
    """Moves that are not made again. What was tried before a file was put there, or a place opened, may be tried again: that is what it lacked."""
    placed = max((n for n, turn in enumerate(history) if turn.label.startswith(MENDED)), default=-1)
    return {t.signature for n, t in enumerate(history) if n > placed or t.label.startswith(PLACED)}


def _asks_repeat(form: Form) -> bool:
    return any(lexicon().says("again", f"{f.label} {f.name}") for f in form.fields if f.kind == "password")


def _candidates(page: Page, know: Knowledge, done: set[str]) -> list[_Candidate]:
    """What may be done here. A choice of languages that says already what is wanted is only pressed where nothing else is."""
    others = tuple(form for form in page.forms if not (only_tongues(form) and _says_ours(form, page, know)))
    alone = replace(page, forms=others) if len(others) < len(page.forms) else page
    # Where a step's own button is shut, another language opens nothing.
    waits = alone is page or bool(alone.real_forms or page.checks)
    return _ways_on(alone, know, done) or ([] if waits else _ways_on(page, know, done))


def _says_ours(form: Form, page: Page, know: Knowledge) -> bool:
    filled = fill(form, page, know)
    return not isinstance(filled, AskFor) and not _sets(form, filled[0])


def _ways_on(page: Page, know: Knowledge, done: set[str]) -> list[_Candidate]:
    found: list[_Candidate] = []
    praise = praises(page, know.is_new)
    for form in page.forms:
        # Whoever a login asks for, it is nobody of this job before the application stands.
        if is_login(form, page) or served(form, praise) or not _same_site(form.action, know.address) or searches(form):
            continue
        if praise and know.witness.made and not _stays(form, page):
            # What stands behind the end is the application's own, whatever its button says.
            continue
        # Without a button only a form with something to type in can be sent, by pressing Enter in it.
        typed = any(f.typed for f in form.fields)
        for button in form.buttons or ((NO_BUTTON,) if typed else ()):
            candidate = _press(form, button, page, know)
            if candidate is None or (isinstance(candidate.move, Submit) and candidate.move.signature in done):
                continue
            found.append(candidate)
    for link in page.links:
        if (candidate := _link(link, page, know, done)) is not None:
            found.append(candidate)
    if (forked := _forked(page, know, done)) is not None:
        return forked
    if sum(isinstance(c.move, Submit) for c in found) > 1:
        found = _without_tongues(found, page)
    if found and all(c.rank == UPDATES for c in found):
        # Beside a way to bring up to date what stands already, whatever else leads on is for what is new.
        return _only_way(page, know, done) or found
    return found or _by_tongue(page, know, done) or _only_way(page, know, done) or _in_frames(page, know, done)


def _forked(page: Page, know: Knowledge, done: set[str]) -> list[_Candidate] | None:
    """Of several ways, each a link or a button, ours; None where a page offers no such choice."""
    if know.witness.made or praises(page, know.is_new) or any(f.typed for form in page.forms for f in form.fields):
        return None
    here = installing(page) or at_installer(page.url, know)
    buttons = [(form, b) for form in page.real_forms for b in form.buttons if not b.disabled and not b.listed]
    inside = [k for k in page.links if _same_site(k.url, know.address) and not k.listed and _is_inside(k, page, know)]
    said = told_apart([b.label or b.value for _, b in buttons], [form.near for form, _ in buttons])
    if (way := way_of_ours(said, know.values)) is not None:
        pressed = _press(*buttons[way], page, know, FORK_RANK)
        again = pressed is None or (isinstance(pressed.move, Submit) and pressed.move.signature in done)
        return None if again or pressed is None else [pressed]
    way = way_of_ours(told_apart([k.label for k in inside], [k.near for k in inside]), know.values) if here else None
    move = _follow(inside[way], done) if way is not None else None
    return [_Candidate(move, FORK_RANK)] if move is not None else None


def _without_tongues(found: list[_Candidate], page: Page) -> list[_Candidate]:
    """Beside a form that leads on a choice of languages is left alone, where it says already what is wanted."""
    shown = {form_mark(form): form for form in page.real_forms if only_tongues(form)}

    def leads_on(one: _Candidate) -> bool:
        if not isinstance(one.move, Submit) or one.move.form not in shown:
            return True
        return any(
            f.value != dict(one.move.fields).get(f.name)
            for f in shown[one.move.form].fields
            if f.kind == "select" or f.checked
        )

    rest = [c for c in found if leads_on(c)]
    return rest if any(isinstance(c.move, Submit) for c in rest) else found


def _unticked(page: Page, know: Knowledge, history: Sequence[Turn], done: set[str]) -> Submit | None:
    """A form that came back and says nothing: one of its boxes may keep the way shut, so each is left out once, alone."""
    sent = {turn.form for turn in history if turn.form}
    words = lexicon()
    for form in (f for f in page.forms if form_mark(f) in sent):
        free = [
            f
            for f in form.fields
            if f.kind == "checkbox"
            and f.checked
            and not f.required
            and not words.says("licence", f"{f.label} {f.name}")
        ]
        for box in free[:MOST_BOXES]:
            other = replace(form, fields=tuple(replace(f, checked=False) if f is box else f for f in form.fields))
            pressed = [_press(other, b, page, know) for b in other.buttons if leads_on(b)]
            for one in pressed:
                if one is not None and isinstance(one.move, Submit) and one.move.signature not in done:
                    return replace(one.move, button=f"{one.move.button} without “{box.label or box.name}”")
    return None


def _by_tongue(page: Page, know: Knowledge, done: set[str]) -> list[_Candidate]:
    """Languages to choose from, each a link, by its name or a flag that says it."""
    tongues = [
        link for link in page.links if lexicon().says("tongues", link.label) and _same_site(link.url, know.address)
    ]
    if len(tongues) < SEVERAL or any(f.typed for form in page.forms for f in form.fields):
        return []
    offered = Field("", "select", options=tuple(Option(link.url, link.label, False) for link in tongues))
    url = choose_option(offered, know.values.get("site.language", ""), "site.language")
    move = _follow(next(link for link in tongues if link.url == url), done) if url else None
    return [_Candidate(move, 4.0)] if move is not None else []


def _same_site(url: str, address: str) -> bool:
    a, b = urlsplit(url), urlsplit(address)
    return (a.hostname, a.port) == (b.hostname, b.port)


def _stays(form: Form, page: Page) -> bool:
    """Whether a form leads to where the page itself is, or below: an unknown word on a button that leads elsewhere may do anything."""
    here, there = urlsplit(page.url).path, urlsplit(form.action).path
    folder = here.rpartition("/")[0]
    return there == here or (folder != "" and there.startswith(folder + "/"))


def _button_rank(button: Button, form: Form, page: Page, know: Knowledge) -> float:
    words = lexicon()
    said = button.label or button.value or button.name
    if button.disabled and not may_open(button, form) and not waits_for_a_yes(form):
        return -1.0
    chosen = [know.values[key] for key in (_choice_of(form), choice_on(page)) if key in know.values]
    told = {said.lower(), f"{form.near} {said}".strip().lower()}
    if any(p.lower() in told for p in (*know.presses, *chosen)):
        return 50.0
    if chosen:
        # A person has said which one leads on: it is another.
        return -1.0
    if skips(said) and _only_offers(form, page):
        return 11.0
    if len(form.buttons) > 1 and MAKES_UP.search(fold(said)) and words.says("password", said):
        # A password of the page's own making: the job has one.
        return -1.0
    if says_no(said):
        # To have figures sent somewhere is nobody's wish here: a page that asks for nothing else is told so.
        offered = any(words.says("unwanted", s) for s in (*page.told, *page.headings))
        return 12.0 if offered and not any(f.typed for f in form.fields) else -1.0
    if APPLIES.search(fold(said)) or outdone(button, form):
        # Saves what a page shows, and stays there: the last way, where nothing else leads on.
        return 1.5
    if words.says("decoy", said) or words.says("inviting", said) or CHANGING.search(fold(said)):
        return -1.0
    if button.listed or (counts_down(button, form) and not words.says("forward", said)):
        return -1.0
    if form.linklike and any(words.says(topic, said) for topic in ("login", "browse", "tongues")):
        return -1.0
    if OTHER_STORE.search(said) and know.values.get("database.kind") in ("mariadb", "postgresql"):
        # The plan made a database: what does without one is the last choice.
        return 1.0
    if len(form.buttons) > 1 and SAVES.match(fold(said)):
        # Whatever goes on goes further.
        return 9.0
    if TO_STEP.search(fold(said)) or (words.says("forward", said) and not words.says("check", said)):
        # With sample data, or without it: the plainer of two ways.
        return 9.0 if words.says("unwanted", said) and not WITHOUT.search(said) else 10.0
    if words.says("trial", said) and words.says("post", said):
        return -1.0
    if words.says("check", said):
        # Below any other way on: pressed only when nothing else is there.
        return 2.0
    if words.says("decoy", button.name) or words.says("decoy", button.value):
        return -1.0
    if words.says("check", fold(button.name)):
        return 2.0
    if not _stays(form, page):
        return -1.0
    if form.linklike:
        # On an installer's page the only one is the way on, whatever it says; not where it leads out, and not behind the end.
        if praises(page, know.is_new) and know.witness.made:
            return -1.0
        if words.says("waiting", " ".join((*page.headings, *page.told))):
            # Something is at work: what is pressed now is not the way on.
            return -1.0
        alone = len([b for b in form.buttons if not b.disabled]) == 1 and installing(page)
        return 4.0 if affirms(button, form, page) else 2.5 if alone else -1.0
    if any(b.shut and not b.at and leads_or_unread(b) for b in form.buttons):
        # The way on is shut; what nobody can read beside it is another.
        return -1.0
    # What is shut in a browser may open once the form is filled in: it counts.
    there = [b for b in form.buttons if b.at or not b.disabled]
    if len(there) > 1 and words.says("perhaps", said):
        return 5.5
    if len(there) > 1 and button.looks == "off" and any(b.looks != "off" for b in there):
        return 1.0
    if sum(b.looks == "on" for b in there) == 1 < len(there):
        # Beside the one that is dressed as the way on nobody knows what another does.
        return 6.0 if button.looks == "on" else -1.0
    return LONE_RANK if len(there) <= 1 else UNREAD_RANK


def _only_offers(form: Form, page: Page) -> bool:
    """Whether a form asks for nothing that a job knows or an installer has to have."""
    typed = [f for f in form.fields if f.typed]
    asked = {a.value for a in assign(form, page)}
    return bool(typed) and asked <= WHO and not any(f.required for f in typed)


# Who somebody is: makers like to know it, and an installer can do without.
WHO = {"admin.email", "admin.fullname", "admin.firstname", "admin.lastname", "site.organisation", "site.country"}


def _press(form: Form, button: Button, page: Page, know: Knowledge, rank: float = 0.0) -> _Candidate | None:
    rank = rank or _button_rank(button, form, page, know)
    if button is NO_BUTTON and not any(a.value in know.values for a in assign(form, page)):
        # Enter is pressed in a field of ours, never in whatever form an application has on its pages.
        return None
    if rank > 0 and opens(form):
        # The installer's own door: everything else is behind it.
        rank += 12.0
    if rank <= 0:
        return None
    key, about = _agreed_by(button, form, page)
    if key and know.values.get(key) == "no":
        return None
    if key and key not in know.accepted:
        text = f"The installer wants this accepted: “{button.label or button.value}” ({about})"
        return _Candidate(AskFor(key, text, ("yes", "no"), must_accept=key), rank)
    if button.target and button.target != form.action and not form.fields:
        return _Candidate(Follow(button.target, button.label, signature_of("get", button.target)), rank)
    filled = fill(form, page, know)
    if isinstance(filled, AskFor):
        return _Candidate(filled, rank)
    fields, names = filled
    sets = bool(names) or _sets(form, fields)
    if button.name:
        fields = [*fields, (button.name, button.value)]
    if button.at and button.disabled:
        # In a browser it may be filling the form in that opens the way on.
        if not sets:
            return None
        rank -= SHUT_RANK
    # A form that fills values of ours leads on more surely than one that only carries hidden fields.
    rank += min(len(names), 4) * 0.5
    stable = [(n, v) for n, v in fields if not is_token(n, v)]
    url = button.target or form.action
    # What was only tried while it was shut may be pressed once it is open.
    shut_now = ("shut",) if button.at and button.disabled else ()
    signature = signature_of(form.method, urlsplit(url)._replace(fragment="").geturl(), stable, *shut_now)
    move = Submit(
        url,
        form.method,
        tuple(fields),
        form.multipart,
        button.label or button.value,
        tuple(names),
        signature,
        form_mark(form),
        button.at or form.at,
        button.name,
    )
    return _Candidate(move, rank)


def _agreed_by(button: Button, form: Form, page: Page) -> tuple[str, str]:
    """Under which key an operator's yes to what a button accepts is kept, and what it is about; "" where it accepts no terms."""
    words = lexicon()
    said = button.label or button.value
    if not words.says("licence", said) or any(
        words.says("licence", f"{f.label} {f.name}") for f in form.fields if f.kind in ("checkbox", "radio", "select")
    ):
        return "", ""
    about = [t for t in (page.title, *page.headings, *page.told) if words.says("licence", t)]
    return ("accept." + signature_of(said, *about[:5])[:8], about[0][:200]) if about else ("", "")


def _sets(form: Form, fields: Sequence[tuple[str, str]]) -> bool:
    """Whether what is to be sent differs from what the form shows."""
    shown = [
        (f.name, f.value)
        for f in form.fields
        if not f.disabled and f.kind != "file" and (f.checked or f.kind not in ("checkbox", "radio"))
    ]
    return sorted(fields) != sorted(shown)


def _only_way(page: Page, know: Knowledge, done: set[str]) -> list[_Candidate]:
    """On an installer's page without a form, its one link into the installer is the way on, whatever it says."""
    ways = _ways_inside(page, know)
    chosen = know.values.get(choice_on(page), "")
    ways = {url: link for url, link in ways.items() if f"{link.near} {link.label}".strip() == chosen} or ways
    # "Check again" beside another way leads nowhere new.
    ways = {url: link for url, link in ways.items() if not lexicon().says("check", link.label)} or ways
    ways = {url: link for url, link in ways.items() if not lexicon().says("upgrading", link.label)} or ways
    onward = next_step(page.url, list(ways))
    if len(ways) != 1 and onward is None:
        return []
    move = _follow(ways[onward or next(iter(ways))], done)
    return [] if move is None else [_Candidate(move, 2.5)]


def _ways_inside(page: Page, know: Knowledge) -> dict[str, Link]:
    """The links into the installer of a page that asks nothing, by their addresses."""
    asked = any(f.typed for form in page.forms if not searches(form) for f in form.fields)
    if asked or any(leads_on(b) for form in page.forms for b in form.buttons):
        return {}
    here = urlsplit(page.url)._replace(fragment="").geturl()
    ways = {
        urlsplit(link.url)._replace(fragment="").geturl(): link
        for link in page.links
        if _same_site(link.url, know.address)
        and not link.listed
        # Any other page leads on only where it leads to what sets the application up.
        and (_is_inside(link, page, know) if installing(page) else at_installer(link.url, know))
        and not _turns_away(link)
    }
    ways.pop(here, None)
    return ways


def _in_frames(page: Page, know: Knowledge, done: set[str]) -> list[_Candidate]:
    """Of a page that is nothing but frames the one with what is to be done in it: the others hold what stands around."""
    if page.real_forms or page.links or not (installing(page) or at_installer(page.url, know)):
        return []
    own = [f for f in page.frames if _same_site(f.url, know.address) and _is_inside(f, page, know)]
    around = [f for f in own if AROUND.search(f"{f.label} {urlsplit(f.url).path.rpartition('/')[2]}")]
    inner = [f for f in own if f not in around] or own
    moves = [move for f in inner if (move := _follow(f, done)) is not None]
    return [_Candidate(move, 2.0) for move in moves[:1]]


def _turns_away(link: Link) -> bool:
    """Whether a link goes back, out, or to something to read."""
    words = lexicon()
    path = urlsplit(link.url).path.lower()
    return (
        words.says("decoy", link.label)
        or words.says("login", link.label)
        or words.says("browse", link.label)
        or path.endswith(NO_PAGE)
    )


def _is_inside(link: Link, page: Page, know: Knowledge) -> bool:
    """Whether a link stays in the folder of the page, or leads to where the installer is."""
    path = urlsplit(link.url).path
    return path.startswith(urlsplit(page.url).path.rsplit("/", 1)[0]) or any(p in path for p in know.installer_paths)


def _link(link: Link, page: Page, know: Knowledge, done: set[str]) -> _Candidate | None:
    """A link that leads on: inside the installer, or a button in the clothes of a link."""
    words = lexicon()
    if not _same_site(link.url, know.address) or not link.label or link.listed:
        return None
    if skips(link.label) and _is_inside(link, page, know) and _all_may_be_skipped(page):
        move = _follow(link, done)
        return None if move is None else _Candidate(move, 11.0)
    if words.says("decoy", link.label) or (words.says("trial", link.label) and words.says("post", link.label)):
        return None
    onward = words.says("forward", link.label) or TO_STEP.search(fold(link.label)) or ARROW_ON.search(link.label)
    if not onward:
        return None
    if not installing(page) and not words.says("installing", f"{link.label} {urlsplit(link.url).path}"):
        return None
    if not _is_inside(link, page, know) or len(link.label) > 60:
        return None
    move = _follow(link, done)
    if move is None:
        return None
    return _Candidate(move, UPDATES if words.says("upgrading", link.label) else 5.0)


def _all_may_be_skipped(page: Page) -> bool:
    """Whether a page has a form, and none that asks for anything that an installer has to have."""
    asking = [form for form in page.real_forms if any(f.typed for f in form.fields)]
    return bool(asking) and all(_only_offers(form, page) for form in asking)


def _follow(link: Link, done: set[str]) -> Follow | None:
    signature = signature_of("get", urlsplit(link.url)._replace(fragment="").geturl())
    return None if signature in done else Follow(link.url, link.label, signature, at=link.at)
