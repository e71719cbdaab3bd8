"""The panel's pages. All text that comes from outside is escaped here, by Jinja."""

from __future__ import annotations

from jinja2 import DictLoader, Environment, select_autoescape

BASE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{{ heading }} · {{ title }}</title>
<style>
body { font: 16px/1.5 "DejaVu Sans", sans-serif; margin: 0; color: #20302c; background: #f3f1ea }
header { background: #20463c; color: #f3f1ea; padding: .8rem 2rem; display: flex; gap: 2rem; align-items: baseline }
header a { color: #cfe3d2 } main { max-width: 44rem; margin: 1.5rem 2rem }
table { border-collapse: collapse } td, th { text-align: left; padding: .3rem 1.2rem .3rem 0; border-bottom: 1px solid #cdc8b8 }
label { display: block; margin: .7rem 0 .15rem } label.tick { display: inline-block; width: 15rem; margin: .1rem 0 }
.refusal { background: #f6dcc9; padding: .6rem 1rem } .done { background: #d9ead9; padding: .6rem 1rem }
</style></head><body>
<header><strong>{{ title }}</strong>{% if customer %}
<a href="/overview">Overview</a> <a href="/databases">Databases</a> <a href="/database-users">Database users</a> <a href="/websites">Websites</a>
<a href="/files">Files</a> <a href="/postgresql">PostgreSQL</a> <a href="/php">PHP</a>
<form method="post" action="/leave"><input type="hidden" name="proof" value="{{ proof }}"><button>Leave</button></form>
{% endif %}</header>
<main><h1>{{ heading }}</h1>
{% if refusal %}<p class="refusal" role="alert">{{ refusal }}</p>{% endif %}
{% if done %}<p class="done" role="status">{{ done }}</p>{% endif %}
{% block body %}{% endblock %}</main></body></html>"""

TOKEN = '<input type="hidden" name="proof" value="{{ proof }}">'

PAGES = {
    "base": BASE,
    "door": """{% extends "base" %}{% block body %}<form method="post" action="/">"""
    + TOKEN
    + """
<label for="n">Customer number</label><input id="n" name="number" autocomplete="username">
<label for="p">Password</label><input id="p" type="password" name="secret" autocomplete="current-password">
<p><button>Come in</button></p></form>{% endblock %}""",
    "overview": """{% extends "base" %}{% block body %}<p>{{ customer.title }}, customer number {{ number }}.</p>
<table><tr><th>File transfer login</th><td>{{ customer.login }}</td></tr>
<tr><th>Database server</th><td>localhost</td></tr>
<tr><th>Databases in use</th><td>{{ used }} of {{ limit }}</td></tr></table>{% endblock %}""",
    "databases": """{% extends "base" %}{% block body %}
{% if rows %}<table><tr><th>Name</th><th>Users</th></tr>
{% for name, users in rows %}<tr><td><a href="/databases/{{ name }}">{{ name }}</a></td><td>{{ users|join(", ") }}</td></tr>{% endfor %}
</table>{% else %}<p>You have no database yet.</p>{% endif %}
<p><a href="/databases/new">New database</a></p>{% endblock %}""",
    "new-database": """{% extends "base" %}{% block body %}<form method="post" action="/databases/new">"""
    + TOKEN
    + """
<label for="d">Name of the database</label><input id="d" name="label" value="{{ label }}"> -{{ number }}
<label for="c">Collation</label><select id="c" name="collation">{% for c in collations %}<option>{{ c }}</option>{% endfor %}</select>
<p><button>Create the database</button></p></form>{% endblock %}""",
    "database": """{% extends "base" %}{% block body %}
<h2>Attached users</h2>{% if attached %}<table><tr><th>User</th><th>Privileges</th></tr>
{% for user, privileges in attached.items() %}<tr><td>{{ user }}</td><td>{{ privileges|join(", ") }}</td></tr>{% endfor %}</table>
{% else %}<p>Nobody may use this database yet.</p>{% endif %}
<h2>Attach a user</h2>
{% if users %}<form method="post" action="/databases/{{ name }}/attach">"""
    + TOKEN
    + """
<label for="u">Database user</label><select id="u" name="who">{% for u in users %}<option>{{ u }}</option>{% endfor %}</select>
<fieldset><legend>Privileges</legend>{% for p in privileges %}
<label class="tick"><input type="checkbox" name="may" value="{{ p }}"> {{ p }}</label>{% endfor %}</fieldset>
<p><button>Attach</button></p></form>{% else %}<p>Create a database user first.</p>{% endif %}
<h2>Give up</h2><form method="post" action="/databases/{{ name }}/drop">"""
    + TOKEN
    + """
<label class="tick"><input type="checkbox" name="sure" value="yes"> I am sure</label>
<button>Delete this database</button></form>{% endblock %}""",
    "users": """{% extends "base" %}{% block body %}
{% if users %}<table><tr><th>Name</th><th></th></tr>{% for u in users %}<tr><td>{{ u }}</td><td>
<form method="post" action="/database-users/{{ u }}/drop">"""
    + TOKEN
    + """<button>Delete {{ u }}</button></form></td></tr>{% endfor %}
</table>{% else %}<p>You have no database user yet.</p>{% endif %}
<p><a href="/database-users/new">New database user</a></p>{% endblock %}""",
    "websites": """{% extends "base" %}{% block body %}
{% if names %}<table><tr><th>Name</th><th></th></tr>{% for n in names %}<tr><td>{{ n }}</td><td>
<form method="post" action="/websites/{{ n }}/drop">"""
    + TOKEN
    + """<button>Give up {{ n }}</button></form></td></tr>{% endfor %}
</table>{% else %}<p>You have no website beside {{ domain }} yet.</p>{% endif %}
<p><a href="/websites/new">New website</a></p>{% endblock %}""",
    "new-website": """{% extends "base" %}{% block body %}<form method="post" action="/websites/new">"""
    + TOKEN
    + """
<label for="s">Subdomain</label><input id="s" name="label" value="{{ label }}"> .{{ domain }}
<label for="f">Folder</label><input id="f" name="folder" value="{{ folder }}">
<p><button>Create the website</button></p></form>{% endblock %}""",
    "files": """{% extends "base" %}{% block body %}
<table><tr><th>Name</th><th>Bytes</th><th></th></tr>
{% if above is not none %}<tr><td><a href="/files?folder={{ above|urlencode }}">one folder up</a></td><td></td><td></td></tr>{% endif %}
{% for name, path, inside, size in rows %}<tr><td>
{% if inside %}<a href="/files?folder={{ path|urlencode }}">{{ name }}</a>{% else %}{{ name }}{% endif %}</td>
<td>{{ "" if inside else size }}</td><td>{% if name.endswith(".zip") %}<form method="post" action="/files/unpack">"""
    + TOKEN
    + """<input type="hidden" name="folder" value="{{ folder }}"><input type="hidden" name="name" value="{{ name }}">
<button>Unpack {{ name }}</button></form>{% endif %}</td></tr>{% endfor %}</table>
<h2>Bring a file</h2><form method="post" action="/files/send" enctype="multipart/form-data">"""
    + TOKEN
    + """<input type="hidden" name="folder" value="{{ folder }}">
<label for="f">File (up to {{ most }} MB)</label><input id="f" type="file" name="file">
<p><button>Bring it here</button></p></form>{% endblock %}""",
    "postgresql": """{% extends "base" %}{% block body %}
{% if names %}<table><tr><th>Database and user</th><th></th></tr>{% for n in names %}<tr><td>{{ n }}</td><td>
<form method="post" action="/postgresql/{{ n }}/drop">"""
    + TOKEN
    + """<button>Delete {{ n }}</button></form></td></tr>{% endfor %}
</table>{% else %}<p>You have no PostgreSQL database yet.</p>{% endif %}
<p>Server: {{ server }}</p>
<h2>New database with its user</h2><form method="post" action="/postgresql">"""
    + TOKEN
    + """
<label for="d">Name of both</label>c{{ number }}_<input id="d" name="label" value="{{ label }}">
<label for="p">Password</label><input id="p" type="password" name="secret" autocomplete="new-password">
<p><button>Create both</button></p></form>{% endblock %}""",
    "php": """{% extends "base" %}{% block body %}<form method="post" action="/php">"""
    + TOKEN
    + """
<label for="z">Time zone</label><select id="z" name="zone"><option value="">none</option>
{% for z in zones %}<option{% if z == zone %} selected{% endif %}>{{ z }}</option>{% endfor %}</select>
<fieldset><legend>Extensions</legend>{% for e in offered %}
<label class="tick"><input type="checkbox" name="on" value="{{ e }}"{{ " checked" if e in extensions }}> {{ e }}</label>{% endfor %}</fieldset>
<p><button>Change</button></p></form>{% endblock %}""",
    "new-user": """{% extends "base" %}{% block body %}<form method="post" action="/database-users/new">"""
    + TOKEN
    + """
<label for="d">Name of the user</label><input id="d" name="label" value="{{ label }}"> -{{ number }}
<label for="p1">Password</label><input id="p1" type="password" name="first" autocomplete="new-password">
<label for="p2">Password once more</label><input id="p2" type="password" name="second" autocomplete="new-password">
<p><button>Create the user</button></p></form>{% endblock %}""",
}

environment = Environment(loader=DictLoader(PAGES), autoescape=select_autoescape(default=True, default_for_string=True))


def render(page: str, **facts: object) -> str:
    return environment.get_template(page).render(**facts)
