"""A fifth lot of panels by hand: ordinary ones, written before the reading was tried on them."""

from __future__ import annotations

from collections.abc import Callable

from tests.panels.by_hand import Answer, HandPanel
from tests.panels.yard import RIGHTS


class Plain(HandPanel):
    """English: one page with three parts, as many have it."""

    door = "<form method=post action=/login><h1>Quay hosting</h1><label>Username <input name=user></label><label>Password <input name=pass type=password></label><input type=submit value='Log in'></form>"
    door_fields = ("user", "pass")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<div id=top>Logged in as c1042 <a href=/logout>Log out</a></div><div id=menu><h4>Files</h4><a href=/files>Files of the site</a><a href=/ftp>Transfer logins</a><h4>Databases</h4><a href=/mysql>Databases</a><a href=/mysql/remote>Access from outside</a><h4>Mail</h4><a href=/mail>Mail accounts</a></div>"
        if path == "/mysql/remote":
            if method == "POST":
                self.state.others.setdefault("remote", []).append(sent.get("host", ""))
            return self.html(
                top
                + "<h1>Access from outside</h1><form method=post action=/mysql/remote><label>Host <input name=host></label><button>Add host</button></form>"
            )
        if path == "/mysql/create":
            name = "c1042_" + sent["db"]
            if name in self.state.databases or not sent["db"]:
                return self.html(top + "<div class=error>A database with this name exists.</div>")
            self.state.databases[name] = {}
            return self.html(
                f"{top}<h1>Databases</h1><div class=success>Added the database {name}.</div><a href=/mysql>On</a>"
            )
        if path == "/mysql/user":
            name = "c1042_" + sent["user"]
            if sent["p"] != sent["p2"]:
                return self.html(top + "<div class=error>The passwords do not match.</div>")
            self.state.users[name] = sent["p"]
            return self.html(
                f"{top}<h1>Databases</h1><div class=success>You have created the user {name}.</div><a href=/mysql>On</a>"
            )
        if path == "/mysql/grant" and method == "POST":
            if "priv" not in sent:
                boxes = (
                    "<label><input type=checkbox name=priv value=ALL> Everything</label><table>"
                    + "".join(
                        f"<tr><td><label><input type=checkbox name=priv value='{r}'> {r}</label></td></tr>"
                        for r in RIGHTS
                    )
                    + "</table>"
                )
                return self.html(
                    f"{top}<h1>What may it do?</h1><p>User: {sent['user']}</p><p>Database: {sent['db']}</p><form method=post action=/mysql/grant><input type=hidden name=user value={sent['user']}><input type=hidden name=db value={sent['db']}>{boxes}<input type=submit value='Grant it'> <input type=reset value=Reset></form>"
                )
            may = [v for n, v in fields if n == "priv"]
            self.state.databases[sent["db"]][sent["user"]] = (
                list(RIGHTS) if "ALL" in may else [r for r in may if r in RIGHTS]
            )
            return self.html(
                f"{top}<h1>Databases</h1><div class=success>User {sent['user']} was added to the database {sent['db']}.</div>"
            )
        if path in ("/mysql/delete", "/mysql/deluser"):
            name = sent.get("name") or asked.get("name", "")
            if method == "POST":
                self.drops += 1
                if path == "/mysql/delete":
                    self.state.databases.pop(name)
                else:
                    self.state.users.pop(name)
                    for grants in self.state.databases.values():
                        grants.pop(name, None)
                return 302, "/mysql", ""
            return self.html(
                f"{top}<h1>Delete</h1><p>Do you want to permanently delete {name}?</p><form method=post action={path}><input type=hidden name=name value={name}><input type=submit value='Delete'> <a href=/mysql>Cancel</a></form>"
            )
        if path == "/mysql":
            rows = "".join(
                f"<tr><td>{d}</td><td>12 kB</td><td>{'<br>'.join(f'{u} <a href=/mysql/revoke?d={d}&u={u}>x</a>' for u in g)}</td><td><a href='/mysql/rename?name={d}'>Rename</a> <a href='/mysql/delete?name={d}'>Delete</a></td></tr>"
                for d, g in self.state.databases.items()
            )
            users = "".join(
                f"<tr><td>{u}</td><td><a href='/mysql/password?name={u}'>Change password</a> <a href='/mysql/deluser?name={u}'>Delete</a></td></tr>"
                for u in self.state.users
            )
            du = "".join(f"<option>{u}</option>" for u in self.state.users)
            dd = "".join(f"<option>{d}</option>" for d in self.state.databases)
            return self.html(
                f"{top}<h1>Databases</h1><h2>New database</h2><form method=post action=/mysql/create><label>New database:</label> c1042_ <input name=db><input type=submit value='Create database'></form>"
                f"<h2>Your databases</h2><form method=get action=/mysql><input name=search><input type=submit value=Go></form><table><tr><th>Database</th><th>Size</th><th>Who may use it</th><th>Actions</th></tr>{rows}</table>"
                f"<h2>New user</h2><form method=post action=/mysql/user><label>Username</label> c1042_ <input name=user><br><label>Password</label> <input type=password name=p><br><label>Password (again)</label> <input type=password name=p2><br><input type=submit value='Create user'></form>"
                f"<h2>Let a user use a database</h2><form method=post action=/mysql/grant><label>User</label> <select name=user>{du}</select><label>Database</label> <select name=db>{dd}</select><input type=submit value='Let it'></form>"
                f"<h2>Your users</h2><table>{users}</table>"
            )
        return self.html(top + "<h1>Welcome</h1>")


class Simple(HandPanel):
    """English: a list and one dialog that makes both, with a copy of the password."""

    door = "<h3>Login</h3><form method=post action=/do/login><div><input name=login placeholder=Login></div><div><input name=password type=password placeholder=Password></div><button>Login</button></form><a href=/lost>Forgot password?</a>"
    door_fields = ("login", "password")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<ul class=nav><li><a href=/user>You</a></li><li><a href=/web>Sites</a></li><li><a href=/mail>Post</a></li><li><a href=/db>Databases</a></li><li><a href=/backup>Copies</a></li><li><a href=/logout>Log out</a></li></ul>"
        if path == "/db":
            rows = "".join(
                f"<div class=entry><input type=checkbox name=database[] value={d}><b>{d}</b><span>User: {', '.join(g)}</span><span>mysql</span><span>localhost</span><a href='/db/edit?database={d}'>edit</a><a href='/db/delete?database={d}'>delete</a></div>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{top}<a class=add href=/db/add>Add database</a><form method=post action=/db/bulk><select name=action><option value=''>with those that are ticked</option><option value=delete>delete</option></select><button>&gt;</button></form>{rows}<p>{len(self.state.databases)} databases</p>"
            )
        if path == "/db/add":
            if method == "POST":
                name, user = "c1042_" + sent["n"], "c1042_" + sent["u"]
                if len(sent["p"]) < 8:
                    return self.html(top + "<div class=alert-danger>Password is too short</div>")
                self.state.databases[name] = {user: list(RIGHTS)}
                self.state.users[user] = sent["p"]
                return self.html(
                    f"{top}<h1>One more database</h1><p class=ok>Database {name} was made</p><a href=/db>Back</a>"
                )
            return self.html(
                f"{top}<h1>One more database</h1><form method=post action=/db/add><p>c1042_ comes before both names</p><table><tr><td>Database</td></tr><tr><td><input name=n></td></tr><tr><td>User</td></tr><tr><td><input name=u></td></tr><tr><td>Password <a href='#'>generate</a></td></tr><tr><td><input name=p></td></tr><tr><td>Type</td></tr><tr><td><select name=t><option value=mysql>mysql</option></select></td></tr><tr><td>Host</td></tr><tr><td><select name=h><option>localhost</option></select></td></tr><tr><td>Charset</td></tr><tr><td><select name=c><option>big5</option><option selected>utf8mb4</option></select></td></tr><tr><td>Mail the password to</td></tr><tr><td><input name=m></td></tr></table><input type=submit name=ok value='Let it'> <input type=button value=Back onclick=\"location.href='/db'\"></form>"
            )
        if path == "/db/delete":
            name = sent.get("database") or asked.get("database", "")
            if method == "POST":
                self.drops += 1
                for user in self.state.databases.pop(name):
                    self.state.users.pop(user, None)
                return 302, "/db", ""
            return self.html(
                f"{top}<p>Are you sure you want to delete database {name}?</p><form method=post action='/db/delete?database={name}'><button>Yes</button></form><a href=/db>Cancel</a>"
            )
        return self.html(top + "<h1>Web</h1>")


class Contract(HandPanel):
    """German: behind a contract, a table with one new row's button, a form with description, a password rule, and a page that says "wird angelegt"."""

    door = "<h1>Login</h1><form method=post action=/anmeldung><label for=u>Kundennummer oder E-Mail-Adresse</label><input id=u name=u><label for=p>Passwort</label><input id=p name=p type=password><button>Anmelden</button></form>"
    door_fields = ("u", "p")

    def __init__(self) -> None:
        super().__init__()
        self.asked_since = 0
        self.waiting: dict[str, tuple[str, str]] = {}

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<nav><a href=/start>Start</a><a href=/vertraege>Meine Verträge</a><a href=/rechnungen>Rechnungen</a><a href=/abmelden>Abmelden</a></nav>"
        self.asked_since += 1
        for name, (user, password) in list(self.waiting.items()):
            if self.asked_since > 3:
                self.state.databases[name] = {user: list(RIGHTS)}
                self.state.users[user] = password
                del self.waiting[name]
        if path == "/vertraege":
            return self.html(
                top
                + "<h1>Meine Verträge</h1><ul><li><a href=/v/1042>Webhosting Fährmuseum (Vertrag 1042)</a></li></ul>"
            )
        if path == "/v/1042":
            return self.html(
                top
                + "<h1>Webhosting Fährmuseum</h1><ul><li><a href=/v/1042/domains>Domains</a></li><li><a href=/v/1042/mail>E-Mail</a></li><li><a href=/v/1042/webspace>Webspace und FTP</a></li><li><a href=/v/1042/datenbanken>Datenbanken</a></li></ul>"
            )
        if path == "/v/1042/datenbanken":
            rows = "".join(
                f"<tr><td>{d}</td><td>{', '.join(g)}</td><td>MariaDB 10.11</td><td><a href=/v/1042/datenbanken/{d}>Verwalten</a></td></tr>"
                for d, g in self.state.databases.items()
            )
            rows += "".join("<tr><td>wird angelegt</td><td></td><td></td><td></td></tr>" for _ in self.waiting)
            return self.html(
                f"{top}<h1>Datenbanken</h1><table><thead><tr><th>Name</th><th>Benutzer</th><th>Version</th><th></th></tr></thead><tbody>{rows}</tbody></table><a class=knopf href=/v/1042/datenbanken/neu>Datenbank anlegen</a>"
            )
        if path == "/v/1042/datenbanken/neu":
            if method == "POST":
                if sent["k1"] != sent["k2"] or len(sent["k1"]) < 12:
                    return self.html(
                        top + "<div class=hinweis-fehler>Das Passwort muss mindestens 12 Zeichen haben.</div>"
                    )
                n = f"dbs1042{len(self.state.databases)}"
                self.waiting[n] = (n.replace("dbs", "dbu"), sent["k1"])
                self.asked_since = 0
                return self.html(
                    f"{top}<h1>Datenbank wird angelegt</h1><p>Das dauert einen Moment.</p><dl><dt>Datenbankname</dt><dd>{n}</dd><dt>Benutzername</dt><dd>{n.replace('dbs', 'dbu')}</dd><dt>Host</dt><dd>db7.saltmarsh.example</dd></dl><a href=/v/1042/datenbanken>Zur Übersicht</a>"
                )
            return self.html(
                f"{top}<h1>Datenbank anlegen</h1><form method=post action={path}><label>Beschreibung (optional)<input name=b></label><label>Version<select name=v><option>MariaDB 10.11</option><option>MySQL 8.0</option></select></label><label>Passwort<input type=password name=k1></label><label>Passwort wiederholen<input type=password name=k2></label><button>Anlegen</button></form>"
            )
        if path.startswith("/v/1042/datenbanken/"):
            name = path.split("/")[4]
            if path.endswith("/loeschen"):
                if method == "POST":
                    self.drops += 1
                    for user in self.state.databases.pop(name):
                        self.state.users.pop(user, None)
                    return 302, "/v/1042/datenbanken", ""
                return self.html(
                    f"{top}<h1>Datenbank {name} löschen</h1><form method=post action={path}><label><input type=checkbox name=ok value=1> Ja, ich möchte {name} unwiderruflich löschen</label><button>Löschen</button></form>"
                )
            return self.html(
                f"{top}<h1>Datenbank {name}</h1><dl><dt>Host</dt><dd>db7.saltmarsh.example</dd></dl><a href={path}/passwort>Passwort ändern</a> <a href={path}/loeschen>Datenbank löschen</a>"
            )
        return self.html(top + "<h1>Start</h1>")


FIFTH: dict[str, Callable[[], HandPanel]] = {"plain": Plain, "simple": Simple, "contract": Contract}
