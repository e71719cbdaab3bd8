"""The models of both kinds of primer."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class NameRule(Strict):
    """How a panel makes a whole name: `pattern` has {name} and {customer}; `longest` counts the whole name."""

    pattern: str = "{name}"
    longest: int = Field(32, ge=4, le=128)


class PanelStep(Strict):
    """One step of a task; exactly one of `open`, `fill`, `attach`, `expect`, `names`, `boxes`, `call` is its kind.

    open: address below the panel's, with {values}.
    fill: label or name of a field -> text with {values}; `press` is the label of the button.
    tick: every box of this name or label in the form is ticked, or those listed in `only`.
    attach: label or name of the field that takes the task's file; `press` as with `fill`, and `fill` may stand beside it.
    expect: address the panel must have led to, with {values}.
    names: link pattern such as /databases/{name}; the names found are the task's result.
    boxes: label or name of boxes; the values of those that are ticked are the task's result, of all of them with `all: true`.
    untick: as `tick`, the other way round.
    call: method and address below the panel's, with {values}; what it answers is JSON. Beside it:
        json or form: what is sent, with {values}.
        take: name of a value -> where it stands in the answer, for later steps; what `sign-in` takes is there in every task.
        listed: where the names stand that are the task's result.
        until, fails: where -> the words one of which must stand there before the task goes on, or ends it. The call (which
            must be a GET) is made again meanwhile, for at most `patience_seconds`.
    A place in an answer is keys with dots between them; `[]` is every entry of a list, `[2]` the third, `[label=x]` those whose label is x.
    """

    open: str | None = None
    fill: dict[str, str] | None = None
    press: str | None = None
    tick: str | None = None
    only: list[str] = []
    attach: str | None = None
    expect: str | None = None
    names: str | None = None
    boxes: str | None = None
    all: bool = False
    untick: str | None = None
    call: str | None = Field(None, pattern=r"^(GET|POST|PUT|PATCH|DELETE) [^ ]+$")
    # Named as in the file; `json` itself is a name of the model's own.
    body: Any = Field(None, alias="json")
    form: dict[str, str] | None = None
    take: dict[str, str] = {}
    listed: str | None = None
    until: dict[str, list[str]] = {}
    fails: dict[str, list[str]] = {}
    patience_seconds: float = Field(120.0, gt=0, le=1800)


class PanelPrimer(Strict):
    """A control panel: how to recognise it, how it names things, and its conversations.

    headers: sent with every call, with {values}; one that needs a value that is not there yet is left out. `{panel.basic}` is login
        and password as RFC 7617 wants them.
    """

    kind: str = Field(pattern="^panel$")
    name: str
    title: str
    recognise: list[str]
    database_host: str = "localhost"
    database_name: NameRule = NameRule()
    user_name: NameRule = NameRule()
    php_scope: Literal["account", "site", "folder"] = "account"
    headers: dict[str, str] = {}
    tasks: dict[str, list[PanelStep]]

    @property
    def switches(self) -> bool:
        """Whether the panel switches extensions of PHP, and its primer says how to see it."""
        return {"extensions", "extensions-on", "switch-on", "switch-off"} <= set(self.tasks)

    @property
    def makes_user_too(self) -> bool:
        """Whether its databases come with a user of their own."""
        return any("made.user" in step.take for step in self.tasks.get("create-database", []))

    @property
    def tells_password(self) -> bool:
        """Whether the panel chooses the password, and tells it when it makes the user."""
        return any("made.password" in step.take for step in self.tasks.get("create-database", []))

    @property
    def unpacks(self) -> bool:
        """Whether the panel takes an archive and unpacks it."""
        return "upload" in self.tasks and "unpack" in self.tasks


READ = "read"
BY_READING = PanelPrimer(kind="panel", name=READ, title="a panel that is read page by page", recognise=[], tasks={})
"""What stands for a primer where a panel is read instead: no file has this name."""


def is_read(primer: str, kind: str) -> bool:
    """Whether a panel's pages are read for a database of this kind: no primer is used, or none says how PostgreSQL is made."""
    return primer == READ or kind == "postgresql"


class LoginChange(Strict):
    """One request of turning a published login into the job's own, after signing in with the published one.

    open: address below the installation's; a GET, or a POST of `post`.
    take: name -> regular expression whose first group is kept under the name for later steps.
    post: field -> text with {names}: `admin.name`, `old.password`, `new.password`, and what was taken.
    fill, press: instead of `post`, the form on the opened page with these fields and this button.
    expect: words that must stand in the answer.
    """

    open: str
    take: dict[str, str] = {}
    post: dict[str, str] | None = None
    fill: dict[str, str] | None = None
    press: str | None = None
    expect: str | None = None


class Packages(Strict):
    """What the package manager of PHP projects (composer) brings on the host, since the release does not.

    at_least: its version.
    scripts: whether scripts and plugins of the packages may run, with the customer's rights.
    """

    at_least: str = Field("2.0", pattern=r"^\d+(\.\d+){0,2}$")
    scripts: bool = False


class ApplicationPrimer(Strict):
    """What an application's archive and pages do not say themselves. Everything but the first three is optional.

    recognise: paths in the release, all of which must be there; `*` stands for any part of a name.
    """

    kind: str = Field(pattern="^application$")
    name: str
    recognise: list[str]
    database: str | None = Field(None, pattern="^(none|mariadb|postgresql)$")
    installer: str | None = None
    presses: list[str] = []
    login_address: str | None = None
    configuration: list[str] = []
    remove: list[str] = []
    executables: list[str] = []
    packages: Packages | None = None
    change_login: list[LoginChange] = []


# Beside these a panel may have `sites` (the names of its websites) and `create-site` (with {site.name}, {site.label},
# the part before the first dot, {site.domain}, the rest, and {site.folder}); `upload` (a file into {file.folder}, as the transfer
# login sees it, without a slash before it) and `unpack` ({file.name} in {file.folder}, into that folder); `extensions` (those of PHP
# that a customer may switch), `extensions-on` (those that are on), `switch-on` and `switch-off` ({php.extension}).
# `find-database` and `find-user` give the whole name of what was made as {database.name} or {database.user}, where the panel chooses it.
# What `create-database` takes as `made.database`, `made.user`, `made.password` and `made.server` is what the panel made.
TASKS = ("sign-in", "databases", "users", "create-database", "create-user", "attach", "drop-database", "drop-user")
# Where the database comes with its user, nobody makes one, and it goes with its database.
WITH_USER = ("users", "create-user", "attach", "drop-user")
