"""Panel over HTML forms.

Rules:
1. What the panel says no to becomes a PanelError with the panel's own words.
2. Every task signs in first when the panel shows its door.
3. A form is found by the fields the primer names, never by position.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import BinaryIO, Literal
from urllib.parse import quote, unquote, urljoin, urlsplit

from highshelf.core.errors import InputError, PanelError
from highshelf.core.pages.forms import filled, find_form, is_called
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.ports import CancelToken, Fetch, FileField, Made, Progress
from highshelf.core.primers.models import PanelPrimer, PanelStep


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
    """

    def __init__(self, fetch: Fetch, primer: PanelPrimer, address: str, login: str, password: str) -> None:
        self._fetch = fetch
        self._primer = primer
        self._address = address
        self._door = {"panel.login": login, "panel.password": password}
        self._inside = False

    def databases(self) -> list[str]:
        return self._task("databases", {})

    def users(self) -> list[str]:
        return self._task("users", {})

    def create_database(self, name: str, user: str = "", password: str = "") -> Made:
        whole = self.full_name(name, "database")
        self._task("create-database", {"database.name": name, "database.whole": whole})
        return Made(self._really_there("database", whole, self.databases()))

    def create_user(self, name: str, password: str, database: str = "") -> str:
        whole = self.full_name(name, "user")
        self._task("create-user", {"database.user": name, "user.whole": whole, "database.password": password})
        return self._really_there("database user", whole, self.users())

    def moves(self) -> list[str]:
        return []

    def standing(self, name: str, what: Literal["database", "user"]) -> str:
        whole = self.full_name(name, what)
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
        self._really_there("website", name, self.sites())

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

    def _really_there(self, what: str, whole: str, listed: list[str]) -> str:
        if whole not in listed:
            others = f"; it lists {', '.join(listed[:4])}" if listed else ""
            raise PanelError(
                f"the panel did not complain, but lists no {what} {whole}{others}",
                hint="look at the panel by hand; has it changed?",
            )
        return whole

    def _task(self, task: str, values: Mapping[str, str], sending: Sending | None = None) -> list[str]:
        if task not in self._primer.tasks:
            hint = "make it by hand in the panel, or add the task to the primer"
            raise PanelError(f"the primer {self._primer.name} does not say how ({task})", hint=hint)
        if not self._inside and task != "sign-in":
            self._task("sign-in", self._door)
            self._inside = True
        values = {"panel.login": self._door["panel.login"], **values}
        page: Page | None = None
        for step in self._primer.tasks[task]:
            if step.open is not None:
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

    def _look(self, path: str, values: Mapping[str, str]) -> Page:
        # A folder's name may have in it what means something else in an address.
        quoted = {name: quote(text) for name, text in values.items()}
        return read(self._fetch.get(urljoin(self._address, _filled(path, quoted).lstrip("/"))))

    def _need(self, page: Page | None, task: str) -> Page:
        if page is None:
            raise PanelError(f"the primer {self._primer.name} opens no page in its task {task}", hint="mend the primer")
        return page

    def _expect(self, page: Page, path: str, values: Mapping[str, str], task: str) -> None:
        wanted = urlsplit(urljoin(self._address, _filled(path, values).lstrip("/"))).path
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
        form, button = find_form(page, named, _filled(step.press, values) if step.press else None)
        if form is None:
            said = "; ".join(page.complaints()[:2])
            raise PanelError(
                f"the panel's page {urlsplit(page.url).path} has no form as the primer describes it ({task})"
                + (f": {said}" if said else ""),
                hint="has the panel changed? mend the primer",
                task=task,
            )
        texts = {label: _filled(text, values) for label, text in (step.fill or {}).items()}
        only = [_filled(text, values) for text in step.only]
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


def _filled(text: str, values: Mapping[str, str]) -> str:
    def put(found: re.Match[str]) -> str:
        if found[1] not in values:
            raise PanelError(f"the primer asks for {found[0]}, which this task does not have", hint="mend the primer")
        return values[found[1]]

    return re.sub(r"\{([a-z.]+)\}", put, text)


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
