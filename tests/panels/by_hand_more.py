"""A second lot of panels by hand, written after the first had taught the reading, before it was tried on these."""

from __future__ import annotations

from collections.abc import Callable

from tests.panels.by_hand import Answer, Cards, HandPanel
from tests.panels.yard import RIGHTS


class NoConsent(Cards):
    """The French cards, without the box that only a person may tick."""

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        if path == "/p/7/bdd" and method == "POST":
            sent = {**sent, "ok": "1"}
        return super().pages(method, path, asked, sent, fields)


class Sites(HandPanel):
    """German: one site is chosen first; acts are in the names of buttons; a new database is made by one button, named and filled afterwards."""

    door = "<h2>Anmeldung zum Kundenmenü</h2><form method=post action=/rein><label>Kundennummer<br><input name=nr></label><br><label>Kennwort<br><input type=password name=kw></label><br><input type=submit name=go value=Einloggen></form>"
    door_fields = ("nr", "kw")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        head = "<div class=kopf><form method=post action=/waehlen><select name=site><option>faehre.saltmarsh.example</option><option>chor.saltmarsh.example</option></select><input type=submit value=Wechseln></form><a href=/abmelden>Abmelden</a></div><ul><li><a href=/paket>Paketübersicht</a><li><a href=/mysql>MySQL</a><li><a href=/ftp>FTP-Benutzer</a></ul>"
        if path == "/waehlen":
            self.state.others.setdefault("chosen", []).append(sent.get("site", ""))
            return 302, "/paket", ""
        if path == "/ftp":
            if method == "POST":
                self.state.others.setdefault("ftp", []).append(sent.get("name", ""))
            return self.html(
                head
                + "<h2>FTP-Benutzer</h2><form method=post action=/ftp>Name <input name=name> Kennwort <input type=password name=pw><input type=submit value='Benutzer anlegen'></form>"
            )
        if path == "/mysql":
            if method == "POST" and "anlegen" in sent:
                name = f"usr_c1042_{sent.get('endung', '')}"
                if not sent.get("endung"):
                    return self.html(head + "<p class=fehler>Bitte eine Endung angeben.</p>")
                self.state.databases[name] = {name: list(RIGHTS)}
                self.state.users[name] = sent.get("pw1", "")
                if sent.get("pw1") != sent.get("pw2") or len(sent.get("pw1", "")) < 8:
                    del self.state.databases[name], self.state.users[name]
                    return self.html(head + "<p class=fehler>Die Kennwörter stimmen nicht überein.</p>")
                return self.html(
                    head
                    + f"<p class=ok>Die Datenbank {name} wurde angelegt. Server: localhost</p><a href=/mysql>weiter</a>"
                )
            for key in sent:
                if key.startswith("loeschen["):
                    self.drops += 1
                    name = key[9:-1]
                    return self.html(
                        head
                        + f"<h2>Löschen</h2><form method=post action=/mysql>Soll {name} wirklich gelöscht werden? <input type=submit name='ja[{name}]' value='Ja, löschen'> <input type=submit name=nein value='Nein'></form>"
                    )
                if key.startswith("ja["):
                    name = key[3:-1]
                    self.state.databases.pop(name)
                    self.state.users.pop(name)
                    return 302, "/mysql", ""
            rows = "".join(
                f"<tr><td>{d}<td>{d}<td>3 MB<td><input type=submit name='pw[{d}]' value='Kennwort ändern'><input type=submit name='loeschen[{d}]' value='löschen'>"
                for d in self.state.databases
            )
            return self.html(
                f"{head}<h2>MySQL-Datenbanken</h2><form method=post action=/mysql><table><tr><th>Datenbank<th>Benutzer<th>Größe<th>{rows}</table></form><h3>Datenbank anlegen</h3><form method=post action=/mysql><table><tr><td>Name<td>usr_c1042_<input name=endung><tr><td>Kennwort<td><input type=password name=pw1><tr><td>Wiederholung<td><input type=password name=pw2></table><input type=submit name=anlegen value='anlegen'></form>"
            )
        return self.html(head + "<h2>Paketübersicht</h2><p>10 Datenbanken</p>")


class Matrix(HandPanel):
    """English: databases, users and who may use what are three tabs of one page; access is a grid of boxes; a password is generated and shown once."""

    door = "<main><h1>Harbour panel</h1><form method=post action=/login><p><input name=user aria-label='User'></p><p><input name=pass type=password aria-label='Password'></p><p><input type=submit value='Sign in'></p></form></main>"
    door_fields = ("user", "pass")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<header><a href=/home>Home</a><a href=/storage>Storage</a><a href=/signout>Sign out</a></header>"
        tabs = "<nav><a href=/storage/databases>Databases</a> <a href=/storage/accounts>Database accounts</a> <a href=/storage/grid>Who may use what</a></nav>"
        if path == "/storage":
            return self.html(top + "<h1>Storage</h1>" + tabs)
        if path == "/storage/databases":
            if method == "POST":
                if "remove" in sent:
                    self.drops += 1
                    self.state.databases.pop(sent["remove"])
                else:
                    self.state.databases["hb_" + sent["title"]] = {}
                return 302, path, ""
            rows = "".join(
                f"<tr><td>{d}</td><td><form method=post action={path}><button name=remove value={d}>Remove</button></form></td></tr>"
                for d in self.state.databases
            )
            return self.html(
                f"{top}{tabs}<h1>Databases</h1><table><tr><th>Name</th><th></th></tr>{rows}</table><form method=post action={path}><label>Name <input name=title></label><button>Add a database</button></form>"
            )
        if path == "/storage/accounts":
            if method == "POST":
                if "remove" in sent:
                    self.drops += 1
                    self.state.users.pop(sent["remove"])
                    for grants in self.state.databases.values():
                        grants.pop(sent["remove"], None)
                    return 302, path, ""
                if len(sent.get("password", "")) < 8:
                    return self.html(top + tabs + "<p class=error>The password is too short</p>")
                self.state.users["hb_" + sent["title"]] = sent["password"]
                return 302, path, ""
            rows = "".join(
                f"<tr><td>{u}</td><td><form method=post action={path}><button name=remove value={u}>Remove</button></form></td></tr>"
                for u in self.state.users
            )
            return self.html(
                f"{top}{tabs}<h1>Database accounts</h1><table><tr><th>Account</th><th></th></tr>{rows}</table><form method=post action={path}><label>Account name <input name=title></label><label>Password <input name=password></label><button>Add an account</button></form>"
            )
        if path == "/storage/grid":
            if method == "POST":
                for d, grants in self.state.databases.items():
                    for u in self.state.users:
                        if f"{u}@{d}" in sent:
                            grants.setdefault(u, list(RIGHTS))
                        else:
                            grants.pop(u, None)
                return 302, path, ""
            head = "".join(f"<th>{d}</th>" for d in self.state.databases)
            rows = "".join(
                f"<tr><th>{u}</th>"
                + "".join(
                    f"<td><input type=checkbox name='{u}@{d}' {'checked' if u in g else ''}></td>"
                    for d, g in self.state.databases.items()
                )
                + "</tr>"
                for u in self.state.users
            )
            return self.html(
                f"{top}{tabs}<h1>Who may use what</h1><form method=post action={path}><table><tr><th></th>{head}</tr>{rows}</table><button>Save</button></form>"
            )
        if path == "/signout":
            self.inside = False
            return 302, "/", ""
        return self.html(top + "<h1>Home</h1>")


class Spanish(HandPanel):
    """Spanish: one long form with an optional user behind a box, a generated suffix that stands fixed, links as buttons, a question in between."""

    door = "<h1>Área de clientes</h1><form method=post action=/entrar><div class=campo><span>Correo o usuario</span><input name=u></div><div class=campo><span>Clave</span><input name=c type=password></div><a class=boton href=/olvido>¿Olvidó su clave?</a><button>Acceder</button></form>"
    door_fields = ("u", "c")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<div><a href=/inicio>Inicio</a> <a href=/hosting>Hosting</a> <a href=/dominios>Dominios</a> <a href=/salir>Salir</a></div>"
        if path == "/hosting":
            return self.html(
                top
                + "<h1>Hosting</h1><ul><li><a href=/hosting/archivos>Archivos</a><li><a href=/hosting/bases>Bases de datos MySQL</a><li><a href=/hosting/copias>Copias de seguridad</a></ul>"
            )
        if path == "/hosting/bases":
            rows = "".join(
                f"<tr><td><strong>{d}</strong></td><td>{', '.join(g)}</td><td><a class=boton href='/hosting/bases/quitar/{d}'>Eliminar</a></td></tr>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{top}<h1>Bases de datos MySQL</h1><table>{rows}</table><a class=boton href=/hosting/bases/crear>Crear</a>"
            )
        if path == "/hosting/bases/crear":
            if method == "POST":
                name = "fm_" + sent.get("base", "")
                user = "fm_" + sent.get("usuario", "")
                if sent.get("con") == "1":
                    if sent.get("c1") != sent.get("c2"):
                        return self.html(top + "<p class=error>Las contraseñas no coinciden</p>")
                    self.state.users[user] = sent["c1"]
                    self.state.databases[name] = {user: list(RIGHTS) if sent.get("permisos") == "todos" else ["SELECT"]}
                else:
                    self.state.databases[name] = {}
                return 302, "/hosting/bases", ""
            return self.html(
                f"{top}<h1>Crear base de datos</h1><form method=post action=/hosting/bases/crear><label for=b>Nombre de la base</label> fm_<input id=b name=base>"
                "<label for=j>Cotejamiento</label><select id=j name=j><option>latin1_spanish_ci</option><option selected>utf8mb4_general_ci</option></select>"
                "<label><input type=checkbox name=con value=1> Crear también un usuario</label><label for=u>Nombre del usuario</label> fm_<input id=u name=usuario><label for=c1>Contraseña</label><input id=c1 type=password name=c1><label for=c2>Repita la contraseña</label><input id=c2 type=password name=c2>"
                "<p>Permisos</p><label><input type=radio name=permisos value=lectura checked> Solo lectura</label><label><input type=radio name=permisos value=todos> Todos los permisos</label><button>Guardar</button></form>"
            )
        if path.startswith("/hosting/bases/quitar/"):
            name = path.rsplit("/", 1)[1]
            if method == "POST":
                self.drops += 1
                for user in self.state.databases.pop(name):
                    self.state.users.pop(user, None)
                return 302, "/hosting/bases", ""
            return self.html(
                f"{top}<h1>Eliminar {name}</h1><p>Esta acción no se puede deshacer.</p><form method=post action={path}><button>Sí, eliminar</button></form><a href=/hosting/bases>Cancelar</a>"
            )
        if path == "/salir":
            self.inside = False
            return 302, "/", ""
        return self.html(top + "<h1>Inicio</h1>")


class Tables(HandPanel):
    """English of long ago: everything in tables without labels, a counter of databases, the user is the customer's own and has no form at all."""

    door = "<table><tr><td><form method=post action=/cgi/login><table><tr><td>Login<td><input name=login size=12><tr><td>Pass<td><input type=password name=pass size=12><tr><td colspan=2><input type=submit value=OK></table></form></table>"
    door_fields = ("login", "pass")

    def old(self) -> None:
        super().old()
        self.state.users = {"c1042": "of-yore"}
        self.state.databases = {"c1042db1": {"c1042": list(RIGHTS)}}

    impossible = True

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        menu = "<table><tr><td><a href=/cgi/main>Main</a><td><a href=/cgi/sql>SQL databases</a><td><a href=/cgi/exit>Exit</a></table>"
        if path == "/cgi/sql/kill":
            self.drops += 1
            self.state.databases.pop(next(iter(asked), "") or fields[0][0], None)
            return 302, "/cgi/sql", ""
        if path == "/cgi/sql":
            if method == "POST":
                number = len(self.state.databases) + 1
                self.state.databases[f"c1042db{number}"] = {"c1042": list(RIGHTS)}
                return 302, "/cgi/sql", ""
            rows = "".join(
                f"<tr><td>{d}<td>c1042<td><a href='/cgi/sql/kill?{d}'>delete</a>" for d in self.state.databases
            )
            return self.html(
                f"{menu}<table><tr><td>Database<td>User<td>{rows}</table><form method=post action=/cgi/sql><input type=submit value='Create new database'></form>"
            )
        return self.html(menu)


MORE: dict[str, Callable[[], HandPanel]] = {
    "no-consent": NoConsent, "sites": Sites, "matrix": Matrix, "spanish": Spanish, "tables": Tables,
}  # fmt: skip
