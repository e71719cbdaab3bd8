"""What the lines mean together: how files will be brought there, and how well it can all be taken back."""

from __future__ import annotations

from highshelf.core.account import Account
from highshelf.core.survey.lines import Survey

HOW = "from the lines above"
SLOWLY = "only file by file, which takes long, or through a panel that unpacks"


def tell_placing(survey: Survey, account: Account) -> None:
    tools = survey.data("shell.tools") or []
    user = survey.data("php.user") or {}
    if "sha256sum" in tools and ("unzip" in tools or "tar" in tools):
        which = " or ".join(t for t in ("unzip", "tar") if t in tools)
        survey.say("placing", f"the archive goes up alone and is unpacked by the shell ({which})", HOW, data="shell")
    elif user.get("same") is False:
        survey.say(
            "placing",
            f"{SLOWLY}: PHP runs as another user, and what it unpacks would not be the login's to change",
            HOW, "heed", "files",
        )  # fmt: skip
    elif account.helper and survey.data("php.version"):
        unpacks = {"zip", "zlib"} & {str(e).lower() for e in survey.data("php.extensions") or []}
        if unpacks:
            survey.say("placing", "the archive goes up alone and PHP unpacks it through the helper", HOW, data="helper")
        else:
            text = f"{SLOWLY}: PHP there has neither the zip extension nor zlib; switch one on in the panel"
            survey.say("placing", text, HOW, "heed", "files")
    elif not account.helper:
        text = f"{SLOWLY}: the account has no shell and the helper is not allowed"
        survey.say("placing", text, HOW, "heed", "files")
    else:
        survey.say("placing", "not known: PHP did not answer there", HOW, "unknown")


def tell_undoing(survey: Survey) -> None:
    user = survey.data("php.user") or {}
    beside = survey.data("site.beside")
    if user.get("same") is False:
        text = (
            f"what the application makes belongs to {user.get('name') or user.get('id')}: the login may not change it, "
            "and removes it only from folders of its own"
        )
        survey.say("undoing", text, HOW, "heed", "partly")
    elif beside is False and survey.data("web.htaccess") in ("ignored", "limited"):
        text = "whole, but files wait inside the document root, where .htaccess cannot hide them"
        survey.say("undoing", text, HOW, "heed", "whole")
    elif user.get("same") is None:
        survey.say("undoing", "not known: who PHP runs as is not", HOW, "unknown")
    else:
        where = "beside" if beside else "inside"
        survey.say(
            "undoing",
            f"whole: all files are the login's own; what steps aside waits {where} the document root",
            HOW,
            data="whole",
        )
