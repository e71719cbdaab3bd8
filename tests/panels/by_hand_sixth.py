"""A sixth lot of panels by hand, written before the reading was tried on them."""

from __future__ import annotations

from collections.abc import Callable

from tests.panels.by_hand import Answer, HandPanel
from tests.panels.yard import RIGHTS


class Boathouse(HandPanel):
    """English: a contract is chosen first; a database's page has its users below; a user is made there, with all rights, and a confirmation by number."""

    door = "<main><h1>Boathouse</h1><form method=post action=/enter><p><label for=who>Customer number or e-mail</label><br><input id=who name=who></p><p><label for=how>Password</label><br><input id=how name=how type=password></p><p><label><input type=checkbox name=stay value=1> Stay signed in</label></p><p><button>Enter</button></p></form></main>"
    door_fields = ("who", "how")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<header><a href=/>All packages</a> <a href=/bills>Bills</a> <a href=/help>Help</a> <form method=post action=/leave><button>Leave</button></form></header>"
        side = "<aside><a href=/p/77/>Overview</a><a href=/p/77/files>Files</a><a href=/p/77/sql>Databases (MariaDB)</a><a href=/p/77/post>Post boxes</a><a href=/p/77/end>Cancel this package</a></aside>"
        if path == "/p/77/end":
            if method == "POST":
                self.state.databases.clear()
            return self.html(
                top + side + "<form method=post action=/p/77/end><button>Cancel this package</button></form>"
            )
        if path == "/p/77/sql/add" and method == "POST":
            name = f"p77_{sent['word']}"
            if not sent["word"].isalnum() or name in self.state.databases:
                return self.html(f"{top}{side}<p role=alert>{name} cannot be used as a name.</p>")
            self.state.databases[name] = {}
            return 302, f"/p/77/sql/{name}", ""
        if path == "/p/77/sql/add":
            return self.html(
                f"{top}{side}<h1>Add a database</h1><form method=post action=/p/77/sql/add><p><label>Name<br>p77_<input name=word maxlength=12></label></p><p><label>What is it for? (optional)<br><input name=note></label></p><button>Add</button> <a href=/p/77/sql>Never mind</a></form>"
            )
        if path.startswith("/p/77/sql/"):
            name = path.split("/")[4]
            grants = self.state.databases.get(name, {})
            act = path.split("/")[5] if path.count("/") > 4 else ""
            if act == "people" and method == "POST":
                user = f"p77_{sent['user']}"
                if len(sent["pw"]) < 12:
                    return self.html(f"{top}{side}<p role=alert>A password needs twelve characters.</p>")
                grants[user] = list(RIGHTS) if sent.get("may") == "all" else ["SELECT"]
                self.state.users[user] = sent["pw"]
                return 302, f"/p/77/sql/{name}", ""
            if act == "drop":
                if method == "POST":
                    self.drops += 1
                    self.state.databases.pop(name)
                    for user in grants:
                        self.state.users.pop(user, None)
                    return 302, "/p/77/sql", ""
                return self.html(
                    f"{top}{side}<h1>Remove {name}</h1><p>All its tables and people go with it.</p><form method=post action=/p/77/sql/{name}/drop><button class=red>Remove it for good</button> <a href=/p/77/sql/{name}>Keep it</a></form>"
                )
            if name not in self.state.databases:
                return 404, "", "<html><body>Not here.</body></html>"
            people = "".join(
                f"<tr><td>{u}</td><td>{'everything' if len(r) == len(RIGHTS) else 'look only'}</td></tr>"
                for u, r in grants.items()
            )
            return self.html(
                f"{top}{side}<h1>{name}</h1><p>Server: <code>sql7.estuary.example</code>, port 3306</p><h2>People</h2><table><tr><th>Login</th><th>May</th></tr>{people}</table><h3>Add somebody</h3><form method=post action=/p/77/sql/{name}/people><p><label>Login p77_<input name=user></label></p><p><label>Password <input name=pw type=password minlength=12></label></p><p><label><input type=radio name=may value=look checked> may look only</label> <label><input type=radio name=may value=all> may do everything</label></p><button>Add somebody</button></form><p><a href=/p/77/sql/{name}/drop>Remove this database</a></p>"
            )
        if path == "/p/77/sql":
            rows = "".join(
                f"<li><a href=/p/77/sql/{d}>{d}</a> ({len(g)} people)</li>" for d, g in self.state.databases.items()
            )
            return self.html(
                f"{top}{side}<h1>Databases</h1><p>{len(self.state.databases)} of 10 used.</p><ul>{rows}</ul><p><a class=btn href=/p/77/sql/add>Add a database</a></p>"
            )
        if path.startswith("/p/77"):
            return self.html(top + side + "<h1>Package 77: ferry museum</h1>")
        return self.html(
            top + "<h1>Your packages</h1><ul><li><a href=/p/77/>Package 77</a> ferry.saltmarsh.example</li></ul>"
        )

    def old(self) -> None:
        super().old()
        self.state.databases = {"p77_old": {"p77_old": list(RIGHTS)}}
        self.state.users = {"p77_old": "of-yore"}


class Kontor(HandPanel):
    """German: a table with a form in its foot for name, user and password at once; a drop by boxes and a list of acts; all in one page with tabs."""

    door = "<form method=post action=/anmelden><table><tr><td>Kundennummer</td><td><input name=kdnr></td></tr><tr><td>Kennwort</td><td><input name=kw type=password></td></tr><tr><td></td><td><input type=submit value=Anmelden></td></tr></table></form>"
    door_fields = ("kdnr", "kw")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        tabs = "<ul><li><a href=/domains>Domains</a></li><li><a href=/postfaecher>Postfächer</a></li><li><a href=/db>Datenbanken</a></li><li><a href=/dienste>Zeitgesteuerte Aufgaben</a></li><li><a href=/abmelden>Abmelden</a></li></ul>"
        if path == "/db" and method == "POST":
            if sent.get("akt") == "neu":
                name, user = "k4_" + sent["dbn"], "k4_" + sent["dbb"]
                if sent["k1"] != sent["k2"]:
                    return self.html(tabs + "<p class=fehler>Die Kennwörter stimmen nicht überein.</p>")
                if name in self.state.databases or user in self.state.users:
                    return self.html(tabs + "<p class=fehler>Den Namen gibt es schon.</p>")
                self.state.databases[name] = {user: list(RIGHTS)}
                self.state.users[user] = sent["k1"]
                return 302, "/db?ok=1", ""
            if sent.get("akt") == "weg":
                gone = [v for n, v in fields if n == "wahl"]
                if "sicher" not in sent:
                    held = "".join(f"<input type=hidden name=wahl value={g}>" for g in gone)
                    return self.html(
                        f"{tabs}<p>Wirklich löschen: {', '.join(gone)}?</p><form method=post action=/db><input type=hidden name=akt value=weg><input type=hidden name=sicher value=1>{held}<input type=submit value='Ja, löschen'></form><a href=/db>Nein</a>"
                    )
                self.drops += 1
                for name in gone:
                    for user in self.state.databases.pop(name, {}):
                        self.state.users.pop(user, None)
                return 302, "/db", ""
        if path == "/db":
            rows = "".join(
                f"<tr><td><input type=checkbox name=wahl value={d}></td><td>{d}</td><td>{', '.join(g)}</td><td>0,1 MB</td></tr>"
                for d, g in self.state.databases.items()
            )
            told = "<p class=ok>Die Datenbank wurde angelegt.</p>" if asked.get("ok") else ""
            return self.html(
                f"{tabs}<h1>Datenbanken</h1>{told}<form method=post action=/db><input type=hidden name=akt value=weg><table><tr><th></th><th>Name</th><th>Benutzer</th><th>Größe</th></tr>{rows}</table><input type=submit value='Ausgewählte löschen'></form>"
                "<h2>Neue Datenbank</h2><form method=post action=/db><input type=hidden name=akt value=neu><table><tr><td>Name der Datenbank</td><td>k4_<input name=dbn></td></tr><tr><td>Benutzername</td><td>k4_<input name=dbb></td></tr><tr><td>Kennwort</td><td><input name=k1 type=password></td></tr><tr><td>Kennwort wiederholen</td><td><input name=k2 type=password></td></tr></table><input type=submit value='Datenbank anlegen'></form>"
            )
        return self.html(tabs + "<h1>Übersicht</h1><p>Guten Tag!</p>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"k4_alt": {"k4_alt": list(RIGHTS)}}
        self.state.users = {"k4_alt": "of-yore"}


class Passerelle(HandPanel):
    """French: users live by themselves; access is given from the database by a list of people and a list of levels; a page in between says what will be done."""

    door = "<h1>Passerelle</h1><form method=post action=/session><label>Identifiant<input name=id></label><label>Mot de passe<input type=password name=mp></label><button>Se connecter</button></form>"
    door_fields = ("id", "mp")

    def __init__(self) -> None:
        super().__init__()
        self.asked: dict[str, str] = {}

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        nav = "<nav><a href=/accueil>Accueil</a><a href=/sites>Sites</a><a href=/bases>Bases de données</a><a href=/bases/utilisateurs>Utilisateurs des bases</a><a href=/courriels>Courriels</a><a href=/quitter>Se déconnecter</a></nav>"
        if path == "/bases/creer":
            if method == "POST":
                if "confirme" not in sent:
                    return self.html(
                        f"{nav}<h1>Récapitulatif</h1><p>La base <b>pl_{sent['nom']}</b> va être créée.</p><form method=post action=/bases/creer><input type=hidden name=nom value='{sent['nom']}'><input type=hidden name=confirme value=1><button>Confirmer</button> <a href=/bases/creer>Modifier</a></form>"
                    )
                self.state.databases[f"pl_{sent['nom']}"] = {}
                return 302, "/bases", ""
            return self.html(
                f"{nav}<h1>Créer une base</h1><form method=post action=/bases/creer><label>Nom (le préfixe pl_ sera ajouté) <input name=nom></label><label>Interclassement <select name=inter><option selected>utf8mb4_general_ci</option><option>utf8mb4_unicode_ci</option></select></label><button>Continuer</button></form>"
            )
        if path == "/bases/utilisateurs/creer":
            if method == "POST":
                self.state.users[f"pl_{sent['nom']}"] = sent["mp1"]
                return 302, "/bases/utilisateurs", ""
            return self.html(
                f"{nav}<h1>Nouvel utilisateur</h1><form method=post action=/bases/utilisateurs/creer><label>Nom (le préfixe pl_ sera ajouté) <input name=nom></label><label>Mot de passe <input type=password name=mp1></label><label>Encore une fois <input type=password name=mp2></label><button>Créer</button></form>"
            )
        if path.startswith("/bases/acces/"):
            name = path.rpartition("/")[2]
            if method == "POST":
                self.state.databases[name][sent["qui"]] = list(RIGHTS) if sent["niveau"] == "3" else ["SELECT"]
                return 302, "/bases", ""
            people = "".join(f"<option>{u}</option>" for u in self.state.users)
            return self.html(
                f"{nav}<h1>Accès à {name}</h1><form method=post action=/bases/acces/{name}><label>Qui <select name=qui>{people}</select></label><label>Niveau <select name=niveau><option value=1>lecture seule</option><option value=2>lecture et écriture</option><option value=3>tous les droits</option></select></label><button>Donner l'accès</button></form>"
            )
        for kind, base in (("bases", "/bases/supprimer/"), ("users", "/bases/utilisateurs/supprimer/")):
            if path.startswith(base):
                name = path.rpartition("/")[2]
                if method == "POST":
                    self.drops += 1
                    if kind == "bases":
                        self.state.databases.pop(name)
                    else:
                        self.state.users.pop(name)
                        for grants in self.state.databases.values():
                            grants.pop(name, None)
                    return 302, "/bases" if kind == "bases" else "/bases/utilisateurs", ""
                return self.html(
                    f"{nav}<h1>Supprimer {name} ?</h1><form method=post action={path}><button>Oui, supprimer</button> <a href=/bases>Non</a></form>"
                )
        if path == "/bases/utilisateurs":
            rows = "".join(
                f"<tr><td>{u}</td><td><a href=/bases/utilisateurs/supprimer/{u}>Supprimer</a></td></tr>"
                for u in self.state.users
            )
            return self.html(
                f"{nav}<h1>Utilisateurs des bases</h1><table>{rows}</table><a href=/bases/utilisateurs/creer>Nouvel utilisateur</a>"
            )
        if path == "/bases":
            rows = "".join(
                f"<tr><td>{d}</td><td>{', '.join(f'{u} ({len(r)} droits)' for u, r in g.items()) or '—'}</td><td><a href=/bases/acces/{d}>Accès</a> <a href=/bases/supprimer/{d}>Supprimer</a></td></tr>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{nav}<h1>Bases de données</h1><table><tr><th>Base</th><th>Utilisateurs</th><th></th></tr>{rows}</table><a href=/bases/creer>Créer une base</a>"
            )
        return self.html(nav + "<h1>Bonjour</h1>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"pl_ancien": {"pl_ancien": list(RIGHTS)}}
        self.state.users = {"pl_ancien": "of-yore"}


class Tideway(HandPanel):
    """English, for many services: a catalogue with "New service", the kind by radio, then name and password only: the user is called as the database is."""

    door = "<form method=post action=/auth><input name=email placeholder='Customer number'><input name=secret type=password placeholder='Your password'><button>Sign in</button></form>"
    door_fields = ("email", "secret")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<nav><a href=/services>Services</a> <a href=/services/new>New service</a> <a href=/account>Account</a> <a href=/out>Sign out</a></nav>"
        if path == "/services/new":
            if method == "POST" and "kind" in sent:
                return 302, f"/services/new/{sent['kind']}", ""
            return self.html(
                top
                + "<h1>New service</h1><form method=post action=/services/new><label><input type=radio name=kind value=site checked> Website</label><label><input type=radio name=kind value=mysql> MySQL database</label><label><input type=radio name=kind value=pg> PostgreSQL database</label><label><input type=radio name=kind value=mail> Mailbox</label><button>Next</button></form>"
            )
        if path == "/services/new/mysql":
            if method == "POST":
                name = f"c1042_{sent['label']}"
                self.state.databases[name] = {name: list(RIGHTS)}
                self.state.users[name] = sent["password"]
                return 302, f"/services/mysql/{name}", ""
            return self.html(
                top
                + "<h1>New MySQL database</h1><form method=post action=/services/new/mysql><p>It will be called c1042_ and what you write here; its user is called the same.</p><label>Name <input name=label></label><label>Password <input name=password type=password></label><button>Order now (free of charge)</button></form>"
            )
        if path.startswith("/services/mysql/"):
            name = path.split("/")[3]
            if name not in self.state.databases:
                return 404, "", f"<html><body>{top}<p>There is no service {name}.</p></body></html>"
            if path.endswith("/delete"):
                if method == "POST" and sent.get("name") == name:
                    self.drops += 1
                    self.state.databases.pop(name)
                    self.state.users.pop(name)
                    return 302, "/services", ""
                return self.html(
                    f"{top}<h1>Delete {name}</h1><form method=post action={path}><label>To be sure, write the name of the database <input name=name></label><button>Delete</button></form>"
                )
            return self.html(
                f"{top}<h1>MySQL database {name}</h1><dl><dt>Host<dd>mysql.tideway.example<dt>Database<dd>{name}<dt>User<dd>{name}</dl><a href=/services/mysql/{name}/delete>Delete this service</a>"
            )
        if path == "/services":
            rows = "".join(
                f"<tr><td>MySQL</td><td><a href=/services/mysql/{d}>{d}</a></td><td>running</td></tr>"
                for d in self.state.databases
            )
            return self.html(
                f"{top}<h1>Services</h1><table><tr><th>Kind</th><th>Name</th><th>State</th></tr><tr><td>Website</td><td><a href=/services/site/1>ferry.saltmarsh.example</a></td><td>running</td></tr>{rows}</table>"
            )
        return self.html(top + "<h1>Hello</h1>")


SIXTH: dict[str, Callable[[], HandPanel]] = {
    "boathouse": Boathouse,
    "kontor": Kontor,
    "passerelle": Passerelle,
    "tideway": Tideway,
}
