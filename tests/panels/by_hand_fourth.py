"""A fourth lot of panels by hand, written before the reading was tried on them."""

from __future__ import annotations

from collections.abc import Callable

from tests.panels.by_hand import Answer, HandPanel
from tests.panels.yard import RIGHTS


class Cloud(HandPanel):
    """English, drawn of today: projects, then services; users of a database on its own page; rights by a choice of three words."""

    door = "<main><h2>Sign in to Estuary Cloud</h2><form method=post action=/sessions><label>Email or username<input name=ident></label><label>Password<input name=pass type=password></label><button>Sign in</button></form><p><a href=/reset>Forgot your password?</a> <a href=/join>Create an account</a></p></main>"
    door_fields = ("ident", "pass")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<header><a href=/projects>Projects</a><a href=/account>Account settings</a><form method=post action=/sessions/end><button>Sign out</button></form></header>"
        if path == "/projects":
            return self.html(
                top
                + "<h1>Projects</h1><ul><li><a href=/projects/ferry>Ferry museum</a></li></ul><a href=/projects/new>New project</a>"
            )
        if path == "/projects/new":
            if method == "POST":
                self.state.others.setdefault("projects", []).append(sent.get("name", ""))
            return self.html(
                top
                + "<h1>New project</h1><form method=post action=/projects/new><label>Name<input name=name></label><button>Create</button></form>"
            )
        if path == "/projects/ferry":
            return self.html(
                top
                + "<h1>Ferry museum</h1><nav><a href=/projects/ferry/apps>Apps</a><a href=/projects/ferry/databases>Databases</a><a href=/projects/ferry/members>Members</a></nav>"
            )
        if path == "/projects/ferry/members":
            if method == "POST":
                self.state.others.setdefault("members", []).append(sent.get("login", ""))
            return self.html(
                top
                + "<h1>Members</h1><form method=post action=/projects/ferry/members><label>Login<input name=login></label><label>Password<input name=pw type=password></label><button>Add member</button></form>"
            )
        if path == "/projects/ferry/databases":
            if method == "POST":
                if sent.get("engine") != "mariadb":
                    return self.html(top + "<div class='flash flash-error'>This plan has MariaDB only.</div>")
                self.state.databases[sent["name"]] = {}
                return 302, f"/projects/ferry/databases/{sent['name']}", ""
            rows = "".join(
                f"<tr><td><a href=/projects/ferry/databases/{d}>{d}</a></td><td>MariaDB 10.11</td><td>running</td></tr>"
                for d in self.state.databases
            )
            return self.html(
                f"{top}<h1>Databases</h1><table><thead><tr><th>Name</th><th>Engine</th><th>State</th></tr></thead><tbody>{rows}</tbody></table><h2>Create database</h2><form method=post action={path}><label>Name<input name=name pattern='[a-z][a-z0-9_]*'></label><fieldset><legend>Engine</legend><label><input type=radio name=engine value=postgres checked>PostgreSQL</label><label><input type=radio name=engine value=mariadb>MariaDB</label></fieldset><button>Create database</button></form>"
            )
        if path.startswith("/projects/ferry/databases/"):
            name = path.split("/")[4]
            rest = path.split("/")[5:]
            if name not in self.state.databases:
                return 404, "", "<h1>Not found</h1>"
            if method == "POST" and rest == ["users"]:
                if len(sent.get("password", "")) < 10:
                    return self.html(top + "<div class='flash flash-error'>Password is too short</div>")
                self.state.users[sent["username"]] = sent["password"]
                self.state.databases[name][sent["username"]] = (
                    list(RIGHTS) if sent.get("role") == "owner" else ["SELECT"]
                )
                return 302, f"/projects/ferry/databases/{name}", ""
            if method == "POST" and rest == ["destroy"]:
                self.drops += 1
                if sent.get("confirm") != name:
                    return self.html(top + "<div class='flash flash-error'>The name does not match.</div>")
                for user in self.state.databases.pop(name):
                    self.state.users.pop(user, None)
                return 302, "/projects/ferry/databases", ""
            users = "".join(
                f"<li><code>{u}</code> {'owner' if len(r) > 1 else 'reader'}</li>"
                for u, r in self.state.databases[name].items()
            )
            return self.html(
                f"{top}<h1>{name}</h1><dl><dt>Host</dt><dd>localhost</dd><dt>Port</dt><dd>3306</dd></dl><h2>Users</h2><ul>{users}</ul><form method=post action=/projects/ferry/databases/{name}/users><label>Username<input name=username></label><label>Password<input name=password type=password></label><label>Role<select name=role><option value=reader>Reader (can read)</option><option value=writer>Writer (can read and write)</option><option value=owner>Owner (can do everything)</option></select></label><button>Add user</button></form><h2>Danger zone</h2><form method=post action=/projects/ferry/databases/{name}/destroy><label>To confirm, type the name of the database<input name=confirm></label><button>Destroy this database</button></form>"
            )
        return self.html(top + "<h1>Account settings</h1>")


class Classic(HandPanel):
    """German, of long ago: a page in rows of links by pictures, a list of databases with acts as pictures, user equal to database, password in a mask of its own."""

    door = "<table><form action=/kunde/login.cgi method=post><tr><td>Kundenlogin</td><td><input name=kunde></td></tr><tr><td>Passwort</td><td><input name=pass type=password></td></tr><tr><td></td><td><input type=submit value=Login></td></tr></form></table>"
    door_fields = ("kunde", "pass")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<table><tr><td><a href=/kunde/index.cgi><img src=h.gif alt=Start></a></td><td><a href=/kunde/mail.cgi><img src=m.gif alt='E-Mail'></a></td><td><a href=/kunde/mysql.cgi><img src=d.gif alt='MySQL-Datenbanken'></a></td><td><a href=/kunde/logout.cgi><img src=x.gif alt=Logout></a></td></tr></table>"
        if path == "/kunde/mysql.cgi":
            act = sent.get("aktion") or asked.get("aktion", "")
            if method == "POST" and act == "anlegen":
                n = sent.get("kommentar", "")
                name = f"db1042_{len(self.state.databases) + 1}"
                if len(sent.get("pw", "")) < 8 or sent.get("pw") != sent.get("pwb"):
                    return self.html(top + "<font color=red>Das Passwort ist zu kurz oder stimmt nicht überein.</font>")
                self.state.databases[name] = {name: list(RIGHTS)}
                self.state.users[name] = sent["pw"]
                return self.html(
                    f"{top}<h2>Datenbank angelegt</h2><table><tr><td>Datenbankname:</td><td>{name}</td></tr><tr><td>Benutzer:</td><td>{name}</td></tr><tr><td>Server:</td><td>localhost</td></tr><tr><td>Kommentar:</td><td>{n}</td></tr></table><a href=/kunde/mysql.cgi>zurück zur Liste</a>"
                )
            if act == "loeschen":
                name = sent.get("db") or asked.get("db", "")
                if method == "POST":
                    self.drops += 1
                    self.state.databases.pop(name)
                    self.state.users.pop(name)
                    return 302, "/kunde/mysql.cgi", ""
                return self.html(
                    f"{top}<h2>Datenbank {name} löschen</h2><form method=post action=/kunde/mysql.cgi><input type=hidden name=aktion value=loeschen><input type=hidden name=db value={name}><input type=submit value='Ja, Datenbank {name} endgültig löschen'></form>"
                )
            rows = "".join(
                f"<tr><td>{d}</td><td>0 MB</td><td><a href='/kunde/mysql.cgi?aktion=passwort&db={d}'><img src=p.gif alt='Passwort ändern'></a> <a href='/kunde/mysql.cgi?aktion=loeschen&db={d}'><img src=l.gif alt='löschen'></a></td></tr>"
                for d in self.state.databases
            )
            return self.html(
                f"{top}<h2>MySQL-Datenbanken</h2><table><tr><td><b>Datenbank</b></td><td><b>Größe</b></td><td><b>Aktion</b></td></tr>{rows}</table><h3>Neue Datenbank anlegen</h3><form method=post action=/kunde/mysql.cgi><input type=hidden name=aktion value=anlegen><table><tr><td>Kommentar</td><td><input name=kommentar></td></tr><tr><td>Passwort</td><td><input type=password name=pw></td></tr><tr><td>Passwort bestätigen</td><td><input type=password name=pwb></td></tr></table><input type=submit value='Datenbank anlegen'></form>"
            )
        if path == "/kunde/logout.cgi":
            self.inside = False
            return 302, "/", ""
        return self.html(top + "<h2>Willkommen</h2>")


class Italian(HandPanel):
    """Italian: three pages in a row by "Avanti", the user chosen from those there are or made new on a second tab, a code against robots nowhere."""

    door = "<div id=accesso><h1>Accesso clienti</h1><form method=post action=/accesso><p>Utente<br><input name=utente></p><p>Parola chiave<br><input type=password name=chiave></p><input type=submit value=Accedi></form></div>"
    door_fields = ("utente", "chiave")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<div><a href=/home>Home</a> <a href=/pannello>Pannello di controllo</a> <a href=/fatture>Fatture</a> <a href=/esci>Esci</a></div>"
        if path == "/pannello":
            return self.html(
                top
                + "<h1>Pannello di controllo</h1><div><a href=/pannello/ftp>Accessi FTP</a></div><div><a href=/pannello/mysql>Database MySQL</a></div><div><a href=/pannello/backup>Backup database</a></div>"
            )
        if path == "/pannello/mysql":
            rows = "".join(
                f"<tr><td>{d}</td><td>{'<br>'.join(g) or '-'}</td><td><form method=post action=/pannello/mysql/elimina><input type=hidden name=nome value={d}><input type=image src=x.gif alt=Elimina></form></td></tr>"
                for d, g in self.state.databases.items()
            )
            users = "".join(
                f"<tr><td>{u}</td><td><form method=post action=/pannello/mysql/utenti/elimina><input type=hidden name=nome value={u}><input type=image src=x.gif alt=Elimina></form></td></tr>"
                for u in self.state.users
            )
            return self.html(
                f"{top}<h1>Database MySQL</h1><h2>I tuoi database</h2><table>{rows}</table><a href=/pannello/mysql/nuovo>Crea un nuovo database</a><h2>I tuoi utenti</h2><table>{users}</table><a href=/pannello/mysql/utenti/nuovo>Crea un nuovo utente</a><h2>Permessi</h2><a href=/pannello/mysql/permessi>Assegna un utente a un database</a>"
            )
        if path == "/pannello/mysql/nuovo":
            if method == "POST":
                if not sent.get("nome"):
                    return self.html(top + "<p class=errore>Il nome è obbligatorio</p>")
                self.state.databases["Sql1042_" + sent["nome"]] = {}
                return 302, "/pannello/mysql", ""
            return self.html(
                f"{top}<h1>Nuovo database</h1><form method=post action={path}><p>Nome: Sql1042_<input name=nome maxlength=10></p><input type=submit value=Avanti></form>"
            )
        if path == "/pannello/mysql/utenti/nuovo":
            if method == "POST":
                if sent.get("p1") != sent.get("p2") or not sent.get("nome"):
                    return self.html(top + "<p class=errore>Le password non coincidono</p>")
                self.state.users["Sql1042_" + sent["nome"]] = sent["p1"]
                return 302, "/pannello/mysql", ""
            return self.html(
                f"{top}<h1>Nuovo utente</h1><form method=post action={path}><p>Nome: Sql1042_<input name=nome></p><p>Password: <input type=password name=p1></p><p>Ripeti: <input type=password name=p2></p><input type=submit value=Avanti></form>"
            )
        if path == "/pannello/mysql/permessi":
            if method == "POST":
                if sent.get("fase") == "2":
                    may = [v for n, v in fields if n == "permesso"]
                    self.state.databases[sent["db"]][sent["ut"]] = (
                        list(RIGHTS) if "TUTTI" in may else [r for r in may if r in RIGHTS]
                    )
                    return 302, "/pannello/mysql", ""
                boxes = "<label><input type=checkbox name=permesso value=TUTTI> Tutti i permessi</label>" + "".join(
                    f"<label><input type=checkbox name=permesso value={r}> {r}</label>" for r in RIGHTS
                )
                return self.html(
                    f"{top}<h1>Permessi di {sent['ut']} su {sent['db']}</h1><form method=post action={path}><input type=hidden name=fase value=2><input type=hidden name=db value={sent['db']}><input type=hidden name=ut value={sent['ut']}>{boxes}<input type=submit value=Salva></form>"
                )
            return self.html(
                f"{top}<h1>Permessi</h1><form method=post action={path}><p>Utente <select name=ut>{''.join(f'<option>{u}' for u in self.state.users)}</select></p><p>Database <select name=db>{''.join(f'<option>{d}' for d in self.state.databases)}</select></p><input type=submit value=Avanti></form>"
            )
        if path in ("/pannello/mysql/elimina", "/pannello/mysql/utenti/elimina"):
            self.drops += 1
            if "utenti" in path:
                self.state.users.pop(sent["nome"])
                for grants in self.state.databases.values():
                    grants.pop(sent["nome"], None)
            else:
                self.state.databases.pop(sent["nome"])
            return 302, "/pannello/mysql", ""
        if path == "/esci":
            self.inside = False
            return 302, "/", ""
        return self.html(top + "<h1>Home</h1>")


FOURTH: dict[str, Callable[[], HandPanel]] = {"cloud": Cloud, "classic": Classic, "italian": Italian}
