"""What the API's own document says beyond types: a sentence for each operation and parameter, an example for each body. All of it made up."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

SHA, JOB, PLAN, NUMBER = "b0c6f1d2a94e7738", "5b1c2d3e4f5a", "1df5ea819062", "6807bc6b972f"
ADDRESS = "https://choir.saltmarsh.example/"

# Operations whose route says all there is to say to whoever reads its code.
OPERATIONS: Mapping[str, str] = {
    "health": "Whether the service answers, its version, how many jobs are open, and why nothing can be changed, if so.",
    "account_list": "The accounts, a part of them at a time.",
    "account_show": "One account, without its secrets.",
    "release_list": "The releases on the shelf, a part of them at a time.",
    "release_fetches": "What was and is fetched from makers' addresses.",
    "release_fetch_show": "One fetch: how far it is, or how it ended.",
    "dump_show": "One dump: where it is from, for which server, how large.",
    "plan_show": "A plan that was made, as it was made.",
    "job_list": "The jobs, the newest first, a part of them at a time.",
    "job_show": "One job: its legs, its acts, its question, how it ended.",
    "installation_list": "The installations, the newest first, a part of them at a time.",
    "installation_show": "One installation, without its secrets.",
    "operator_list": "Who may sign in to the console.",
}

# By the name, or by operation and name where one name is for two things.
PARAMETERS: Mapping[str, str] = {
    "name": "the account's short name",
    "primer_show.name": "the primer's name",
    "operator_remove.name": "the operator's name",
    "id": "an earlier survey; the last one when left out",
    "site_remove.address": "the site's address",
    "ref": "a release: SHA-256 or its start, name, or name-version",
    "other": "the release that it is compared with, named in the same ways",
    "release_compare.shown": "how many paths of each kind are listed at the most",
    "release_read.path": "a text of the release; the readme when left out",
    "account": "an account's short name; all when left out",
    "release_match.account": "the account's short name",
    "file_name": "what the archive is called where it comes from: name and version are read out of it",
    "fetch_id": "the fetch's id",
    "job_id": "the job's id",
    "plan_id": "the plan's id",
    "number": "the installation's id",
    "database_list.account": "the account's short name",
    "database_make.account": "the account's short name",
    "database_add.account": "the account's short name",
    "database_try.account": "the account's short name",
    "database_import.account": "the account's short name",
    "database_export.account": "the account's short name",
    "database_drop.account": "the account's short name",
    "database_forget.account": "the account's short name",
    "database_reveal.account": "the account's short name",
    "database_try.name": "the database: its whole name, or its number in the books",
    "database_import.name": "the database: its whole name, or its number in the books",
    "database_export.name": "the database: its whole name, or its number in the books",
    "database_drop.name": "the database: its whole name, or its number in the books",
    "database_forget.name": "the database: its whole name, or its number in the books",
    "database_reveal.name": "the database: its whole name, or its number in the books",
    "dump_show.number": "the dump's number",
    "dump_fetch.number": "the dump's number",
    "dump_remove.number": "the dump's number",
    "dump_bring.file_name": "what the dump is called, for people",
    "notice_change.number": "the place's number",
    "notice_try.number": "the place's number",
    "notice_remove.number": "the place's number",
    "notice_sent.place": "only those of this place",
    "licence_change.number": "the licence key's id",
    "licence_remove.number": "the licence key's id",
    "licence_reveal.number": "the licence key's id",
    "session_end.number": "the session's id",
    "job_page.number": "which of the job's pages, counted from 0",
    "job_picture.number": "which of the job's pages, counted from 0",
    "after": "only events with a higher id",
    "limit": "how many at the most",
    "Last-Event-ID": "the last event that was heard: the stream goes on behind it",
}

BODIES: Mapping[str, dict[str, Any]] = {
    "account_import": {
        "text": "name,transfer,root,address\nchoir,sftp://choir@files.saltmarsh.example,www," + ADDRESS,
        "keep": False,
    },
    "account_add": {
        "name": "choir",
        "title": "Saltings Choir",
        "transfer": "sftp://choir@files.saltmarsh.example:22",
        "password": "a-made-up-Word-1",
        "root": "www",
        "address": ADDRESS,
        "panel": "https://panel.saltmarsh.example/",
        "panel_password": "a-made-up-Word-2",
        "email": "office@choir.saltmarsh.example",
    },
    "account_letter": {
        "text": "Your site: choir.saltmarsh.example\nSFTP server: files.saltmarsh.example\nLogin: choir\n"
    },
    "account_change": {"root": "htdocs", "pace_kb": 500},
    "account_check": {"wait_seconds": 60},
    "site_add": {"address": "https://songs.choir.saltmarsh.example/", "root": "songs"},
    "account_make_root": {"root": "www"},
    "account_locate": {"what": "/srv/choir/www/index.php"},
    "release_join": {
        "parts": [{"release": SHA, "folder": ""}, {"release": "berthplan-2.0", "folder": "modules/berthplan"}]
    },
    "release_correct": {"values": {"php": "8.1", "extensions": "gd, mbstring"}},
    "release_fetch": {"address": "https://releases.saltmarsh.example/tidebook-1.4.2.zip", "wait_seconds": 60},
    "database_make": {"kind": "mariadb", "name": "songs"},
    "database_add": {"name": "choir_songs", "user": "choir_songs", "password": "made-up-for-this", "host": "localhost"},
    "database_import": {"dump": NUMBER},
    "notice_webhook": {"address": "https://chat.saltmarsh.example/in", "what": ["question", "failed"]},
    "notice_mail": {
        "to": "keeper@saltmarsh.example",
        "sender": "shelf@saltmarsh.example",
        "host": "mail.saltmarsh.example",
        "port": 587,
        "security": "starttls",
    },
    "notice_change": {"silent": True},
    "licence_add": {"release": "moorings", "account": "boats", "key": "MOOR-0000-0000-0000"},
    "licence_change": {"free": True},
    "primer_check": {"text": "kind: application\nname: tidebook\n"},
    "primer_try": {"account": "choir"},
    "plan_make": {
        "account": "choir",
        "release": "tidebook-1.4.2",
        "at": "/diary",
        "settings": {"site.title": "Tide diary"},
    },
    "plan_preview": {"account": "choir", "release": "tidebook-1.4.2", "at": "/diary"},
    "job_start": {"plan": PLAN},
    "job_answer": {"question": "q-1", "answer": "Tide diary"},
    "installation_inspect": {"read": False, "shown": 60},
    "installation_change": {"values": {"debug": "false"}},
    "installation_undo": {"changed_too": False, "keep": False},
    "installation_schedule": {"hours": 24},
    "installation_reveal": {"credential": "application"},
    "installation_sheet": {"form": "html", "customer": True},
    "sign_in": {"name": "mara", "password": "heron tide plank seven"},
    "invited": {"code": "the-word-behind-the-link"},
    "accept": {"code": "the-word-behind-the-link", "name": "mara", "password": "heron tide plank seven"},
    "operator_invite": {"name": "tomas"},
}

KEY = {
    "name": "Idempotency-Key",
    "in": "header",
    "required": False,
    "schema": {"type": "string", "minLength": 1, "maxLength": 128, "pattern": r"^[\x21-\x7e]+$"},
    "description": "any text of one's own for this one thing: sent again within a day, the first answer comes again, and nothing is done twice",
    "example": "5f0c2f0e-6a51-4f0b-9a3e-2f6f0d0c9a11",
}


def describe(document: dict[str, Any]) -> None:
    """Put the words into an OpenAPI document, in its place."""
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            name = operation["operationId"]
            operation.setdefault("description", OPERATIONS.get(name, ""))
            parameters = operation.get("parameters", [])
            for one in parameters:
                said = PARAMETERS.get(f"{name}.{one['name']}") or PARAMETERS.get(one["name"], "")
                one.setdefault("description", said)
            if name in BODIES:
                operation["requestBody"]["content"]["application/json"]["example"] = BODIES[name]
            # Whoever is not signed in yet has nobody to keep an answer for.
            if method == "post" and "/session" not in path and KEY not in parameters:
                operation["parameters"] = [*parameters, KEY]
