"""A seventh lot of panels by hand, written before the reading was tried on them."""

from __future__ import annotations

from collections.abc import Callable

from tests.panels.by_hand import Answer, HandPanel
from tests.panels.yard import RIGHTS


class Hidden(HandPanel):
    """English: resources with hidden methods, a rule for passwords told after a refusal is kept by ours, users below the databases, access on the user's page."""

    door = "<h1>Sign in</h1><form method=post action=/sessions><p>Handle<br><input name=handle></p><p>Password<br><input name=word type=password></p><button>Sign in</button></form>"
    door_fields = ("handle", "word")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        bar = "<nav><a href=/sites>Sites</a><a href=/databases>Databases</a><a href=/database-users>Database users</a><a href=/mailboxes>Mailboxes</a><form method=post action=/sessions><input type=hidden name=_method value=delete><button>Sign out</button></form></nav>"
        act = sent.get("_method", method.lower())
        if path == "/sessions":
            self.inside = False
            return 302, "/", ""
        if path == "/databases" and act == "post":
            self.state.databases[f"h7_{sent['database[name]']}"] = {}
            return 302, "/databases", ""
        if path == "/databases/new":
            return self.html(
                f"{bar}<h1>New database</h1><form method=post action=/databases><label for=n>Name</label><span>h7_</span><input id=n name='database[name]' maxlength=16><label for=e>Encoding</label><select id=e name='database[encoding]'><option selected>utf8mb4</option><option>latin1</option></select><button>Create database</button></form>"
            )
        if path.startswith("/databases/"):
            name = path.split("/")[2]
            if act == "delete":
                self.drops += 1
                self.state.databases.pop(name)
                return 302, "/databases", ""
            grants = ", ".join(self.state.databases.get(name, {})) or "nobody"
            return self.html(
                f"{bar}<h1>{name}</h1><p>Used by {grants}.</p><form method=post action=/databases/{name}><input type=hidden name=_method value=delete><button>Delete database</button></form>"
            )
        if path == "/databases":
            rows = "".join(
                f"<tr><td><a href=/databases/{d}>{d}</a></td><td>{', '.join(g) or 'nobody'}</td></tr>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{bar}<h1>Databases</h1><a href=/databases/new>New database</a><table><tr><th>Name</th><th>Used by</th></tr>{rows}</table>"
            )
        if path == "/database-users" and act == "post":
            self.state.users[f"h7_{sent['user[name]']}"] = sent["user[password]"]
            return 302, f"/database-users/h7_{sent['user[name]']}", ""
        if path == "/database-users/new":
            return self.html(
                f"{bar}<h1>New database user</h1><form method=post action=/database-users><label for=n>Name</label><span>h7_</span><input id=n name='user[name]' maxlength=10><label for=p>Password</label><input id=p name='user[password]' type=password><button>Create user</button></form>"
            )
        if path.startswith("/database-users/"):
            name = path.split("/")[2]
            if name not in self.state.users:
                return 404, "", "<html><body>Not found</body></html>"
            if act == "delete":
                self.drops += 1
                self.state.users.pop(name)
                for grants in self.state.databases.values():
                    grants.pop(name, None)
                return 302, "/database-users", ""
            if act == "patch":
                wanted = [v for n, v in fields if n == "user[databases][]"]
                for database, grants in self.state.databases.items():
                    if database in wanted:
                        grants[name] = list(RIGHTS)
                    else:
                        grants.pop(name, None)
                return 302, f"/database-users/{name}", ""
            boxes = "".join(
                f"<label><input type=checkbox name='user[databases][]' value={d}{' checked' if name in g else ''}> {d}</label>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{bar}<h1>{name}</h1><h2>Databases this user may use</h2><form method=post action=/database-users/{name}><input type=hidden name=_method value=patch>{boxes}<button>Save</button></form><form method=post action=/database-users/{name}><input type=hidden name=_method value=delete><button>Delete user</button></form>"
            )
        if path == "/database-users":
            rows = "".join(f"<li><a href=/database-users/{u}>{u}</a></li>" for u in self.state.users)
            return self.html(
                f"{bar}<h1>Database users</h1><a href=/database-users/new>New database user</a><ul>{rows}</ul>"
            )
        return self.html(bar + "<h1>Sites</h1>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"h7_old": {"h7_old": list(RIGHTS)}}
        self.state.users = {"h7_old": "of-yore"}


class Sportello(HandPanel):
    """Italian: one form with an existing user or a new one, chosen by a list whose first entry is the new one; deletes ask by a link with a number."""

    door = "<form method=post action=/entra><fieldset><legend>Area clienti</legend><p>Codice cliente <input name=codice></p><p>Parola d'ordine <input name=parola type=password></p><p><input type=submit value=Entra></p></fieldset></form>"
    door_fields = ("codice", "parola")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        menu = "<div class=menu><a href=/contratti>Contratti</a> <a href=/spazio>Spazio web</a> <a href=/archivi>Archivi MySQL</a> <a href=/posta>Posta</a> <a href=/fatture>Fatture</a> <a href=/esci>Esci</a></div>"
        if path == "/archivi/crea":
            name = f"i9_{sent['nome']}"
            user = sent["utente"] or f"i9_{sent['nuovo']}"
            if name in self.state.databases:
                return self.html(f"{menu}<p class=errore>L'archivio {name} esiste già.</p>")
            if not sent["utente"]:
                if sent["pw1"] != sent["pw2"]:
                    return self.html(f"{menu}<p class=errore>Le password non coincidono.</p>")
                self.state.users[user] = sent["pw1"]
            self.state.databases[name] = {user: list(RIGHTS)}
            return self.html(
                f"{menu}<h1>Archivi MySQL</h1><p class=bene>L'archivio {name} è stato creato per l'utente {user}.</p><a href=/archivi>Torna all'elenco</a>"
            )
        if path == "/archivi/elimina":
            name = asked.get("nome", "")
            if asked.get("conferma") == "1" and method == "POST":
                self.drops += 1
                for user in self.state.databases.pop(name):
                    if not any(user in g for g in self.state.databases.values()):
                        self.state.users.pop(user, None)
                return 302, "/archivi", ""
            return self.html(
                f"{menu}<h1>Eliminare {name}?</h1><p>Si perdono tutti i dati e gli utenti che non servono ad altri archivi.</p><form method=post action='/archivi/elimina?nome={name}&amp;conferma=1'><input type=submit value='Elimina'></form><a href=/archivi>Annulla</a>"
            )
        if path == "/archivi":
            rows = "".join(
                f"<tr><td>{d}</td><td>{', '.join(g)}</td><td><a href='/archivi/elimina?nome={d}'>elimina</a></td></tr>"
                for d, g in self.state.databases.items()
            )
            people = "".join(f"<option value={u}>{u}</option>" for u in self.state.users)
            return self.html(
                f"{menu}<h1>Archivi MySQL</h1><table><tr><th>Archivio</th><th>Utente</th><th></th></tr>{rows}</table>"
                f"<h2>Nuovo archivio</h2><form method=post action=/archivi/crea><p>Nome dell'archivio: i9_<input name=nome></p><p>Utente: <select name=utente><option value=''>nuovo utente</option>{people}</select></p><p>Nome del nuovo utente: i9_<input name=nuovo></p><p>Password: <input type=password name=pw1></p><p>Ripetere la password: <input type=password name=pw2></p><input type=submit value='Crea archivio'></form>"
            )
        return self.html(menu + "<h1>Benvenuto</h1>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"i9_vecchio": {"i9_vecchio": list(RIGHTS)}}
        self.state.users = {"i9_vecchio": "of-yore"}


class Balcao(HandPanel):
    """Portuguese: three pages in a menu of their own; rights as a table of boxes behind a link beside each user of a database."""

    door = "<h2>Área reservada</h2><form method=post action=/entrar><label>Utilizador <input name=utilizador></label><label>Palavra-passe <input name=palavra type=password></label><button>Entrar</button></form>"
    door_fields = ("utilizador", "palavra")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        menu = "<ul><li><a href=/inicio>Início</a></li><li><a href=/dominios>Domínios</a></li><li><a href=/bd>Bases de dados</a><ul><li><a href=/bd/criar>Criar base de dados</a></li><li><a href=/bd/utilizadores>Utilizadores</a></li><li><a href=/bd/permissoes>Permissões</a></li></ul></li><li><a href=/correio>Correio</a></li><li><a href=/sair>Sair</a></li></ul>"
        if path == "/bd/criar":
            if method == "POST":
                self.state.databases[f"b3_{sent['nome']}"] = {}
                return self.html(f"{menu}<div class=ok>A base de dados b3_{sent['nome']} foi criada.</div>")
            return self.html(
                f"{menu}<h1>Criar base de dados</h1><form method=post action=/bd/criar><label>Nome da base de dados (b3_ é acrescentado) <input name=nome></label><button>Criar</button></form>"
            )
        if path == "/bd/utilizadores":
            if method == "POST" and sent.get("oque") == "criar":
                if sent["s"] != sent["s2"]:
                    return self.html(f"{menu}<div class=erro>As palavras-passe são diferentes.</div>")
                self.state.users[f"b3_{sent['nome']}"] = sent["s"]
                return 302, "/bd/utilizadores", ""
            if method == "POST" and sent.get("oque") == "apagar":
                self.drops += 1
                self.state.users.pop(sent["quem"])
                for grants in self.state.databases.values():
                    grants.pop(sent["quem"], None)
                return 302, "/bd/utilizadores", ""
            rows = "".join(
                f"<tr><td>{u}</td><td><form method=post action=/bd/utilizadores><input type=hidden name=oque value=apagar><input type=hidden name=quem value={u}><button>Apagar</button></form></td></tr>"
                for u in self.state.users
            )
            return self.html(
                f"{menu}<h1>Utilizadores das bases de dados</h1><table>{rows}</table><h2>Novo utilizador</h2><form method=post action=/bd/utilizadores><input type=hidden name=oque value=criar><label>Nome (b3_ é acrescentado) <input name=nome></label><label>Palavra-passe <input type=password name=s></label><label>Repita a palavra-passe <input type=password name=s2></label><button>Criar utilizador</button></form>"
            )
        if path == "/bd/permissoes":
            if method == "POST":
                may = [v for n, v in fields if n == "p[]"]
                self.state.databases[sent["base"]][sent["quem"]] = (
                    list(RIGHTS) if "tudo" in may else [r for r in may if r in RIGHTS]
                )
                return self.html(
                    f"{menu}<div class=ok>Permissões guardadas.</div><a href=/bd>Ver as bases de dados</a>"
                )
            bases = "".join(f"<option>{d}</option>" for d in self.state.databases)
            people = "".join(f"<option>{u}</option>" for u in self.state.users)
            boxes = "".join(f"<label><input type=checkbox name='p[]' value={r}> {r}</label>" for r in RIGHTS)
            return self.html(
                f"{menu}<h1>Permissões</h1><form method=post action=/bd/permissoes><label>Base de dados <select name=base>{bases}</select></label><label>Utilizador <select name=quem>{people}</select></label><p><label><input type=checkbox name='p[]' value=tudo> Todas as permissões</label>{boxes}</p><button>Guardar</button></form>"
            )
        if path == "/bd/apagar":
            if method == "POST":
                self.drops += 1
                self.state.databases.pop(sent["base"])
                return 302, "/bd", ""
            return self.html(
                f"{menu}<h1>Apagar {asked.get('base')}?</h1><form method=post action=/bd/apagar><input type=hidden name=base value={asked.get('base')}><button>Apagar definitivamente</button> <a href=/bd>Cancelar</a></form>"
            )
        if path == "/bd":
            rows = "".join(
                f"<tr><td>{d}</td><td>{', '.join(g)}</td><td><a href='/bd/apagar?base={d}'>Apagar</a></td></tr>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{menu}<h1>Bases de dados</h1><table><tr><th>Nome</th><th>Utilizadores</th><th></th></tr>{rows}</table>"
            )
        return self.html(menu + "<h1>Início</h1>")

    def old(self) -> None:
        super().old()
        self.state.databases = {"b3_antiga": {"b3_antiga": list(RIGHTS)}}
        self.state.users = {"b3_antiga": "of-yore"}


SEVENTH: dict[str, Callable[[], HandPanel]] = {"hidden": Hidden, "sportello": Sportello, "balcao": Balcao}
