"""Is this the end? Pages are believed only as far as the host agrees. Pure.

Rules:
1. Words of success need that something was made, where anybody could look; "nothing happened" unmasks them.
2. A form that was sent and came back is no end, unless the page says that it succeeded and the host saw something made by it.
3. Whatever is no end says why it is none: the red rows, the complaint, the closed way on, PHP's own last line.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from urllib.parse import urlsplit

from highshelf.core.pages.judgement import Judgement, already, closed, judge, praises, red, tells_failure, tongue
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Field, Page
from highshelf.core.pages.purposes import searches
from highshelf.core.walk.assign import assign
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.marks import form_mark
from highshelf.core.walk.moves import IMPORTED, OPENED, PLACED, AskFor, Finished, Follow, Stuck, Turn, signature_of

# How an installer answers that has been shut: gone, forbidden, in conflict with what is there, locked, or closed for now.
SHUT = (401, 403, 404, 409, 410, 423, 503)
# Sentences of one page that are remembered.
MOST_SAID = 150
NOTHING = "but nothing was made: no file and no table"
NO_FILE = "but nothing was made that could be seen: no file, and nobody can be asked for tables"


def ending(page: Page, know: Knowledge, history: Sequence[Turn]) -> Finished | Follow | AskFor | Stuck:
    """What it is when no way leads on."""
    judged = judge(page, know.is_new)
    if history and _closed_behind(page, know):
        return Finished("the installer answers no more" + _made(know))
    if page.fatal or (page.status >= 500 and not page.real_forms):
        return _broken(page, know)
    if history and (red(page) or closed(page)):
        return _shut(page, judged)
    if not history and red(page):
        return _shut(page, judged)
    if came_back(page, history) and not (judged.praise and know.witness.made_now):
        return _again(page, know, judged, history)
    if history and history[-1].label.startswith(PLACED) and already(page):
        return Finished("the installer sees the configuration that was put there" + _made(know))
    complaints = complaints_of(page, know, history)
    if complaints and not judged.praise:
        return Stuck("the installer says: " + complaints[0][:400], blame_of(complaints[0]))
    if history and (judged.praise or already(page)):
        return _praised(page, know, judged, history)
    if complaints:
        return Stuck("the installer says: " + complaints[0][:400], blame_of(complaints[0]))
    if page.status >= 400:
        return Stuck(
            f"the installer answered with status {page.status}: {page.title or page.text[:120]}" + _logged(know)
        )
    if history and not page.real_forms and (know.witness.made or (_placed(history) and _leads_to_login(page))):
        return Finished("the pages ask nothing more" + _made(know))
    if history and know.witness.made and not complaints and not _asks_here(page, know):
        return Finished("the application itself is shown" + _made(know))
    if page.needs_script:
        return Stuck("the installer's page shows nothing without JavaScript (needs-javascript)")
    if not page.text:
        return Stuck("the installer's page is empty" + _logged(know))
    return Stuck(f"no way on was found on the page “{page.title or page.url}”: {said_first(page)}")


def shut(page: Page, know: Knowledge) -> Stuck | None:
    """A page whose red rows and complaint say that pressing on would only show it again."""
    rows = red(page)
    if not rows or not (any(r.required for r in rows) or any(_refuses(c, know) for c in page.complaints())):
        return None
    return Stuck("the installer's checks are red: " + ", ".join(c.label for c in rows[:6]))


def _refuses(complaint: str, know: Knowledge) -> bool:
    """Whether a complaint is a new one, and about more than what is only recommended."""
    return know.is_new(complaint) and not lexicon().says("optional", complaint)


def said_here(page: Page) -> list[str]:
    """What a page says; where it stands again later, it tells nothing of what was done between."""
    return [*page.complaints(), *praises(page), *page.told[:MOST_SAID]]


def complaints_of(page: Page, know: Knowledge, history: Sequence[Turn]) -> list[str]:
    """What a page complains of that no earlier one did: by its looks, or, where a form came back, by what is new on the page."""
    marked = [c for c in page.complaints() if know.is_new(c) and c not in already(page)]
    if marked or not came_back(page, history):
        return marked
    new = [t for t in page.told if know.is_new(t) and t not in (page.title, *page.headings)]
    language = tongue(page)
    failing = [t for t in new if tells_failure(t, language)]
    return failing or [t for t in new if t not in praises(page, know.is_new)][:3]


def login_end(page: Page, know: Knowledge, history: Sequence[Turn]) -> Finished | Stuck:
    """A login after moves were made: of the finished application, where something was given or made; else it stands before it all."""
    if came_back(page, history):
        return Stuck("the login that the page tells is refused")
    if know.witness.made is False:
        return Stuck(f"the pages lead to a login, {NOTHING}", ("admin.name", "admin.password"))
    if not know.witness.made and not any(turn.gave for turn in history):
        return Stuck(
            "the installer asks for a login before anything else, and tells none", ("admin.name", "admin.password")
        )
    return Finished("the application asks for a login" + _made(know))


def _closed_behind(page: Page, know: Knowledge) -> bool:
    """Whether everything was made and the installer's address is shut now, without a word of failure."""
    made = bool(know.witness.wrote) and know.witness.tables != 0
    language = tongue(page)
    failing = page.fatal or any(tells_failure(t, language) for t in page.told)
    return made and page.status in SHUT and not page.real_forms and bool(page.text) and not failing


def _broken(page: Page, know: Knowledge) -> Stuck:
    said = page.fatal or f"status {page.status} and {'no text' if not page.text else said_first(page)}"
    return Stuck(f"PHP stopped on the installer's page: {said[:300]}" + ("" if page.fatal else _logged(know)))


def _logged(know: Knowledge) -> str:
    return f" (PHP's error log: {know.witness.log[-1][:300]})" if know.witness.log else ""


def _shut(page: Page, judged: Judgement) -> Stuck:
    rows = red(page)
    if rows:
        return Stuck("the installer's checks are red: " + ", ".join(c.label for c in rows[:6]))
    told = page.complaints()
    shut = "the installer's own way on is closed: " + "; ".join(b.label for b in closed(page)[:3])
    return Stuck("the installer says: " + told[0][:400], blame_of(told[0])) if told else Stuck(shut)


def _again(page: Page, know: Knowledge, judged: Judgement, history: Sequence[Turn]) -> Follow | AskFor | Stuck:
    """A form that stands there again: with praise beside it the page is opened anew, once, as a person would; else it is no end.

    Where nothing says what was wrong, a field that was left empty is asked for: nobody here knew whose it is.
    """
    anew = Follow(
        urlsplit(page.url)._replace(fragment="").geturl(), "the page, opened anew", signature_of("anew", *judged.praise)
    )
    if judged.praise and not judged.against and anew.signature not in {t.signature for t in history}:
        return anew
    told = complaints_of(page, know, history) or page.complaints()
    language = tongue(page)
    said = told or [t for t in page.told if tells_failure(t, language)] or [said_first(page)]
    empty = None if told and blame_of(told[0]) else _quoted(page, know, said[0]) or _left_empty(page, know)
    if empty is not None:
        called = empty.label or empty.placeholder or empty.name
        left = f"was left as it stood there (“{empty.value[:80]}”)" if empty.value else "was left empty"
        text = f"The installer shows its page again (“{said[0][:200]}”), and “{called}” {left}. What belongs there?"
        return AskFor("field." + empty.name, text, secret=empty.kind == "password")
    return Stuck(f"the installer shows the same page again: {said[0][:400]}", blame_of(told[0]) if told else ())


def _quoted(page: Page, know: Knowledge, said: str) -> Field | None:
    """The field whose preset the complaint repeats, and which nothing of ours went into."""
    for form in page.forms:
        ours = {id(a.field) for a in assign(form, page) if know.value(a.value) is not None}
        for field in form.fields:
            kept = field.typed and field.kind in ("text", "url", "email") and id(field) not in ours
            if kept and len(field.value) > 5 and field.value in said and "field." + field.name not in know.values:
                return field
    return None


def _left_empty(page: Page, know: Knowledge) -> Field | None:
    """The first field that nothing of ours went into, in a form that something of ours went into."""
    for form in page.forms:
        ours = {id(a.field) for a in assign(form, page) if know.value(a.value) is not None}
        free = [
            f
            for f in form.fields
            if f.typed
            and f.kind in ("text", "password", "email")
            and not f.value
            and id(f) not in ours
            and "field." + f.name not in know.values
            and not lexicon().says("optional", f.label)
        ]
        if ours and free and form.method == "post" and not searches(form):
            return free[0]
    return None


def _praised(page: Page, know: Knowledge, judged: Judgement, history: Sequence[Turn]) -> Finished | Stuck:
    said = (judged.praise or tuple(already(page)))[0][:200]
    if know.witness.made is False or (know.witness.wrote == () and not _placed(history)):
        return Stuck(f"the installer says “{said}”, {NOTHING if know.witness.tables is not None else NO_FILE}")
    return Finished("the installer says that it is finished" + _made(know))


def _placed(history: Sequence[Turn]) -> bool:
    """Whether the configuration was put there by the walk itself: then there is none left for the installer to write."""
    return any(turn.label.startswith(PLACED) for turn in history)


def _asks_here(page: Page, know: Knowledge) -> bool:
    """Whether a form of the installer's own still asks for something."""
    inside = {urlsplit(page.url).path.rpartition("/")[0] + "/", *know.installer_paths} - {
        "/",
        urlsplit(know.address).path,
    }
    forms = [f for f in page.forms if not inside or any(urlsplit(f.action).path.startswith(place) for place in inside)]
    return bool(closed(page)) or any(f.typed for form in forms for f in form.fields)


def _leads_to_login(page: Page) -> bool:
    return any(lexicon().says("login", label) for label in page.leads())


def _made(know: Knowledge) -> str:
    told = know.witness.told()
    return f"; {told}" if told else ""


def came_back(page: Page, history: Sequence[Turn]) -> bool:
    """Whether a form that was sent stands there again."""
    # What was sent before a place was opened could not but come back.
    since = max((n for n, turn in enumerate(history) if turn.label.startswith((OPENED, IMPORTED))), default=-1)
    sent = {turn.form for turn in history[since + 1 :] if turn.form}
    return any(form_mark(form) in sent for form in page.forms)


def said_first(page: Page) -> str:
    """What a page has to say, for people: its first words that are more than its title, and what it says is wrong."""
    first = next((s for s in page.told if s != page.title and len(s) > 3), page.text)
    words, language = lexicon(), tongue(page)
    wrong = [s for s in page.told if s != first and (words.says("missing", s) or tells_failure(s, language))]
    return f"{first[:200]} “{wrong[0][:200]}”" if wrong else first[:200]


def blame_of(complaint: str) -> tuple[str, ...]:
    """Which values a complaint seems to mean."""
    text = complaint.lower()
    if "access denied" in text or "using password" in text:
        return ("database.user", "database.password")
    if "unknown database" in text:
        return ("database.name",)
    if re.search(r"connect|refused|host|server", text):
        return ("database.host",)
    if "password" in text:
        return ("admin.password",)
    return ()
