"""An example for each command, told by its help, by the manual pages and by the reference. All from the demo's own estuary."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

import typer

EXAMPLES: Mapping[str, tuple[str, ...]] = {
    "plan": ("plan tidebook choir --at /diary", "plan moorings boats --at / --if-there merge --json"),
    "install": (
        "install tidebook choir --at /diary --set site.title='Tide diary'",
        "install tidebook choir --set admin.password=@word.txt --no-follow",
        "install quaystore ferry --at /shop --database none --jsonl",
    ),
    "watch": ("watch", "watch --jsonl"),
    "help": ("help job answer",),
    "health": ("health", "health --profile shed"),
    "serve": ("serve", "serve --public https://shelf.example --proxy 127.0.0.1"),
    "manual": ("manual ~/.local/share/man/man1", "manual reference.md --as markdown"),
    "account check": ("account check choir", "account check --all"),
    "account survey": ("account survey choir", "account survey --all choir"),
    "account locate": ("account locate choir /srv/choir/www/index.php",),
    "account make-root": ("account make-root choir",),
    "account helper-text": ("account helper-text choir",),
    "account add": (
        "account add choir --transfer sftp://choir@files.saltmarsh.example --root www --address https://choir.saltmarsh.example/",
        "account add yard --transfer ftps://yard@files.saltmarsh.example --address https://yard.saltmarsh.example/ --password-file -",
    ),
    "account letter": ("account letter welcome.eml", "account letter welcome.txt --keep choir"),
    "account change": ("account change choir --root htdocs", "account change choir --pace-kb 500"),
    "account list": ("account list", "account list --find museum --sort=-name", "account list | cut -f1"),
    "account show": ("account show choir",),
    "account remove": ("account remove choir",),
    "account import": ("account import accounts.csv", "account import accounts.csv --keep"),
    "site list": ("site list choir",),
    "site add": ("site add choir https://songs.choir.saltmarsh.example/ --root songs",),
    "site remove": ("site remove choir https://songs.choir.saltmarsh.example/",),
    "release check-in": ("release check-in tidebook-1.4.2.zip",),
    "release list": ("release list",),
    "release show": ("release show tidebook", "release show tidebook-1.4.2 --evidence"),
    "release join": ("release join moorings berthplan=modules/berthplan",),
    "release correct": (
        "release correct tidebook php=8.1 extensions=gd,mbstring",
        "release correct tidebook --as-read php",
    ),
    "release texts": ("release texts tidebook",),
    "release read": ("release read tidebook README.md",),
    "release compare": ("release compare tidebook-1.4.1 tidebook-1.4.2",),
    "release match": ("release match tidebook choir",),
    "release files": ("release files tidebook --find .sql",),
    "release remove": ("release remove tidebook-1.4.1",),
    "release fetch": ("release fetch https://releases.saltmarsh.example/tidebook-1.4.2.zip",),
    "release fetches": ("release fetches --unfinished",),
    "release fetch-show": ("release fetch-show 5b1c2d3e4f5a",),
    "release fetch-cancel": ("release fetch-cancel 5b1c2d3e4f5a",),
    "database list": ("database list choir", "database list choir --no-ask --json"),
    "database make": ("database make choir", "database make choir --name songs"),
    "database add": ("database add choir choir_songs --user choir_songs --password-file word.txt",),
    "database try": ("database try choir choir_songs",),
    "database import": (
        "database import choir choir_songs songs.sql.gz",
        "database import choir choir_songs --dump 5b1c2d3e4f5a",
    ),
    "database export": ("database export choir choir_songs", "database export choir choir_songs --to songs.sql.gz"),
    "database drop": ("database drop choir choir_songs --plan", "database drop choir choir_songs --yes"),
    "database forget": ("database forget choir choir_songs --yes",),
    "database reveal": ("database reveal choir choir_songs",),
    "dump list": ("dump list", "dump list --account choir"),
    "dump show": ("dump show 5b1c2d3e4f5a",),
    "dump bring": ("dump bring songs.sql.gz", "dump bring songs.sql.gz --json"),
    "dump fetch": ("dump fetch 5b1c2d3e4f5a --to songs.sql.gz",),
    "dump remove": ("dump remove 5b1c2d3e4f5a --yes",),
    "notice list": ("notice list",),
    "notice webhook": (
        "notice webhook https://chat.saltmarsh.example/in",
        "notice webhook https://chat.saltmarsh.example/in --what question --account choir",
    ),
    "notice mail": (
        "notice mail keeper@saltmarsh.example --server mail.saltmarsh.example --sender shelf@saltmarsh.example --login shelf",
    ),
    "notice change": (
        "notice change 5b1c2d3e4f5a --what question --what failed",
        "notice change 5b1c2d3e4f5a --silent",
    ),
    "notice try": ("notice try 5b1c2d3e4f5a",),
    "notice remove": ("notice remove 5b1c2d3e4f5a --yes",),
    "notice sent": ("notice sent", "notice sent --find given-up"),
    "licence add": ("licence add moorings boats --key-file key.txt",),
    "licence list": ("licence list --account boats",),
    "licence change": ("licence change 5b1c2d3e4f5a --free",),
    "licence reveal": ("licence reveal 5b1c2d3e4f5a",),
    "licence remove": ("licence remove 5b1c2d3e4f5a",),
    "primer list": ("primer list",),
    "primer show": ("primer show panel-saltmarsh",),
    "primer check": ("primer check panel-quay.yaml",),
    "primer try": ("primer try choir", "primer try choir --file panel-quay.yaml"),
    "job list": ("job list --state waiting", "job list --account choir --sort=-started"),
    "job show": ("job show 5b1c2d3e4f5a",),
    "job follow": ("job follow 5b1c2d3e4f5a", "job follow 5b1c2d3e4f5a --jsonl"),
    "job answer": ("job answer 5b1c2d3e4f5a Boats", "job answer 5b1c2d3e4f5a @word.txt"),
    "job cancel": ("job cancel 5b1c2d3e4f5a", "job cancel 5b1c2d3e4f5a --yes"),
    "job pause": ("job pause 5b1c2d3e4f5a",),
    "job resume": ("job resume 5b1c2d3e4f5a",),
    "job pages": (
        "job pages 5b1c2d3e4f5a",
        "job pages 5b1c2d3e4f5a --page 3",
        "job pages 5b1c2d3e4f5a --zip pages.zip",
    ),
    "job replay": ("job replay pages.zip", "job replay pages.zip --json"),
    "installation list": ("installation list", "installation list --wrong"),
    "installation show": ("installation show 6807bc6b972f",),
    "installation settings": ("installation settings 6807bc6b972f",),
    "installation change": ("installation change 6807bc6b972f debug=false", "installation change 6807bc6b972f --undo"),
    "installation undo": ("installation undo 6807bc6b972f --plan", "installation undo 6807bc6b972f --keep --yes"),
    "installation restore": ("installation restore 6807bc6b972f --plan", "installation restore 6807bc6b972f --yes"),
    "installation recheck": ("installation recheck 6807bc6b972f",),
    "installation schedule": ("installation schedule 6807bc6b972f --hours 24",),
    "installation remove": ("installation remove 6807bc6b972f --plan",),
    "installation forget": ("installation forget 6807bc6b972f",),
    "installation inspect": ("installation inspect 6807bc6b972f --read",),
    "installation reveal": (
        "installation reveal 6807bc6b972f application",
        "installation reveal 6807bc6b972f --yes --json",
    ),
    "installation reveals": ("installation reveals 6807bc6b972f",),
    "installation sheet": (
        "installation sheet 6807bc6b972f",
        "installation sheet 6807bc6b972f --as markdown --customer",
        "installation sheet 6807bc6b972f --as pdf --reveal --seal-for customer.asc",
    ),
    "value list": ("value list",),
    "profile add": ("profile add shed https://shelf.example shed.token --use",),
    "profile list": ("profile list",),
    "profile use": ("profile use shed", "profile use none"),
    "profile remove": ("profile remove shed",),
    "operator list": ("operator list",),
    "operator invite": ("operator invite mara",),
    "operator remove": ("operator remove mara",),
    "session list": ("session list --operator mara",),
    "session end": ("session end 5b1c2d3e4f5a",),
    "record list": ("record list --about mara",),
    "strongbox verify": ("strongbox verify",),
    "practice start": ("practice start",),
    "practice stop": ("practice stop",),
    "practice status": ("practice status",),
    "practice release": ("practice release tidebook.zip",),
}


def add_to(app: typer.Typer) -> None:
    """Let the help of each command that is still there end with its examples."""
    for path, command in _commands(app, ()):
        if said := EXAMPLES.get(path):
            # Click folds paragraphs; one that begins so is left as it is.
            command.epilog = "\b\nExamples:\n" + "\n".join(f"  highshelf {line}" for line in said)


def _commands(app: typer.Typer, above: tuple[str, ...]) -> Iterator[tuple[str, Any]]:
    for command in app.registered_commands:
        name = command.name or getattr(command.callback, "__name__", "").replace("_", "-")
        yield " ".join([*above, name]), command
    for group in app.registered_groups:
        if group.typer_instance is not None:
            yield from _commands(group.typer_instance, (*above, str(group.name)))
