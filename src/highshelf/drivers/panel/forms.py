"""Panel that a primer describes: by its HTML forms, by calls, or by both.

Rules:
1. What the panel says no to becomes a PanelError with the panel's own words.
2. Every task signs in first; one that the panel no longer knows signs in once more, and does again only what was refused for that.
3. A form is found by the fields the primer names, never by position.
4. What was made counts once a list that is asked for anew shows it.
"""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import BinaryIO, Literal
from urllib.parse import quote, unquote, urljoin, urlsplit

from highshelf.core.errors import FetchError, InputError, PanelError
from highshelf.core.pages.forms import filled, find_form, is_called
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.ports import CancelToken, Fetch, FileField, Made, Progress
from highshelf.core.primers.filling import filled_in
from highshelf.core.primers.models import PanelPrimer, PanelStep
from highshelf.drivers.panel.calls import Calls

# Seconds after which a list is asked for again that does not show what was just made.
LATE = (1.0, 3.0, 6.0)


@dataclass(frozen=True)
class Sending:
    """The file that a task brings, and whom to tell how far it is."""

    file: FileField
    progress: Progress | None
    cancel: CancelToken | None


class FormPanel:
    """One customer's panel.

    Args:
        fetch: a conversation whose origins are the panel's alone.
        address: the panel's address, ending in `/`.
        login, password: what the panel asks for at its door.
        rest: how waiting is done.
    """

    def __init__(
        self,
        fetch: Fetch,
        primer: PanelPrimer,
        address: str,
        login: str,
        password: str,
        rest: Callable[[float], None] = time.sleep,
    ) -> None:
        self._fetch = fetch
        self._calls = Calls(fetch, primer, address, self._sign_in, rest)
        self._rest = rest
        # What the sign-in gave, for the headers and steps of every task.
        self._handed: dict[str, str] = {}
        self._primer = primer
        self._address = address
        self._door = {"panel.login": login, "panel.password": password}
        self._inside = False
        self._refused: PanelError | None = None

    def databases(self) -> list[str]:
        return self._task("databases", {})

    def users(self) -> list[str]:
        """None where the panel keeps each database's user with it."""
        return self._task("users", {}) if "users" in self._primer.tasks or not self._primer.makes_user_too else []

    def create_database(self, name: str, user: str = "", password: str = "") -> Made:
        values = {"database.name": name, "database.whole": self.full_name(name, "database")}
        values |= {"database.user": user, "user.whole": self.full_name(user, "user"), "database.password": password}
        self._task("create-database", values)
        whole = self._really_there("database", values.get("made.database", values["database.whole"]), self.databases)
        together = values.get("made.user", "")
        chosen = values.get("made.password", password if together else "")
        return Made(whole, together, chosen, values.get("made.server", ""))

    def create_user(self, name: str, password: str, database: str = "") -> str:
        values = {"database.user": name, "user.whole": self.full_name(name, "user"), "database.password": password}
        values["database.whole"] = database
        self._task("create-user", values)
        return self._really_there("database user", values.get("made.user", values["user.whole"]), self.users)

    def moves(self) -> list[str]:
        return []

    @property
    def tells_password(self) -> bool:
        return self._primer.tells_password

    def standing(self, name: str, what: Literal["database", "user"]) -> str:
        whole = self.full_name(name, what)
        if (task := f"find-{what}") in self._primer.tasks:
            label = {"database.name" if what == "database" else "database.user": name, f"{what}.whole": whole}
            return next(iter(self._task(task, label)), "")
        return whole if whole in (self.databases() if what == "database" else self.users()) else ""

    def attach(self, database: str, user: str) -> None:
        self._task("attach", {"database.whole": database, "user.whole": user})

    def drop_database(self, database: str) -> None:
        self._task("drop-database", {"database.whole": database})

    def drop_user(self, user: str) -> None:
        self._task("drop-user", {"user.whole": user})

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
        """Bring a file into a folder, as the transfer login sees it. Raises PanelError, FetchError, CancelledError."""
        file = FileField("", name, content, size_bytes)
        self._task("upload", _file_values(folder, name), Sending(file, progress, cancel))

    def unpack(self, folder: str, name: str) -> None:
        self._task("unpack", _file_values(folder, name))

    def sites(self) -> list[str]:
        """Names of the websites beside the first. Raises PanelError when the primer does not know how."""
        return self._task("sites", {})

    def create_site(self, name: str, folder: str) -> None:
        """Make a website of a name such as `shop.boats.saltmarsh.example`, with a folder as the panel names it."""
        label, _, domain = name.partition(".")
        values = {"site.name": name, "site.label": label, "site.domain": domain, "site.folder": folder}
        self._task("create-site", values)
        self._really_there("website", name, self.sites)

    def extensions(self) -> dict[str, bool]:
        """Extensions of PHP that a customer may switch, and whether they are on. Raises PanelError: the primer does not say how."""
        on = self._task("extensions-on", {})
        return {name: name in on for name in self._task("extensions", {})}

    def switch(self, extension: str, *, on: bool) -> None:
        """Switch an extension, named as the panel names it, and look whether it is. Raises PanelError."""
        self._task("switch-on" if on else "switch-off", {"php.extension": extension})
        if (extension in self._task("extensions-on", {})) is not on:
            raise PanelError(
                f"the panel did not complain, but shows the extension {extension} as {'off' if on else 'on'}",
                hint="look at the panel by hand; has it changed?",
            )

    def full_name(self, name: str, what: Literal["database", "user"]) -> str:
        rule = self._primer.database_name if what == "database" else self._primer.user_name
        return rule.pattern.replace("{name}", name).replace("{customer}", self._door["panel.login"])

    def longest(self, what: Literal["database", "user"]) -> int:
        """Characters left for the name itself."""
        rule = self._primer.database_name if what == "database" else self._primer.user_name
        return rule.longest - (len(self.full_name("", what)))

    def _really_there(self, what: str, whole: str, look: Callable[[], list[str]]) -> str:
        listed = look()
        for wait in LATE:
            if whole in listed:
                break
            self._rest(wait)
            listed = look()
        if whole not in listed:
            others = f"; it lists {', '.join(listed[:4])}" if listed else ""
            raise PanelError(
                f"the panel did not complain, but lists no {what} {whole}{others}",
                hint="look at the panel by hand; has it changed?",
            )
        return whole

    def _task(self, task: str, values: dict[str, str], sending: Sending | None = None) -> list[str]:
        """Do a task; what its calls take is put to `values`. Raises PanelError, FetchError."""
        steps = self._primer.tasks.get(task)
        if steps is None:
            hint = "make it by hand in the panel, or add the task to the primer"
            raise PanelError(f"the primer {self._primer.name} does not say how ({task})", hint=hint)
        if not self._inside:
            self._sign_in()
        values.update({**self._door, **self._handed, **values})
        page: Page | None = None
        for step in steps:
            if step.call is not None:
                names, taken = self._calls.perform(step, {**values, **self._handed}, task)
                values.update(taken)
                if step.listed is not None:
                    return names
            elif step.open is not None:
                page = self._look(step.open, values)
            elif step.names is not None:
                return _names(self._need(page, task), step.names)
            elif step.boxes is not None:
                return _boxes(self._need(page, task), step.boxes, every=step.all)
            elif step.expect is not None:
                self._expect(self._need(page, task), step.expect, values, task)
            else:
                page = self._send(self._need(page, task), step, values, task, sending)
        return []

    def _sign_in(self) -> Mapping[str, str]:
        """What the panel hands out at its door. Raises PanelError: it is refused. A login that was refused is not tried again."""
        if self._refused is not None:
            raise self._refused
        values = dict(self._door)
        self._inside, self._handed = True, {}
        try:
            if "sign-in" in self._primer.tasks:
                self._task("sign-in", values)
        except PanelError as fault:
            self._inside, self._refused = False, None if fault.context.get("unsure") else fault
            raise
        except FetchError:
            self._inside = False
            raise
        self._handed = {name: text for name, text in values.items() if name not in self._door}
        return self._handed

    def _look(self, path: str, values: Mapping[str, str]) -> Page:
        # A folder's name may have in it what means something else in an address.
        quoted = {name: quote(text) for name, text in values.items()}
        return read(self._fetch.get(urljoin(self._address, filled_in(path, quoted).lstrip("/"))))

    def _need(self, page: Page | None, task: str) -> Page:
        if page is None:
            raise PanelError(f"the primer {self._primer.name} opens no page in its task {task}", hint="mend the primer")
        return page

    def _expect(self, page: Page, path: str, values: Mapping[str, str], task: str) -> None:
        wanted = urlsplit(urljoin(self._address, filled_in(path, values).lstrip("/"))).path
        if unquote(urlsplit(page.url).path) == unquote(wanted) and page.status < 400:
            return
        said = "; ".join(page.complaints()[:2])
        raise PanelError(
            f"the panel refuses ({task}): {said}"
            if said
            else f"the panel led to {urlsplit(page.url).path} instead of {wanted} ({task})",
            hint="check customer number and panel password"
            if task == "sign-in"
            else "see to it in the panel, then run the job again",
            task=task,
        )

    def _send(self, page: Page, step: PanelStep, values: Mapping[str, str], task: str, sending: Sending | None) -> Page:
        named = [*(step.fill or {}), *([step.attach] if step.attach else [])]
        form, button = find_form(page, named, filled_in(step.press, values) if step.press else None)
        if form is None:
            said = "; ".join(page.complaints()[:2])
            raise PanelError(
                f"the panel's page {urlsplit(page.url).path} has no form as the primer describes it ({task})"
                + (f": {said}" if said else ""),
                hint="has the panel changed? mend the primer",
                task=task,
            )
        texts = {label: filled_in(text, values) for label, text in (step.fill or {}).items()}
        only = [filled_in(text, values) for text in step.only]
        try:
            fields = filled(form, button, texts, tick=step.tick, untick=step.untick, only=only)
        except InputError as fault:
            raise PanelError(f"the panel refuses ({task}): {fault.message}", hint=fault.hint, task=task) from None
        if step.attach and sending is not None:
            field = next(f.name for f in form.fields if is_called(f, step.attach))
            file = replace(sending.file, field=field)
            shown = self._fetch.send_file(form.action, fields, file, progress=sending.progress, cancel=sending.cancel)
            return read(shown)
        return read(self._fetch.post(form.action, fields, multipart=form.multipart))


def _file_values(folder: str, name: str) -> dict[str, str]:
    return {"file.folder": folder.strip("/"), "file.name": name}


def _boxes(page: Page, called: str, *, every: bool) -> list[str]:
    """Values of the boxes of this name or label: those that are ticked, or every one."""
    boxes = [f for form in page.forms for f in form.fields if f.kind == "checkbox" and is_called(f, called)]
    return list(dict.fromkeys(box.value for box in boxes if every or box.checked))


def _names(page: Page, pattern: str) -> list[str]:
    """The names in addresses of links and forms that fit the pattern."""
    shape = re.compile("^" + re.escape(pattern).replace(r"\{name\}", "([^/]+)") + "$")
    paths = [urlsplit(link.url).path for link in page.links] + [urlsplit(f.action).path for f in page.forms]
    found = [unquote(m[1]) for p in paths if (m := shape.match(p)) and m[1] != "new"]
    return list(dict.fromkeys(found))
