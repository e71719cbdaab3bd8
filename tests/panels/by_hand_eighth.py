"""An eighth lot of panels by hand, written before the reading was tried on them."""

from __future__ import annotations

from collections.abc import Callable

from tests.panels.by_hand import Answer, HandPanel
from tests.panels.yard import RIGHTS


class Numbered(HandPanel):
    """German: only a description and a password are asked for; the panel numbers database and user, and tells both on the next page."""

    door = "<form method=post action=/login.html><h2>Kundenbereich</h2><label>Benutzername oder Kundennummer</label><input name=benutzer><label>Passwort</label><input type=password name=pass><input type=submit value=Login></form>"
    door_fields = ("benutzer", "pass")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<div id=nav><a href=/uebersicht.html>Übersicht</a> <a href=/vertrag/12.html>Webhosting M</a> <a href=/rechnungen.html>Rechnungen</a> <a href=/logout.html>Logout</a></div>"
        sub = "<div id=sub><a href=/vertrag/12/domains.html>Domains</a> <a href=/vertrag/12/ftp.html>FTP-Zugänge</a> <a href=/vertrag/12/mysql.html>MySQL-Datenbanken</a> <a href=/vertrag/12/mail.html>E-Mail-Postfächer</a></div>"
        if path == "/vertrag/12/mysql/neu.html":
            if method == "POST":
                if len(sent.get("pw", "")) < 10 or sent["pw"] != sent["pw2"]:
                    return self.html(
                        top + sub + "<p class=fehler>Das Passwort ist zu kurz oder die Eingaben sind verschieden.</p>"
                    )
                number = 30 + len(self.state.databases)
                name, user = f"db12_{number}", f"dbu12_{number}"
                self.state.databases[name] = {user: list(RIGHTS)}
                self.state.users[user] = sent["pw"]
                return self.html(
                    f"{top}{sub}<h1>Datenbank angelegt</h1><table><tr><td>Datenbankname</td><td>{name}</td></tr><tr><td>Benutzername</td><td>{user}</td></tr><tr><td>Server</td><td>db5.estuary.example</td></tr></table><a href=/vertrag/12/mysql.html>zur Liste</a>"
                )
            return self.html(
                f"{top}{sub}<h1>Neue MySQL-Datenbank</h1><p>Datenbankname und Benutzername werden automatisch vergeben.</p><form method=post action=/vertrag/12/mysql/neu.html><label>Beschreibung (freiwillig)</label><input name=text><label>Passwort</label><input type=password name=pw><label>Passwort wiederholen</label><input type=password name=pw2><input type=submit value='Datenbank anlegen'></form>"
            )
        if path.startswith("/vertrag/12/mysql/loeschen/"):
            name = path.rsplit("/", 1)[1].removesuffix(".html")
            if method == "POST":
                self.drops += 1
                for user in self.state.databases.pop(name):
                    self.state.users.pop(user, None)
                return 302, "/vertrag/12/mysql.html", ""
            return self.html(
                f"{top}{sub}<h1>Datenbank löschen</h1><p>Soll die Datenbank {name} mit ihrem Benutzer gelöscht werden?</p><form method=post action={path}><input type=submit value='Ja'></form><a href=/vertrag/12/mysql.html>Nein</a>"
            )
        if path == "/vertrag/12/mysql.html":
            rows = "".join(
                f"<tr><td>{d}</td><td>{', '.join(g)}</td><td><a href=/vertrag/12/mysql/loeschen/{d}.html>löschen</a></td></tr>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{top}{sub}<h1>MySQL-Datenbanken</h1><p>Belegt: {len(self.state.databases)} von 20</p><table><tr><th>Datenbank</th><th>Benutzer</th><th>Aktion</th></tr>{rows}</table><a href=/vertrag/12/mysql/neu.html>Datenbank hinzufügen</a>"
            )
        if path.startswith("/vertrag/12"):
            return self.html(top + sub + "<h1>Webhosting M</h1>")
        return self.html(top + "<h1>Übersicht</h1><p>Ein Vertrag.</p>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"db12_7": {"dbu12_7": list(RIGHTS)}}
        self.state.users = {"dbu12_7": "of-yore"}


class Boutons(HandPanel):
    """French: everything about a database on its page; users are added there with a level; what is deleted wants a word typed."""

    door = "<h1>Espace client</h1><form method=post action=/connexion><p><label for=m>Adresse de courriel ou numéro de client</label><input id=m name=m></p><p><label for=p>Mot de passe</label><input id=p name=p type=password></p><p><button>Connexion</button></p></form>"
    door_fields = ("m", "p")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        nav = "<nav><a href=/>Tableau de bord</a><a href=/hebergement>Hébergement</a><a href=/hebergement/sql>Bases SQL</a><a href=/hebergement/ftp>Comptes FTP</a><a href=/factures>Factures</a><a href=/deconnexion>Déconnexion</a></nav>"
        if path == "/hebergement/sql/nouvelle":
            if method == "POST":
                name = f"cl4_{sent['nom']}"
                self.state.databases[name] = {}
                return 302, f"/hebergement/sql/{name}", ""
            return self.html(
                f"{nav}<h1>Nouvelle base</h1><form method=post action=/hebergement/sql/nouvelle><fieldset><legend>Moteur</legend><label><input type=radio name=moteur value=mariadb checked> MariaDB</label><label><input type=radio name=moteur value=postgresql> PostgreSQL</label></fieldset><label>Nom : cl4_<input name=nom></label><button>Créer la base</button></form>"
            )
        if path.startswith("/hebergement/sql/"):
            name, _, act = path.removeprefix("/hebergement/sql/").partition("/")
            if name not in self.state.databases:
                return 404, "", "<html><body>Introuvable</body></html>"
            grants = self.state.databases[name]
            if act == "ajouter" and method == "POST":
                user = f"cl4_{sent['login']}"
                self.state.users[user] = sent["mdp"]
                grants[user] = list(RIGHTS) if sent["droits"] == "tous" else ["SELECT"]
                return 302, f"/hebergement/sql/{name}", ""
            if act == "supprimer":
                if method == "POST":
                    if sent.get("mot") != name:
                        return self.html(f"{nav}<p class=erreur>Le nom ne correspond pas.</p>")
                    self.drops += 1
                    self.state.databases.pop(name)
                    for user in grants:
                        self.state.users.pop(user, None)
                    return 302, "/hebergement/sql", ""
                return self.html(
                    f"{nav}<h1>Supprimer la base {name}</h1><form method=post action={path}><label>Pour confirmer, tapez le nom de la base <input name=mot></label><button>Supprimer définitivement</button></form>"
                )
            rows = "".join(
                f"<tr><td>{u}</td><td>{'tous' if len(r) == len(RIGHTS) else 'lecture'}</td></tr>"
                for u, r in grants.items()
            )
            return self.html(
                f"{nav}<h1>Base {name}</h1><table><tr><th>Utilisateur</th><th>Droits</th></tr>{rows}</table><h2>Ajouter un utilisateur</h2><form method=post action=/hebergement/sql/{name}/ajouter><label>Identifiant : cl4_<input name=login></label><label>Mot de passe <input name=mdp type=password></label><label>Droits <select name=droits><option value=lecture>lecture seule</option><option value=tous>tous les droits</option></select></label><button>Ajouter</button></form><p><a href=/hebergement/sql/{name}/supprimer>Supprimer cette base</a></p>"
            )
        if path == "/hebergement/sql":
            rows = "".join(f"<li><a href=/hebergement/sql/{d}>{d}</a></li>" for d in self.state.databases)
            return self.html(
                f"{nav}<h1>Bases SQL</h1><ul>{rows}</ul><a class=bouton href=/hebergement/sql/nouvelle>Nouvelle base</a>"
            )
        return self.html(nav + "<h1>Tableau de bord</h1>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"cl4_ancienne": {"cl4_ancienne": list(RIGHTS)}}
        self.state.users = {"cl4_ancienne": "of-yore"}


class Konsola(HandPanel):
    """Polish: one form with a kind, a name and a password twice; the user has the database's name; deleting by a list of names and one button."""

    door = "<form method=post action=/logowanie><p>Login: <input name=login></p><p>Hasło: <input name=haslo type=password></p><button>Zaloguj się</button></form>"
    door_fields = ("login", "haslo")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        nav = "<div><a href=/start>Start</a> | <a href=/domeny>Domeny</a> | <a href=/bazy>Bazy danych</a> | <a href=/poczta>Poczta</a> | <a href=/wyloguj>Wyloguj się</a></div>"
        if path == "/bazy/dodaj":
            name = f"{sent['rodzaj'][0]}9_{sent['nazwa']}"
            if sent["h1"] != sent["h2"]:
                return self.html(f"{nav}<p class=blad>Hasła nie są takie same.</p>")
            self.state.databases[name] = {name: list(RIGHTS)}
            self.state.users[name] = sent["h1"]
            return self.html(
                f"{nav}<h1>Bazy danych</h1><p class=info>Utworzono bazę danych i użytkownika o nazwie {name}.</p><a href=/bazy>Wróć do listy</a>"
            )
        if path == "/bazy/usun":
            name = sent["ktora"]
            if "tak" not in sent:
                return self.html(
                    f"{nav}<h1>Usunąć {name}?</h1><form method=post action=/bazy/usun><input type=hidden name=ktora value={name}><button name=tak value=1>Tak, usuń bazę</button></form><a href=/bazy>Nie</a>"
                )
            self.drops += 1
            self.state.databases.pop(name)
            self.state.users.pop(name)
            return 302, "/bazy", ""
        if path == "/bazy":
            rows = "".join(f"<tr><td>{d}</td><td>{', '.join(g)}</td></tr>" for d, g in self.state.databases.items())
            names = "".join(f"<option>{d}</option>" for d in self.state.databases)
            return self.html(
                f"{nav}<h1>Bazy danych</h1><table><tr><th>Baza</th><th>Użytkownik</th></tr>{rows}</table><h2>Nowa baza</h2><form method=post action=/bazy/dodaj><p>Rodzaj: <select name=rodzaj><option value=mysql>MySQL</option><option value=pgsql>PostgreSQL</option></select></p><p>Nazwa: <input name=nazwa></p><p>Hasło: <input name=h1 type=password></p><p>Powtórz hasło: <input name=h2 type=password></p><button>Utwórz bazę</button></form><h2>Usuwanie</h2><form method=post action=/bazy/usun><select name=ktora>{names}</select><button>Usuń wybraną bazę</button></form>"
            )
        return self.html(nav + "<h1>Start</h1>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"m9_stara": {"m9_stara": list(RIGHTS)}}
        self.state.users = {"m9_stara": "of-yore"}


EIGHTH: dict[str, Callable[[], HandPanel]] = {"numbered": Numbered, "boutons": Boutons, "konsola": Konsola}
