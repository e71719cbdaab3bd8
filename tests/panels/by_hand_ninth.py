"""A ninth lot of panels by hand, written before the reading was tried on them."""

from __future__ import annotations

from collections.abc import Callable

from tests.panels.by_hand import Answer, HandPanel
from tests.panels.yard import RIGHTS


class Ledger(HandPanel):
    """English, plain: a page for each thing to do, all linked from one page of databases; names are shown whole, the panel wants them whole."""

    door = "<h3>Customer login</h3><form method=post action=/login.cgi><pre>Account  <input name=acct>\nPassword <input name=pw type=password></pre><input type=submit value='Log in'></form>"
    door_fields = ("acct", "pw")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<p>[<a href=/menu.cgi>Menu</a>] [<a href=/logout.cgi>Log out</a>]</p>"
        if path == "/newdb.cgi":
            if method == "POST":
                if not sent["db"].startswith("lg_"):
                    return self.html(f"{top}<b>Error: names of databases must begin with lg_</b>")
                self.state.databases[sent["db"]] = {}
                return self.html(f"{top}<p>Database {sent['db']} made. <a href=/sql.cgi>Back to MySQL</a></p>")
            return self.html(
                f"{top}<h3>Make a database</h3><form method=post action=/newdb.cgi>Name (must begin with lg_): <input name=db value=lg_> <input type=submit value=Make></form>"
            )
        if path == "/newuser.cgi":
            if method == "POST":
                if not sent["u"].startswith("lg_"):
                    return self.html(f"{top}<b>Error: names of users must begin with lg_</b>")
                self.state.users[sent["u"]] = sent["p"]
                return self.html(f"{top}<p>User {sent['u']} made. <a href=/sql.cgi>Back to MySQL</a></p>")
            return self.html(
                f"{top}<h3>Make a MySQL user</h3><form method=post action=/newuser.cgi>Name (must begin with lg_): <input name=u value=lg_> Password: <input name=p type=password> <input type=submit value=Make></form>"
            )
        if path == "/grant.cgi":
            if method == "POST":
                self.state.databases[sent["d"]][sent["u"]] = list(RIGHTS)
                return self.html(f"{top}<p>{sent['u']} may now use {sent['d']}. <a href=/sql.cgi>Back to MySQL</a></p>")
            dbs = "".join(f"<option>{d}</option>" for d in self.state.databases)
            users = "".join(f"<option>{u}</option>" for u in self.state.users)
            return self.html(
                f"{top}<h3>Let a user into a database</h3><form method=post action=/grant.cgi>User <select name=u>{users}</select> may use database <select name=d>{dbs}</select> <input type=submit value=Allow></form>"
            )
        if path in ("/dropdb.cgi", "/dropuser.cgi"):
            held = self.state.databases if path == "/dropdb.cgi" else self.state.users
            if method == "POST":
                self.drops += 1
                held.pop(sent["n"])
                for grants in self.state.databases.values():
                    grants.pop(sent["n"], None)
                return self.html(f"{top}<p>Gone. <a href=/sql.cgi>Back to MySQL</a></p>")
            return self.html(
                f"{top}<h3>Remove {asked['n']}</h3><form method=post action={path}><input type=hidden name=n value={asked['n']}><input type=submit value='Remove {asked['n']}'></form>"
            )
        if path == "/sql.cgi":
            dbs = "".join(
                f"<li>{d} ({', '.join(g) or 'no users'}) <a href='/dropdb.cgi?n={d}'>remove</a></li>"
                for d, g in self.state.databases.items()
            )
            users = "".join(f"<li>{u} <a href='/dropuser.cgi?n={u}'>remove</a></li>" for u in self.state.users)
            return self.html(
                f"{top}<h3>MySQL</h3><p><a href=/newdb.cgi>Make a database</a>, <a href=/newuser.cgi>make a user</a>, <a href=/grant.cgi>let a user into a database</a></p><h4>Databases</h4><ul>{dbs}</ul><h4>Users</h4><ul>{users}</ul>"
            )
        return self.html(
            top
            + "<h3>Menu</h3><ul><li><a href=/web.cgi>Web pages</a></li><li><a href=/sql.cgi>MySQL</a></li><li><a href=/pop.cgi>Mail</a></li></ul>"
        )

    def old(self) -> None:
        super().old()
        self.state.databases = {"lg_old": {"lg_old": list(RIGHTS)}}
        self.state.users = {"lg_old": "of-yore"}


class Werkbank(HandPanel):
    """Dutch: tiles, a form in a dialog, the user is made with the database by a ticked box, a password that the panel proposes."""

    door = "<form method=post action=/aanmelden><label>Gebruikersnaam<input name=gn></label><label>Wachtwoord<input name=ww type=password></label><button>Aanmelden</button></form>"
    door_fields = ("gn", "ww")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        nav = (
            "<header><a href=/>Werkbank</a><form method=post action=/afmelden><button>Afmelden</button></form></header>"
        )
        if path == "/databases/maak":
            name = f"wb_{sent['naam']}"
            self.state.databases[name] = {}
            if sent.get("gebruiker") == "1":
                self.state.databases[name] = {name: list(RIGHTS)}
                self.state.users[name] = sent["wachtwoord"]
            return 302, "/databases", ""
        if path == "/databases/weg":
            if sent.get("zeker") == "1":
                self.drops += 1
                for user in self.state.databases.pop(sent["naam"]):
                    self.state.users.pop(user, None)
                return 302, "/databases", ""
            return self.html(
                f"{nav}<h1>Database {sent['naam']} verwijderen</h1><form method=post action=/databases/weg><input type=hidden name=naam value={sent['naam']}><label><input type=checkbox name=zeker value=1 required> Ja, verwijder alles</label><button>Verwijderen</button></form><a href=/databases>Annuleren</a>"
            )
        if path == "/databases":
            cards = "".join(
                f"<article><h3>{d}</h3><p>Gebruiker: {', '.join(g) or 'geen'}</p><form method=post action=/databases/weg><input type=hidden name=naam value={d}><button>Verwijderen</button></form></article>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{nav}<h1>Databases</h1>{cards}<dialog id=nieuw><h2>Nieuwe database</h2><form method=post action=/databases/maak><label>Naam <span>wb_</span><input name=naam></label><label><input type=checkbox name=gebruiker value=1 checked> Maak ook een gebruiker met dezelfde naam</label><label>Wachtwoord voor de gebruiker<input name=wachtwoord value=k7-ZuiderZee-81></label><button>Maak database</button></form></dialog>"
            )
        return self.html(
            nav
            + "<main><a class=tegel href=/websites>Websites</a><a class=tegel href=/databases>Databases</a><a class=tegel href=/e-mail>E-mail</a></main>"
        )

    def old(self) -> None:
        super().old()
        self.state.databases = {"wb_oud": {"wb_oud": list(RIGHTS)}}
        self.state.users = {"wb_oud": "of-yore"}


class Taller(HandPanel):
    """Spanish: a menu of sections; three tabs; assignment by two lists with several choices and arrows that are buttons."""

    door = "<form method=post action=/acceso><h1>Panel de hospedaje</h1><p><label>Usuario <input name=usr></label></p><p><label>Contraseña <input name=cla type=password></label></p><p><button>Acceder</button></p></form>"
    door_fields = ("usr", "cla")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        menu = "<ul id=m><li><a href=/sitios>Sitios</a></li><li><a href=/bbdd>Bases de datos</a></li><li><a href=/correo>Correo</a></li><li><a href=/salir>Salir</a></li></ul>"
        tabs = "<div id=t><a href=/bbdd>Bases</a> <a href=/bbdd/usuarios>Usuarios</a> <a href=/bbdd/asignar>Asignar</a></div>"
        if path == "/bbdd/nueva" and method == "POST":
            self.state.databases[f"t5_{sent['nombre']}"] = {}
            return 302, "/bbdd", ""
        if path == "/bbdd/usuarios/nuevo" and method == "POST":
            if sent["c1"] != sent["c2"]:
                return self.html(f"{menu}{tabs}<p class=aviso>Las contraseñas no coinciden.</p>")
            self.state.users[f"t5_{sent['nombre']}"] = sent["c1"]
            return 302, "/bbdd/usuarios", ""
        if path == "/bbdd/asignar":
            if method == "POST":
                for database in [v for n, v in fields if n == "bases[]"]:
                    for user in [v for n, v in fields if n == "usuarios[]"]:
                        self.state.databases[database][user] = list(RIGHTS)
                return self.html(f"{menu}{tabs}<p class=bien>Asignación guardada.</p>")
            bases = "".join(f"<option value={d}>{d}</option>" for d in self.state.databases)
            people = "".join(f"<option value={u}>{u}</option>" for u in self.state.users)
            return self.html(
                f"{menu}{tabs}<h1>Asignar usuarios a bases</h1><form method=post action=/bbdd/asignar><label>Usuarios<br><select name='usuarios[]' multiple size=5>{people}</select></label><label>Bases<br><select name='bases[]' multiple size=5>{bases}</select></label><button>Asignar con todos los privilegios</button></form>"
            )
        for base, held in (("/bbdd/borrar", self.state.databases), ("/bbdd/usuarios/borrar", self.state.users)):
            if path == base:
                if method == "POST":
                    self.drops += 1
                    held.pop(sent["nombre"])
                    for grants in self.state.databases.values():
                        grants.pop(sent["nombre"], None)
                    return 302, "/bbdd", ""
                return self.html(
                    f"{menu}{tabs}<h1>¿Borrar {asked['n']}?</h1><form method=post action={base}><input type=hidden name=nombre value={asked['n']}><button>Sí, borrar</button> <a href=/bbdd>No</a></form>"
                )
        if path == "/bbdd/usuarios":
            rows = "".join(
                f"<tr><td>{u}</td><td><a href='/bbdd/usuarios/borrar?n={u}'>Borrar</a></td></tr>"
                for u in self.state.users
            )
            return self.html(
                f"{menu}{tabs}<h1>Usuarios de bases de datos</h1><table>{rows}</table><h2>Nuevo usuario</h2><form method=post action=/bbdd/usuarios/nuevo><label>Nombre t5_<input name=nombre></label><label>Contraseña <input name=c1 type=password></label><label>Otra vez <input name=c2 type=password></label><button>Crear</button></form>"
            )
        if path == "/bbdd":
            rows = "".join(
                f"<tr><td>{d}</td><td>{', '.join(g)}</td><td><a href='/bbdd/borrar?n={d}'>Borrar</a></td></tr>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{menu}{tabs}<h1>Bases de datos</h1><table>{rows}</table><h2>Nueva base</h2><form method=post action=/bbdd/nueva><label>Nombre t5_<input name=nombre></label><button>Crear</button></form>"
            )
        return self.html(menu + "<h1>Panel</h1>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"t5_vieja": {"t5_vieja": list(RIGHTS)}}
        self.state.users = {"t5_vieja": "of-yore"}


NINTH: dict[str, Callable[[], HandPanel]] = {"ledger": Ledger, "werkbank": Werkbank, "taller": Taller}
