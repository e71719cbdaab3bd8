"""How the garden's installers end, and how they offer what they could not write."""

from __future__ import annotations

import json
from html import escape
from random import Random

from tests.garden.markup import Markup
from tests.garden.traits import Traits

FOLDER = "etc"
ENDS = {"php": "php", "snippet": "php", "ini": "ini", "env": "env", "json": "json", "yaml": "yml"}
ROOT = "/srv/customers/keeper/www/garden/"


def configuration_file(traits: Traits) -> str:
    return f"{FOLDER}/settings.{ENDS[traits.format]}"


def file_as_told(traits: Traits) -> str:
    """The file as the page calls it."""
    file = configuration_file(traits)
    return {"absolute": ROOT + file, "bare": file.rpartition("/")[2]}.get(traits.path, file)


def configuration(traits: Traits, app: str, database: str) -> str:
    match traits.format:
        case "snippet":
            return f"$app = '{app}';\n$database['name'] = '{database}';"
        case "ini":
            return f"[main]\napp = {app}\n\n[database]\nname = {database}\nhost = localhost\n"
        case "env":
            return f"APP_NAME={app}\nDB_NAME={database}\nDB_HOST=localhost\n"
        case "json":
            return json.dumps({"app": app, "database": {"name": database}}, indent=2)
        case "yaml":
            return f"app: {app}\ndatabase:\n  name: {database}\n  host: localhost\n"
        case _:
            return f"<?php\nreturn ['app' => '{app}', 'database' => '{database}'];\n"


def offered(traits: Traits, text: str, markup: Markup) -> str:
    match traits.configuration:
        case "textarea":
            return f"<textarea rows=8 cols=60 readonly>{escape(text)}</textarea>"
        case "frame":
            return '<iframe src="/setup/?settings=1"></iframe>'
        case "download":
            return f'<p><a href="/setup/?settings=1">{escape(markup.say("download"))}</a></p>'
        case _:
            return f"<pre>{escape(text)}</pre>"


def end_page(traits: Traits, app: str, title: str, markup: Markup, random: Random) -> str:
    """The last page."""
    say = markup.say
    done = f"<p class='success'>{say('done', app=app)}</p>"
    login = f"<a href='/login.php'>{say('sign_in')}</a>"
    match traits.ending:
        case "login":
            inside = (
                f"<form method=post action='/login.php'><label>{say('bare.user')} <input name=user></label>"
                f"<label>{say('bare.password')} <input type=password name=password></label><button>{say('sign_in')}</button></form>"
            )
            return f"<html><head><title>{app}</title></head><body><h1>{say('sign_in')}</h1>{inside}</body></html>"
        case "bare page":
            return f"<html><head><title>{title}</title></head><body>{done}</body></html>"
        case "site":
            return f"<html><head><title>{app}</title></head><body><h1>{app}</h1>{done}<a href='/'>{say('open')}</a></body></html>"
        case "no words":
            return f"<html><head><title>{app}</title></head><body><h1>{app}</h1><p>12</p>{login}</body></html>"
        case "already":
            return f"<html><head><title>{title}</title></head><body><p class='error'>{say('already', app=app)}</p></body></html>"
        case "dangerous":
            button = (
                f"<form method=post action='/tools.php'><button name=empty value=1>{say('delete_all')}</button></form>"
            )
            return f"<html><head><title>{title}</title></head><body>{done}{login}{button}</body></html>"
        case _:
            return f"<html><head><title>{title}</title></head><body><h1>{title}</h1>{done}{login}</body></html>"
