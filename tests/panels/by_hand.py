"""Panels written by hand, each by another taste than the yard's, before any reading was tried on them. Same seam as the yard."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from urllib.parse import parse_qsl, urlsplit

from tests.panels.yard import RIGHTS, State

Answer = tuple[int, str, str]


class HandPanel:
    """State, a door, and `pages`, which a panel of its own fills in."""

    door = "<h2>Members</h2><form method=post action=/in><dl><dt>E-mail<dd><input name=mail><dt>Password<dd><input type=password name=key></dl><button>Go</button></form>"
    door_fields = ("mail", "key")
    login, password = "c1042", "let-me-in"
    impossible = False

    def __init__(self) -> None:
        self.state = State()
        self.inside = False
        self.drops = 0
        self.old()

    def old(self) -> None:
        self.state.databases = {"c1042_old": {"c1042_old": list(RIGHTS)}}
        self.state.users = {"c1042_old": "of-yore"}
        self.state.others = {"mail": ["info@ferry.saltmarsh.example"]}

    @property
    def wrong_presses(self) -> int:
        return self.drops

    def answer(self, method: str, url: str, fields: Sequence[tuple[str, str]], session: str) -> Answer:
        parts = urlsplit(url)
        asked, sent = dict(parse_qsl(parts.query, keep_blank_values=True)), dict(fields)
        if not self.inside:
            name, key = (sent.get(f) for f in self.door_fields)
            if method == "POST" and (name, key) == (self.login, self.password):
                self.inside = True
                return 302, "/", ""
            return 200, "", f"<html><title>Estuary hosting</title><body>{self.door}</body></html>"
        return self.pages(method, parts.path, asked, sent, list(fields))

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        raise NotImplementedError

    @staticmethod
    def html(body: str) -> Answer:
        return 200, "", f"<html><head><title>Estuary hosting</title></head><body>{body}</body></html>"


class Modules(HandPanel):
    """One address with modules in the query; the list's last row is the form of a new one; several are dropped together by a list of acts."""

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        menu = '<div id=menu><a href="?m=start">Start</a> | <a href="?m=web">Web</a> | <a href="?m=sql">SQL</a> | <a href="?m=pop">POP accounts</a> | <a href="?m=bye">Logout</a></div>'
        if asked.get("m") == "sql":
            if method == "POST" and sent.get("act") == "add":
                name = f"c1042_{sent['n']}"
                if sent.get("a") != sent.get("b") or len(sent.get("a", "")) < 8:
                    return self.html(menu + "<div class=msg-error>Passwords differ or are too short</div>")
                self.state.databases[name] = {name: list(RIGHTS)}
                self.state.users[name] = sent["a"]
                return 302, "/?m=sql", ""
            if method == "POST" and sent.get("act") == "many":
                self.drops += 1
                gone = [v for n, v in fields if n == "sel[]"]
                if sent.get("do") == "drop" and "really" not in sent:
                    held = "".join(f"<input type=hidden name='sel[]' value='{g}'>" for g in gone)
                    return self.html(
                        menu
                        + f"<h3>Drop {', '.join(gone)}?</h3><form method=post action='?m=sql'><input type=hidden name=act value=many><input type=hidden name=do value=drop><input type=hidden name=really value=1>{held}<input type=submit value='Yes, drop it'></form>"
                    )
                for name in gone:
                    self.state.databases.pop(name, None)
                    self.state.users.pop(name, None)
                return 302, "/?m=sql", ""
            rows = "".join(
                f"<tr><td><input type=checkbox name='sel[]' value='{d}'></td><td>{d}</td><td>{d}</td><td>0</td></tr>"
                for d in self.state.databases
            )
            return self.html(
                f"{menu}<h3>SQL</h3><form method=post action='?m=sql'><input type=hidden name=act value=many><table><tr><th></th><th>Database</th><th>User</th><th>Tables</th></tr>{rows}</table>"
                "<select name=do><option value=''>with the ticked...</option><option value=drop>drop</option></select><input type=submit value='Do it'></form>"
                "<form method=post action='?m=sql'><input type=hidden name=act value=add><fieldset><legend>Another database</legend>"
                "c1042_<input name=n size=10 maxlength=16> Password <input type=password name=a> once more <input type=password name=b><input type=submit value='Add it'></fieldset></form>"
            )
        if asked.get("m") == "bye":
            self.inside = False
            return 302, "/", ""
        return self.html(menu + "<h3>Start</h3><p>Hello ferry museum.</p>")


class Detail(HandPanel):
    """Everything about a database is on tabs of its own page; a user is made or taken there, by two radio buttons; drops by typing the name."""

    door = "<h1>Estuary</h1><form action='/session' method='post'><input name='username' placeholder='Username'><input name='pw' type='password' placeholder='Password'><button type='submit'>Log in</button></form>"
    door_fields = ("username", "pw")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        side = "<aside><a href='/'>Dashboard</a><a href='/sites'>Sites</a><a href='/data'>Databases</a><a href='/people'>People</a><form method='post' action='/bye'><button>Sign out</button></form></aside>"
        part = path.strip("/").split("/")
        if path == "/bye":
            self.inside = False
            return 302, "/", ""
        if path == "/people":
            if method == "POST":
                self.state.others.setdefault("people", []).append(sent.get("name", ""))
            return self.html(
                side
                + "<h1>People who may sign in here</h1><form method=post action=/people><label>Name <input name=name></label><label>Password <input name=pw type=password></label><button>Invite user</button></form>"
            )
        if path == "/data" and method == "POST":
            self.state.databases[sent["label"]] = {}
            return 302, f"/data/{sent['label']}", ""
        if path == "/data":
            rows = "".join(f"<li class=row><a href='/data/{d}'><b>{d}</b></a></li>" for d in self.state.databases)
            return self.html(
                f"{side}<h1>Databases</h1><ul>{rows}</ul><details><summary>New database</summary><form method=post action=/data><label>Label<input name=label required pattern='[a-z0-9_]+'></label><label>Region<select name=region><option>north</option><option>south</option></select></label><button>Create</button></form></details>"
            )
        if part[0] == "data" and len(part) >= 2 and part[1] in self.state.databases:
            name = part[1]
            grants = self.state.databases[name]
            if method == "POST" and part[2:] == ["access"]:
                user = sent.get("who", "")
                if sent.get("mode") == "new":
                    user = sent.get("login", "")
                    if not user or user in self.state.users or len(sent.get("secret", "")) < 8:
                        return self.html(
                            f"{side}<h1>{name}</h1><p role=alert>Login is taken or the password is too weak</p>"
                        )
                    self.state.users[user] = sent["secret"]
                grants[user] = list(RIGHTS) if sent.get("level") == "full" else ["SELECT"]
                return 302, f"/data/{name}/access", ""
            if method == "POST" and part[2:] == ["remove"]:
                self.drops += 1
                if sent.get("typed") == name:
                    for user in self.state.databases.pop(name):
                        if not any(user in g for g in self.state.databases.values()):
                            self.state.users.pop(user, None)
                    return 302, "/data", ""
                return self.html(f"{side}<h1>{name}</h1><p role=alert>That is not the name</p>")
            tabs = f"<nav><a href='/data/{name}'>About</a><a href='/data/{name}/access'>Access</a><a href='/data/{name}/remove'>Remove</a></nav>"
            if part[2:] == ["access"]:
                have = "".join(f"<li>{u} ({'full' if len(r) > 1 else 'read'})</li>" for u, r in grants.items())
                users = "".join(f"<option>{u}</option>" for u in self.state.users)
                return self.html(
                    f"{side}<h1>{name}</h1>{tabs}<ul>{have}</ul><form method=post action='/data/{name}/access'><h2>Give access</h2>"
                    f"<label><input type=radio name=mode value=old checked> Existing user</label><select name=who>{users}</select>"
                    "<label><input type=radio name=mode value=new> New user</label><label>Login<input name=login></label><label>Password<input name=secret type=password></label>"
                    "<label>Level<select name=level><option value=read>Read only</option><option value=full>Full control</option></select></label><button>Give access</button></form>"
                )
            if part[2:] == ["remove"]:
                return self.html(
                    f"{side}<h1>{name}</h1>{tabs}<form method=post action='/data/{name}/remove'><label>Type the name of the database to remove it<input name=typed></label><button>Remove for good</button></form>"
                )
            return self.html(f"{side}<h1>{name}</h1>{tabs}<p>Server: db3.saltmarsh.example, port 3306</p>")
        return self.html(side + "<h1>Dashboard</h1><p>All well.</p>")


class Frames(HandPanel):
    """A menu and a content in frames; a wizard of three pages; rights as one list; a user is deleted on its own page."""

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        if path == "/":
            return (
                200,
                "",
                "<html><frameset cols='20%,*'><frame name=menu src='/menu'><frame name=main src='/main'></frameset></html>",
            )
        if path == "/menu":
            return self.html(
                "<a href=/main target=main>Home</a><br><a href=/mysql target=main>MySQL</a><br><a href=/logout target=_top>Log off</a>"
            )
        if path == "/mysql":
            rows = "".join(
                f"<tr><td>{d}</td><td>{'<br>'.join(g)}</td><td><a href='/mysql/del?db={d}'><img src=x.gif alt='delete'></a></td></tr>"
                for d, g in self.state.databases.items()
            )
            users = "".join(
                f"<tr><td>{u}</td><td><a href='/mysql/deluser?user={u}'><img src=x.gif alt='delete'></a></td></tr>"
                for u in self.state.users
            )
            return self.html(
                f"<h2>MySQL</h2><a href=/mysql/wizard>New database in three steps</a><table border=1><tr><td>database</td><td>users</td><td></td></tr>{rows}</table><table border=1><tr><td>user</td><td></td></tr>{users}</table>"
            )
        if path == "/mysql/wizard":
            step = sent.get("step", "1")
            if step == "1":
                return self.html(
                    "<h2>Step 1 of 3</h2><form method=post action=/mysql/wizard><input type=hidden name=step value=2>Name of the new database: c1042_<input name=db><input type=submit value='Next step'></form>"
                )
            if step == "2":
                self.state.databases[f"c1042_{sent['db']}"] = {}
                return self.html(
                    f"<h2>Step 2 of 3</h2><form method=post action=/mysql/wizard><input type=hidden name=step value=3><input type=hidden name=db value='c1042_{sent['db']}'>User: c1042_<input name=user><br>Password: <input type=password name=p1><br>Again: <input type=password name=p2><br><input type=submit value='Create user'></form>"
                )
            if step == "3":
                if sent["p1"] != sent["p2"]:
                    return self.html("<font color=red>Passwords do not match</font>")
                self.state.users[f"c1042_{sent['user']}"] = sent["p1"]
                boxes = "".join(f"<input type=checkbox name=p value='{r}'>{r}" for r in RIGHTS)
                return self.html(
                    f"<h2>Step 3 of 3</h2><form method=post action=/mysql/wizard><input type=hidden name=step value=4><input type=hidden name=db value='{sent['db']}'><input type=hidden name=user value='c1042_{sent['user']}'><input type=checkbox name=p value=ALL> every right<br>{boxes}<br><input type=submit value='Next step'></form>"
                )
            may = [v for n, v in fields if n == "p"]
            self.state.databases[sent["db"]][sent["user"]] = (
                list(RIGHTS) if "ALL" in may else [r for r in may if r in RIGHTS]
            )
            return self.html("<h2>Done</h2><p>The user was added to the database.</p><a href=/mysql>back</a>")
        if path in ("/mysql/del", "/mysql/deluser"):
            key = "db" if path == "/mysql/del" else "user"
            name = sent.get(key) or asked.get(key, "")
            if method == "POST":
                self.drops += 1
                if key == "db":
                    self.state.databases.pop(name)
                else:
                    self.state.users.pop(name)
                    for grants in self.state.databases.values():
                        grants.pop(name, None)
                return 302, "/mysql", ""
            return self.html(
                f"Are you sure to delete {name}? <form method=post action={path}><input type=hidden name={key} value='{name}'><input type=submit value=Yes> <a href=/mysql>No</a></form>"
            )
        return self.html("<h2>Hello</h2>")


class Ordered(HandPanel):
    """Swedish, which no list here has: an order form; names are the panel's, and stand on the database's own page a little later, with the password."""

    door = "<h1>Kundzon</h1><form method=post action=/logga-in><p>Kundnummer <input name=kund></p><p>Lösenord <input type=password name=ord></p><button>Logga in</button></form>"
    door_fields = ("kund", "ord")
    impossible = True

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        menu = "<ul><li><a href=/>Start</a><li><a href=/databaser>Databaser</a><li><a href=/ut>Logga ut</a></ul>"
        if path == "/databaser":
            if method == "POST":
                n = len(self.state.databases) + 10
                self.state.databases[f"d{n}"] = {f"u{n}": list(RIGHTS)}
                self.state.users[f"u{n}"] = "Vass-strand-9"
                return 302, "/databaser", ""
            rows = "".join(f"<tr><td>{d}<td>{'/'.join(g)}" for d, g in self.state.databases.items())
            return self.html(
                f"{menu}<h1>Databaser</h1><table>{rows}</table><form method=post><select name=typ><option>MariaDB<option>PostgreSQL</select><button>Beställ ny databas</button></form>"
            )
        return self.html(menu + "<h1>Start</h1>")


class Cards(HandPanel):
    """French: cards with menus of links, databases and users on two tabs, access given from the user's side by boxes, a word of warning to tick."""

    door = "<h1>Espace client</h1><form method=post action=/ouvrir><label for=a>Adresse ou identifiant</label><input id=a name=a><label for=b>Mot de passe</label><input id=b type=password name=b><button>Valider</button></form>"
    door_fields = ("a", "b")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<header><a href=/>Accueil</a> <a href=/produits>Mes produits</a> <a href=/compte>Mon compte</a> <a href=/quitter>Déconnexion</a></header>"
        if path == "/compte":
            return self.html(
                top
                + "<h1>Mon compte</h1><form method=post action=/compte><label>Mot de passe actuel<input type=password name=o></label><label>Nouveau mot de passe<input type=password name=n></label><button>Modifier</button></form>"
            )
        if path == "/produits":
            return self.html(
                top + "<h1>Mes produits</h1><div class=card><h2>Site musée du bac</h2><a href=/p/7>Gérer</a></div>"
            )
        if path == "/p/7":
            return self.html(
                top
                + "<h1>Site musée du bac</h1><a href=/p/7/fichiers>Fichiers</a> <a href=/p/7/bdd>Bases de données</a> <a href=/p/7/mails>E-mails</a>"
            )
        if path == "/p/7/bdd":
            if method == "POST":
                if sent.get("ok") != "1":
                    return self.html(
                        top
                        + "<h1>Bases de données</h1><p class=erreur>Veuillez accepter que l'espace occupé est compté.</p>"
                    )
                self.state.databases["mus_" + sent["nom"]] = {}
                return 302, "/p/7/bdd", ""
            cards = "".join(
                f"<div class=card><h3>{d}</h3><p>{', '.join(g) or 'aucun utilisateur'}</p><a href='/p/7/bdd/effacer?nom={d}'>Effacer</a></div>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{top}<h1>Bases de données</h1><a href=/p/7/utilisateurs>Utilisateurs des bases</a>{cards}<h2>Ajouter une base</h2><form method=post action=/p/7/bdd><label>Nom <input name=nom></label><label><input type=checkbox name=ok value=1> J'accepte que l'espace occupé soit compté</label><button>Ajouter</button></form>"
            )
        if path == "/p/7/bdd/effacer":
            name = sent.get("nom") or asked.get("nom", "")
            if method == "POST":
                self.drops += 1
                self.state.databases.pop(name)
                return 302, "/p/7/bdd", ""
            return self.html(
                f"{top}<h1>Effacer {name}</h1><p>Tout sera perdu.</p><form method=post action=/p/7/bdd/effacer><input type=hidden name=nom value={name}><button>Effacer {name}</button> <a href=/p/7/bdd>Annuler</a></form>"
            )
        if path == "/p/7/utilisateurs":
            if method == "POST":
                if sent.get("m1") != sent.get("m2"):
                    return self.html(top + "<p class=erreur>Les mots de passe ne correspondent pas.</p>")
                user = "mus_" + sent["id"]
                self.state.users[user] = sent["m1"]
                for name, value in fields:
                    if name == "bases":
                        self.state.databases[value][user] = list(RIGHTS)
                return 302, "/p/7/utilisateurs", ""
            boxes = "".join(
                f"<label><input type=checkbox name=bases value={d}> {d}</label>" for d in self.state.databases
            )
            rows = "".join(
                f"<tr><td>{u}<td><form method=post action=/p/7/utilisateurs/effacer><input type=hidden name=id value={u}><button>Effacer</button></form>"
                for u in self.state.users
            )
            return self.html(
                f"{top}<h1>Utilisateurs des bases</h1><table>{rows}</table><h2>Nouvel utilisateur</h2><form method=post action=/p/7/utilisateurs><label>Identifiant <input name=id></label><label>Mot de passe <input type=password name=m1></label><label>Confirmation <input type=password name=m2></label><fieldset><legend>Accès à</legend>{boxes}</fieldset><button>Créer</button></form>"
            )
        if path == "/p/7/utilisateurs/effacer" and method == "POST":
            self.drops += 1
            self.state.users.pop(sent["id"])
            for grants in self.state.databases.values():
                grants.pop(sent["id"], None)
            return 302, "/p/7/utilisateurs", ""
        if path == "/quitter":
            self.inside = False
            return 302, "/", ""
        return self.html(top + "<h1>Accueil</h1>")


class Polish(HandPanel):
    """Polish: buttons outside of forms lead on, a server's kind is two links, a user is chosen or made by a list with "new" in it."""

    door = "<h1>Panel klienta</h1><form method=post action=/start><table><tr><td>Login:</td><td><input name=l></td></tr><tr><td>Hasło:</td><td><input type=password name=h></td></tr></table><input type=submit value='Zaloguj się'></form>"
    door_fields = ("l", "h")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<div><a href=/>Pulpit</a> <a href=/www>Strony WWW</a> <a href=/bazy>Bazy danych</a> <a href=/konta>Konta e-mail</a> <a href=/koniec>Wyloguj</a></div>"
        if path == "/bazy":
            return self.html(
                top + "<h1>Bazy danych</h1><a href=/bazy/mysql>MariaDB</a> <a href=/bazy/pgsql>PostgreSQL</a>"
            )
        if path == "/bazy/mysql":
            rows = "".join(
                f"<tr><td>{d}</td><td>{' '.join(g)}</td><td><button onclick=\"location.href='/bazy/mysql/usun?n={d}'\">Usuń</button></td></tr>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{top}<h1>Bazy MariaDB</h1><table><tr><th>Nazwa</th><th>Użytkownicy</th><th></th></tr>{rows}</table><button onclick=\"location.href='/bazy/mysql/nowa'\">Dodaj nową bazę</button>"
            )
        if path == "/bazy/mysql/nowa":
            if method == "POST":
                name = sent.get("nazwa", "")
                user = sent.get("uz", "")
                if user == "nowy":
                    user = sent.get("login", "")
                    if sent.get("h1") != sent.get("h2") or len(sent.get("h1", "")) < 8 or not user:
                        return self.html(top + "<p class=blad>Hasła nie są takie same.</p>")
                    self.state.users[user] = sent["h1"]
                self.state.databases[name] = {user: list(RIGHTS)}
                return 302, "/bazy/mysql", ""
            users = "".join(f"<option value='{u}'>{u}</option>" for u in self.state.users)
            return self.html(
                f"{top}<h1>Nowa baza danych</h1><form method=post action=/bazy/mysql/nowa><p>Nazwa bazy <input name=nazwa></p><p>Użytkownik <select name=uz>{users}<option value=nowy>-- nowy użytkownik --</option></select></p><p>Login nowego użytkownika <input name=login></p><p>Hasło <input type=password name=h1></p><p>Powtórz hasło <input type=password name=h2></p><input type=submit value='Zapisz'></form>"
            )
        if path == "/bazy/mysql/usun":
            name = sent.get("n") or asked.get("n", "")
            if method == "POST":
                self.drops += 1
                for user in self.state.databases.pop(name):
                    self.state.users.pop(user, None)
                return 302, "/bazy/mysql", ""
            return self.html(
                f"{top}<h1>Usuwanie bazy {name}</h1><form method=post action='/bazy/mysql/usun?n={name}'><label><input type=checkbox name=tak value=1> Tak, usuń bazę i jej użytkowników</label><button>Usuń bazę</button></form>"
            )
        return self.html(top + "<h1>Pulpit</h1>")


BY_HAND: dict[str, Callable[[], HandPanel]] = {
    "modules": Modules, "detail": Detail, "frames": Frames, "ordered": Ordered, "cards": Cards, "polish": Polish,
}  # fmt: skip
