"""A panel that nobody described: its pages are read, its forms found by their meaning, and what was made is looked up afterwards.

Rules:
1. Looking is done by links alone; forms are sent only to sign in, to make what the job makes, and to take that away again.
2. What was made counts once a page that is asked for anew shows it.
3. Only what bears the name of this job is ever deleted.
4. A login that was refused is not tried again by the same conversation.
"""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field
from typing import BinaryIO, Literal, TypeVar
from urllib.parse import unquote, urlsplit

from highshelf.core.errors import PanelError
from highshelf.core.pages.page import Form, Link, Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.panels.reading import (
    Found,
    Goal,
    Known,
    Wish,
    confirmation,
    fill,
    interruption,
    is_about_databases,
    look_for,
    names_database,
    rank,
    second_page,
)
from highshelf.core.panels.rows import Control, beside, deleting, listed, stands_with, tokens
from highshelf.core.panels.telling import (
    door_of,
    first_step,
    front_door,
    key_in,
    longest_name,
    makes_together,
    told_values,
    whole_name,
)
from highshelf.core.panels.words import says, token_in
from highshelf.core.ports import CancelToken, Fetch, Made, Progress

T = TypeVar("T")

# Pages looked at for one thing, and how many links deep: a page of databases is never far from the first.
MOST_PAGES = 24
MOST_DEPTH = 4
# More than any link can promise.
OPENED = 99
# Pages that ask once more, one after the other.
MOST_CONFIRMATIONS = 4
# Seconds after which a page is asked again for what should be there; panels that take orders need a while.
LOOKS = (0.0, 1.0, 3.0, 6.0)
# Panels bear fewer letters than servers do, with what they put before and after.
LONGEST = 8


def _fields_of(form: Form) -> tuple[str, ...]:
    return tuple(sorted(f.name for f in form.fields if f.typed))


# Links of a front page behind which a door is looked for, where none says that it leads there.
MOST_DOORS = 6


class Expired(Exception):
    """The session ended in the middle."""


@dataclass
class Seen:
    """A page with the words of the links that led to it."""

    snapshot: Snapshot
    page: Page
    trail: str
    depth: int = 0


@dataclass
class ReadPanel:
    """One customer's panel, by reading. Implements ports.Panel for databases; the rest is done by hand.

    Args:
        fetch: a conversation whose origins are the panel's alone.
        told: what is opened, filled and pressed, in words, without secrets.
        rest: how waiting is done.
    """

    fetch: Fetch
    address: str
    login: str
    password: str
    kind: str = "mariadb"
    told: Callable[[str], None] = lambda text: None
    rest: Callable[[float], None] = time.sleep
    _inside: bool = False
    # Whether the form of the database makes its user too: with a name of its own, or by the same one.
    _together: Literal["", "own", "same"] = ""
    _refused: str = ""
    # Whether the form of the user named the database that it is for.
    _granted: bool = False
    # Whether a form had a place for the database's name; else the panel chooses it.
    _named_here: bool = False
    _landing: Seen | None = None
    _lists: dict[str, Seen] = field(default_factory=dict)
    _known: Known = field(default_factory=Known)
    # The fields of the forms through which one came in.
    _doors: set[tuple[str, ...]] = field(default_factory=set)

    # What jobs ask for.
    def databases(self) -> list[str]:
        """Whatever a page about databases names; more than the databases alone. Raises PanelError: no such page was found."""
        return sorted(self._again(self._named))

    def users(self) -> list[str]:
        return self.databases()

    def full_name(self, name: str, what: Literal["database", "user"]) -> str:
        return name

    def longest(self, what: Literal["database", "user"]) -> int:
        return LONGEST

    @property
    def tells_password(self) -> bool:
        return False

    def standing(self, name: str, what: Literal["database", "user"]) -> str:
        """The whole name of what was made under this name, or ""."""
        near = self._known.databases if what == "user" else ()
        return self._again(lambda: self._anywhere(name, near) if near else whole_name(name, self._named()))

    def create_database(self, name: str, user: str = "", password: str = "") -> Made:
        wish = Wish(self.kind, name, user, password)

        def made() -> Made | None:
            whole = whole_name(name, self._named())
            there = self._user_of(whole, wish) if whole and self._together else ""
            return Made(whole, there, password if there else "") if whole else None

        return self._again(lambda: self._database(wish), made)

    def _database(self, wish: Wish) -> Made:
        before = self._named()
        seen, found = self._find("database", wish)
        self._together, self._named_here = makes_together(found), found.has("database", "name")
        shown = self._send(seen, found, "database", wish)
        if not self._named_here:
            return self._as_chosen(shown, before, wish.password if found.has("password") else "")
        whole = self._really_there("database", wish.database, shown)
        told = told_values(shown.snapshot)
        if not self._together and told.get("user") and told.get("password"):
            # The panel made the password, and shows it this once.
            return Made(whole, told["user"], told["password"], told.get("server", ""))
        user = self._user_of(whole, wish) if self._together else ""
        return Made(whole, user, wish.password if user else "", told.get("server", ""))

    def _user_of(self, whole: str, wish: Wish) -> str:
        """The user that was made with the database: as a page names it, else named as the database was; the login is tried from the host."""
        if self._together == "same":
            return whole
        return self._anywhere(wish.user, (whole,)) or whole.replace(wish.database, wish.user)

    def _anywhere(self, name: str, near: Iterable[str]) -> str:
        """The whole name on any page about databases, also the own page of a database that it belongs to."""
        if whole := whole_name(name, self._named()):
            return whole
        return next(
            (t for seen in self._walk("list", (name, *near)) if (t := whole_name(name, tokens(seen.snapshot)))), ""
        )

    def create_user(self, name: str, password: str, database: str = "") -> str:
        wish = Wish(self.kind, database, name, password)

        def make() -> str:
            seen, found = self._find("user", wish)
            self._granted = bool(database) and names_database(found, database)
            return self._really_there("database user", name, self._send(seen, found, "user", wish))

        return self._again(make, lambda: whole_name(name, self._named()) or None)

    def attach(self, database: str, user: str) -> None:
        """Let the user use the database; where its page names the user already, nothing is left to do."""
        self._remember(databases=[database], users=[user])
        wish = Wish(self.kind, database, user)

        def attach() -> bool:
            # The form of the user may have taken the database along; whether it may is tried from the host.
            if not self._granted and not self._attached(database, user):
                self._send(*self._find("attach", wish), "attach", wish)
            return True

        self._again(attach)

    def drop_database(self, database: str) -> None:
        self._remember(databases=[database])
        self._lists = {}
        self._again(lambda: self._drop("database", database))

    def drop_user(self, user: str) -> None:
        self._again(lambda: self._drop("user", user))

    # What is left to people.
    def sites(self) -> list[str]:
        raise self._by_hand("websites")

    def create_site(self, name: str, folder: str) -> None:
        raise self._by_hand("websites")

    def extensions(self) -> dict[str, bool]:
        raise self._by_hand("switches of PHP")

    def switch(self, extension: str, *, on: bool) -> None:
        raise self._by_hand("switches of PHP")

    def send_file(
        self,
        folder: str,
        name: str,
        content: BinaryIO,
        size_bytes: int,
        *,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> None:
        raise self._by_hand("files")

    def unpack(self, folder: str, name: str) -> None:
        raise self._by_hand("files")

    def moves(self) -> list[str]:
        """What a job would do here, step by step, as far as it can be seen before anything is made."""
        wish = Wish(self.kind, "…", "…", "…")
        seen, found = self._find("database", wish)
        lines = [f"sign in at {self.address} as {self.login}", _told_form(seen, found)]
        if not found.has("password") and found.has("database", "name"):
            try:
                lines.append(_told_form(*self._find("user", wish)))
            except PanelError:
                lines.append("make a user, where the page of the new database says how")
            lines.append("let the user use the database, with every right that is offered")
        return lines

    def _by_hand(self, what: str) -> PanelError:
        return PanelError(
            f"{what} of a panel that is only read are done by hand", hint="do it in the panel, or write a primer for it"
        )

    # Going about.
    def _get(self, url: str) -> Snapshot:
        """Raises Expired: the door is there instead."""
        snapshot = self.fetch.get(url)
        if self._shows_door(read(snapshot)):
            raise Expired
        return snapshot

    def _again(self, act: Callable[[], T], made: Callable[[], T | None] = lambda: None) -> T:
        """Do it; where the session ended on the way, sign in again, look whether it was done all the same, and else do it once more."""
        for _ in range(2):
            try:
                return act()
            except Expired:
                self._inside, self._lists = False, {}
                self._enter()
                try:
                    if (there := made()) is not None:
                        return there
                except Expired:
                    continue
        try:
            return act()
        except Expired as fault:
            raise PanelError("the panel asks to sign in again and again", hint="do it in the panel by hand") from fault

    def _leads_out(self) -> bool:
        """Whether one is still inside, so that a link that showed a door led to somebody else's: that of the mail, or of another product."""
        return self._landing is not None and not self._shows_door(read(self.fetch.get(self._landing.snapshot.url)))

    def _shows_door(self, page: Page) -> bool:
        """Whether a page is the door: by its words, or as the one that was passed through, whatever its words are."""
        return door_of(page) is not None or any(_fields_of(form) in self._doors for form in page.forms)

    def _enter(self) -> Seen:
        """Sign in, once. Raises PanelError: refused, or nothing to sign in with."""
        if self._inside and self._landing is not None:
            return self._landing
        if self._refused:
            raise PanelError(self._refused, hint="check the panel's login and password")
        snapshot = self.fetch.get(self.address)
        page = read(snapshot)
        if page.status >= 500:
            raise PanelError(
                f"the panel answers with status {page.status}: {page.text[:120].strip()}", hint="try again later"
            )
        if front_door(page) is None:
            snapshot, page = self._to_the_door(snapshot, page)
        for _ in range(3):
            door = front_door(page) or first_step(page)
            if door is None:
                break
            self._doors.add(_fields_of(door))
            snapshot = self.fetch.post(door.action, key_in(door, self.login, self.password), multipart=door.multipart)
            page = read(snapshot)
            if any(f.kind == "password" for f in door.fields):
                break
        if page.needs_script:
            raise PanelError(
                "the panel shows nothing without JavaScript",
                hint="make the database by hand, or write a primer for its interface",
            )
        if self._shows_door(page) or not (page.links or page.frames):
            said = "; ".join(page.complaints()[:2]) or page.text[:120].strip()
            self._refused = _masked(f"the panel does not let {self.login} in: {said}", self.password)
            raise PanelError(self._refused, hint="check the panel's login and password")
        self._inside = True
        self._landing = self._past(Seen(snapshot, page, ""))
        self._lists = {}
        return self._landing

    def _to_the_door(self, snapshot: Snapshot, page: Page) -> tuple[Snapshot, Page]:
        """From a front page to where one signs in: by the link that says so, else by the one behind which a door is."""
        links = [one for one in page.links if one.label and urlsplit(one.url).netloc == urlsplit(page.url).netloc]
        said = [one for one in page.links if says("entering", one.label)]
        for link in (said or links)[:MOST_DOORS]:
            behind = self.fetch.get(link.url)
            if said or front_door(read(behind)) is not None:
                return behind, read(behind)
        return snapshot, page

    def _past(self, seen: Seen, wanted: str = "") -> Seen:
        """Behind what only wants to be read (a tour, a notice): it stands where something else was asked for, or right behind the door."""
        for _ in range(MOST_CONFIRMATIONS):
            led_away = urlsplit(seen.page.url).path != urlsplit(wanted).path
            on = interruption(seen.page) if led_away else None
            if on is None:
                return seen
            if isinstance(on, Form):
                snapshot = self.fetch.post(
                    on.action,
                    [
                        (f.name, f.value)
                        for f in on.fields
                        if f.kind == "hidden" or (f.kind == "checkbox" and f.checked)
                    ],
                )
            else:
                snapshot = self.fetch.get(on.url)
            snapshot = self.fetch.get(wanted) if wanted else snapshot
            seen = Seen(snapshot, read(snapshot), seen.trail, seen.depth)
        return seen

    def _walk(self, goal: Goal | Literal["list"], names: Iterable[str] = ()) -> Iterable[Seen]:
        """Pages, the most promising links first; each address once."""
        landing = self._enter()
        wanted = tuple(names)
        # By address: the best promise of a link to it; what was opened promises nothing more.
        best = {landing.page.url: OPENED}
        queue: list[tuple[int, int, Seen, Link]] = []

        def add(seen: Seen) -> None:
            for link in (*seen.page.frames, *seen.page.links):
                score = 1 if link in seen.page.frames else rank(link, seen.page, seen.trail, goal, wanted)
                if self._is_of_another(link, wanted):
                    continue
                # What says nothing is opened last, and only near the beginning.
                near = score == 0 and seen.depth < 2
                if ((score > 0 and seen.depth < MOST_DEPTH) or near) and score > best.get(link.url, -1):
                    best[link.url] = score
                    queue.append((score, len(queue), seen, link))

        yield landing
        add(landing)
        asked, enough = 0, False
        while queue and asked < MOST_PAGES:
            queue.sort(key=lambda entry: (-entry[0], entry[1]))
            score, _, before, link = queue.pop(0)
            if score <= 0 and enough:
                return
            if best[link.url] == OPENED:
                continue
            best[link.url] = OPENED
            asked += 1
            try:
                snapshot = self._get(link.url)
            except Expired:
                if self._leads_out():
                    continue
                raise
            seen = self._past(
                Seen(snapshot, read(snapshot), f"{before.trail} {link.label}".strip(), before.depth + 1), link.url
            )
            if seen.page.status < 400:
                enough = enough or is_about_databases(seen.page, seen.trail, self.kind)
                yield seen
                add(seen)

    def _is_of_another(self, link: Link, wanted: Iterable[str]) -> bool:
        """Whether a link leads to what stood there before this job and is none of its business."""
        path = unquote(f"{urlsplit(link.url).path} {urlsplit(link.url).query}")
        said = f"{link.label} {re.sub(r'[/?&=]', ' ', path)}"
        strange = self._known.standing - self._known.databases - self._known.users - set(wanted)
        return any(n in said and token_in(n, said) for n in strange if re.search(r"[\d_-]", n))

    def _named(self) -> set[str]:
        """What the pages about databases name now."""
        if not self._lists:
            for seen in self._walk("list"):
                if is_about_databases(seen.page, seen.trail) and seen is not self._landing:
                    self._lists[seen.page.url] = seen
            if not self._lists:
                raise PanelError(
                    "no page about databases was found in the panel",
                    hint="make the database by hand; or write a primer for the panel",
                )
            if not self._known.standing:
                # What stands on every page is the menu.
                menu = tokens(landing.snapshot) if (landing := self._landing) is not None else set()
                standing = {name for seen in self._lists.values() for name in listed(seen.snapshot)} - menu
                self._known = Known(self._known.databases, self._known.users, frozenset(standing))
            # The own page of one database is no list of them.
            own = self._known.databases
            lists = {
                u: s
                for u, s in self._lists.items()
                if not self._is_of_another(Link(u, ""), ()) and not any(n in unquote(u) for n in own)
            }
            self._lists = lists or self._lists
            return {name for seen in self._lists.values() for name in tokens(seen.snapshot)}
        found: set[str] = set()
        for url, seen in list(self._lists.items()):
            snapshot = self._get(url)
            self._lists[url] = Seen(snapshot, read(snapshot), seen.trail, seen.depth)
            # A page that is not there names what is not there.
            found |= tokens(snapshot) if snapshot.status < 400 else set()
        return found

    def _paths(self) -> set[str]:
        """Paths of pages that list what stands there; a page that only asks for a new one lists nothing."""
        there = self._known.standing
        return {
            urlsplit(url).path
            for url, seen in self._lists.items()
            if not says("making", " ".join(seen.page.headings[:1])) and (not there or there & listed(seen.snapshot))
        }

    def _remember(self, databases: Iterable[str] = (), users: Iterable[str] = ()) -> None:
        known = self._known
        self._known = Known(
            known.databases.union(filter(None, databases)), known.users.union(filter(None, users)), known.standing
        )

    def _find(self, goal: Goal, wish: Wish) -> tuple[Seen, Found]:
        """The page and its form for this. Raises PanelError: there is none."""
        best: tuple[Seen, Found] | None = None
        looked = []
        for seen in self._walk(goal, (wish.database, wish.user) if goal != "database" else ()):
            looked.append(seen.page.headings[0] if seen.page.headings else seen.page.title)
            found = look_for(goal, seen.page, seen.trail, self._known, wish)
            if found is not None and (best is None or found.score > best[1].score):
                best = (seen, found)
        if best is None:
            what = {
                "database": "that makes a database",
                "user": "that makes a database user",
                "attach": f"that lets {wish.user} use {wish.database}",
            }
            raise PanelError(
                f"no form was found in the panel {what[goal]}; looked at {', '.join(dict.fromkeys(filter(None, looked[:8])))}",
                hint="do it by hand in the panel, or write a primer for it",
            )
        return best

    # Sending.
    def _send(self, seen: Seen, found: Found, goal: Goal, wish: Wish) -> Seen:
        """Fill and send a form, and whatever it asks behind it. Raises PanelError with the panel's words."""
        for _ in range(MOST_CONFIRMATIONS):
            self.told(_told_form(seen, found))
            self._together = self._together or (makes_together(found) if goal == "database" else "")
            snapshot = self.fetch.post(found.form.action, fill(found, goal, wish), multipart=found.form.multipart)
            seen = self._confirmed(
                Seen(snapshot, read(snapshot), seen.trail, seen.depth),
                (wish.database, wish.user),
                sent_to=found.form.action,
            )
            following = self._following(seen, found, goal, wish)
            if following is None or seen.page.complaints():
                break
            found = following
        if self._shows_door(seen.page):
            raise Expired
        if seen.page.status >= 400 or seen.page.complaints():
            said = "; ".join(seen.page.complaints()[:2]) or f"status {seen.page.status}"
            if seen.page.status >= 400 or not self._there_after_all(goal, wish):
                raise PanelError(
                    _masked(f"the panel refuses: {said}", self.password, wish.password),
                    hint="see to it in the panel, then run the job again",
                    longest=longest_name(said),
                )
        return seen

    def _following(self, seen: Seen, found: Found, goal: Goal, wish: Wish) -> Found | None:
        """The next page of the same making, or None."""
        following = second_page(seen.page, found, (wish.database, wish.user), self._known, self._paths())
        if following is None and goal == "database" and not found.has("database", "name"):
            # The kind of server was chosen on a page of its own; now comes the name.
            named = look_for(goal, seen.page, seen.trail, self._known, wish)
            following = named if named is not None and named.has("database", "name") else None
        self._named_here = self._named_here or (following is not None and following.has("database", "name"))
        return following

    def _confirmed(self, seen: Seen, names: tuple[str, ...], *, sent_to: str = "", to_delete: bool = False) -> Seen:
        for _ in range(MOST_CONFIRMATIONS):
            form = confirmation(seen.page, names, self._paths(), sent_to=sent_to, to_delete=to_delete)
            if form is None:
                return seen
            button = next((b for b in form.buttons if not b.disabled and not says("not_sure", b.label)), None)
            # Where the name itself is to be typed, that is the whole one.
            sent = [
                (f.name, names[0] if f.typed and f.kind == "text" else f.value)
                for f in form.fields
                # A box that agrees to something else is a person's to tick.
                if f.kind in ("hidden", "text")
                or (f.kind == "checkbox" and (to_delete or f.checked or says("sure", f"{f.label} {f.name}")))
            ]
            snapshot = self.fetch.post(
                form.action, [*sent, *([(button.name, button.value)] if button and button.name else [])]
            )
            seen = Seen(snapshot, read(snapshot), seen.trail, seen.depth)
        return seen

    def _there_after_all(self, goal: Goal, wish: Wish) -> bool:
        if goal == "attach":
            return self._attached(wish.database, wish.user)
        return bool(whole_name(wish.database if goal == "database" else wish.user, self._named()))

    def _really_there(self, what: str, name: str, shown: Seen) -> str:
        looks = (*LOOKS, 10.0, 20.0) if says("waiting", shown.page.text) else LOOKS
        for seconds in looks:
            self.rest(seconds)
            if whole := whole_name(name, self._named()) or (
                self._anywhere(name, self._known.databases) if what != "database" else ""
            ):
                self._remember(**({"databases": [whole]} if what == "database" else {"users": [whole]}))
                return whole
            self._lists = {}
        raise PanelError(
            f"the panel did not complain, but no page of it names the {what} {name}", hint="look at the panel by hand"
        )

    def _as_chosen(self, shown: Seen, before: set[str], given: str) -> Made:
        """What a panel that names everything itself says of it; what cannot be used is taken away again.

        Args:
            given: the password that the form took, "" where the panel makes it.
        """
        told = told_values(shown.snapshot)
        new = {n for n in self._named() - before for seen in self._lists.values() if n in listed(seen.snapshot)}
        database = told.get("database", "") if told.get("database", "") not in before else ""
        database = database or (new.pop() if len(new) == 1 else "")
        if not database:
            raise PanelError(
                "the panel made something, but does not say how it is called",
                hint="look at the panel by hand; it may have made a database",
            )
        password = told.get("password") or given
        self._remember(databases=[database], users=[told.get("user", "")])
        if not told.get("user") or not password:
            self._drop("database", database)
            raise PanelError(
                f"the panel made {database} without telling who may use it and by which password; it was deleted again",
                hint="make the database by hand",
            )
        return Made(self._really_there("database", database, shown), told["user"], password, told.get("server", ""))

    def _attached(self, database: str, user: str) -> bool:
        """Whether a page about databases names both in one row, or the page of this database names the user outside every list to choose from."""
        for seen in self._walk("attach", (database, user)):
            if is_about_databases(seen.page, seen.trail) and stands_with(seen.snapshot, database, user):
                return True
        return False

    # Taking away.
    def _drop(self, what: str, whole: str) -> None:
        if whole not in self._named():
            return
        others = (self._known.databases | self._known.users | self._listed_beside(whole)) - {whole}
        control = self._control(whole, others)
        if control is None:
            raise PanelError(
                f"no way to delete the {what} {whole} was found in the panel",
                hint="delete it by hand in the panel, then run this again",
            )
        seen, one = control
        self.told(f"delete the {what} {whole}")
        snapshot = self._press(seen, one, whole)
        self._confirmed(Seen(snapshot, read(snapshot), seen.trail), (whole,), to_delete=True)
        for seconds in LOOKS:
            self.rest(seconds)
            if whole not in self._named():
                return
        raise PanelError(
            f"the panel did not complain, but still names the {what} {whole}", hint="delete it by hand in the panel"
        )

    def _listed_beside(self, whole: str) -> set[str]:
        """Names of the same make: what must not stand in the row that is deleted."""
        return {name for seen in self._lists.values() for name in beside(seen.snapshot, whole)}

    def _control(self, whole: str, others: Collection[str]) -> tuple[Seen, Control] | None:
        for seen in self._walk("list", (whole,)):
            if not is_about_databases(seen.page, seen.trail):
                continue
            controls = deleting(seen.snapshot, whole, {*others, *beside(seen.snapshot, whole)})
            if controls:
                return seen, controls[0]
        return None

    def _press(self, seen: Seen, control: Control, whole: str) -> Snapshot:
        if control.form is None:
            return self._get(control.link)
        form = control.form
        sent = []
        for f in form.fields:
            if f.kind == "select":
                pick = next((o.value for o in f.options if whole in (o.value, o.label)), None)
                pick = pick or next((o.value for o in f.options if says("deleting", o.label)), None)
                sent.append((f.name, pick if pick is not None else f.value))
            elif f.kind in ("checkbox", "radio"):
                alone = len([g for g in form.fields if g.name == f.name]) == 1
                if f.value == whole or alone:
                    sent.append((f.name, f.value))
            elif f.typed and f.kind == "text":
                sent.append((f.name, whole))
            elif f.kind not in ("submit", "button", "image", "reset", "file"):
                sent.append((f.name, f.value))
        button = next((b for b in form.buttons if not b.disabled), None)
        pressed = control.button or ((button.name, button.value) if button is not None and button.name else None)
        return self.fetch.post(form.action, [*sent, *([pressed] if pressed else [])])


def _masked(text: str, *secrets: str) -> str:
    """A panel's words, without what some of them repeat of what was typed."""
    for secret in filter(None, secrets):
        text = text.replace(secret, "•••")
    return text


def _told_form(seen: Seen, found: Found) -> str:
    """A form and what goes into it, for people."""
    heading = seen.page.headings[0] if seen.page.headings else seen.page.title
    parts = [
        # Twenty boxes are told by what stands over them.
        f.near if role == "rights" and f.kind == "checkbox" and f.near else f.label or f.placeholder or f.name
        for f, role in found.roles
        if role in ("database", "user", "name", "password", "rights", "kind", "pick-user", "pick-database")
    ]
    pressed = next((b.label for b in found.form.buttons if not b.disabled), "")
    way = " > ".join(dict.fromkeys([*filter(None, seen.trail.split(" > ")), heading]))
    where, what = unquote(urlsplit(seen.page.url).path), ", ".join(dict.fromkeys(parts))
    return f"“{way}” ({where}): " + (f"fill {what}, press {pressed}" if what else f"press {pressed}")
