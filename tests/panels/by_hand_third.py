"""A third lot of panels by hand, written before the reading was tried on them."""

from __future__ import annotations

from collections.abc import Callable

from tests.panels.by_hand import Answer, HandPanel
from tests.panels.yard import RIGHTS


class Dutch(HandPanel):
    """Acts of a row in a list beside a button; access by a list of several; a panel user's own password on each page."""

    door = "<h1>Mijn hosting</h1><form method=post action=/binnen><div>Gebruikersnaam</div><div><input name=naam></div><div>Wachtwoord</div><div><input type=password name=woord></div><button>Inloggen</button></form>"
    door_fields = ("naam", "woord")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<ul><li><a href=/>Start</a><li><a href=/domeinen>Domeinnamen</a><li><a href=/databanken>Databanken</a><li><a href=/mail>E-mailadressen</a><li><a href=/uit>Afmelden</a></ul><form method=post action=/wachtwoord><input type=password name=oud placeholder='Huidig wachtwoord'><input type=password name=nieuw placeholder='Nieuw wachtwoord'><button>Wijzigen</button></form>"
        if path == "/wachtwoord":
            self.state.others["own-password"] = [sent.get("nieuw", "")]
            return 302, "/", ""
        if path == "/databanken":
            rows = "".join(
                f"<tr><td>{d}</td><td>MySQL 8</td><td><form method=post action=/databanken/actie><input type=hidden name=db value={d}><select name=wat><option value=>Kies...</option><option value=leeg>Legen</option><option value=weg>Verwijderen</option></select><button>Uitvoeren</button></form></td></tr>"
                for d in self.state.databases
            )
            return self.html(
                f"{top}<h1>Databanken</h1><table>{rows}</table><p><a href=/databanken/nieuw>+ Databank</a></p><h2>Gebruikers</h2><ul>{''.join(f'<li>{u} <a href=/databanken/gebruiker/weg/{u}>verwijderen</a></li>' for u in self.state.users)}</ul><p><a href=/databanken/gebruiker>+ Gebruiker</a></p>"
            )
        if path == "/databanken/nieuw":
            if method == "POST":
                self.state.databases["w1042_" + sent.get("titel", "")] = {}
                return 302, "/databanken", ""
            return self.html(
                f"{top}<h1>+ Databank</h1><form method=post action={path}>Naam: w1042_<input name=titel> <button>Opslaan</button></form>"
            )
        if path == "/databanken/gebruiker":
            if method == "POST":
                user = "w1042_" + sent.get("g", "")
                if sent.get("w") != sent.get("w2"):
                    return self.html(top + "<p class=fout>Wachtwoorden zijn niet gelijk</p>")
                self.state.users[user] = sent["w"]
                for name, value in fields:
                    if name == "voor[]":
                        self.state.databases[value][user] = list(RIGHTS)
                return 302, "/databanken", ""
            options = "".join(f"<option>{d}</option>" for d in self.state.databases)
            return self.html(
                f"{top}<h1>+ Gebruiker</h1><form method=post action={path}>Gebruiker: w1042_<input name=g><br>Wachtwoord: <input type=password name=w><br>Nogmaals: <input type=password name=w2><br>Heeft toegang tot: <select multiple name='voor[]'>{options}</select><br><button>Opslaan</button></form>"
            )
        if path == "/databanken/actie":
            if sent.get("wat") == "weg":
                self.drops += 1
                self.state.databases.pop(sent["db"])
            return 302, "/databanken", ""
        if path.startswith("/databanken/gebruiker/weg/"):
            user = path.rsplit("/", 1)[1]
            if method == "POST":
                self.drops += 1
                self.state.users.pop(user)
                for grants in self.state.databases.values():
                    grants.pop(user, None)
                return 302, "/databanken", ""
            return self.html(
                f"{top}<h1>{user} verwijderen?</h1><form method=post action={path}><button>Ja</button></form> <a href=/databanken>Nee</a>"
            )
        return self.html(top + "<h1>Start</h1>")


class Stores(HandPanel):
    """English with words of its own: data stores, identifiers, passphrases; one heading on all pages."""

    door = "<h1>Control panel</h1><form method=post action=/go><input name=account placeholder='Account'><input name=phrase type=password placeholder='Passphrase'><button>Open</button></form>"
    door_fields = ("account", "phrase")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<h1>Control panel</h1><p><a href=/files>Files</a> <a href=/db>Data stores (MySQL)</a> <a href=/letters>Post</a> <a href=/close>Close session</a></p>"
        if path == "/db":
            if method == "POST":
                name = sent.get("identifier", "")
                if not name or sent.get("phrase") != sent.get("repeat"):
                    return self.html(top + "<div class=warning>Identifier missing or passphrases differ</div>")
                self.state.databases[f"{name}_1042"] = {f"{name}_1042": list(RIGHTS)}
                self.state.users[f"{name}_1042"] = sent["phrase"]
                return 302, "/db", ""
            rows = "".join(
                f"<dt>{d}</dt><dd>0 tables <a href='/db/{d}/discard'>discard</a></dd>" for d in self.state.databases
            )
            return self.html(
                f"{top}<h2>Data stores</h2><dl>{rows}</dl><h3>New store</h3><form method=post action=/db><p><label>Identifier <input name=identifier></label> _1042</p><p><label>Passphrase <input type=password name=phrase></label></p><p><label>Repeat <input type=password name=repeat></label></p><button>Make it</button></form>"
            )
        if path.endswith("/discard"):
            name = path.split("/")[2]
            if method == "POST":
                self.drops += 1
                self.state.databases.pop(name)
                self.state.users.pop(name)
                return 302, "/db", ""
            return self.html(
                f"{top}<h2>Discard {name}</h2><form method=post action={path}><p>All of its content is lost.</p><button>Discard it</button></form>"
            )
        return self.html(top)


class Wizard(HandPanel):
    """Portuguese: the kind first, then names, then a summary; the user's password is made by the panel and shown at the end."""

    door = "<h2>Entrar na conta</h2><form method=post action=/entrar><label>E-mail<input type=email name=email></label><label>Senha<input type=password name=senha></label><button>Entrar</button></form>"
    door_fields = ("email", "senha")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<nav><a href=/painel>Painel</a><a href=/bancos>Bancos de dados</a><a href=/usuarios>Usuários do painel</a><a href=/sair>Sair</a></nav>"
        if path == "/usuarios":
            if method == "POST":
                self.state.others.setdefault("panel-users", []).append(sent.get("nome", ""))
            return self.html(
                top
                + "<h1>Usuários do painel</h1><form method=post action=/usuarios><label>Nome <input name=nome></label><label>Senha <input name=s type=password></label><button>Adicionar usuário</button></form>"
            )
        if path == "/bancos":
            rows = "".join(
                f"<tr><td>{d}</td><td>{', '.join(g)}</td><td><form method=post action=/bancos/apagar><input type=hidden name=banco value={d}><button title='Apagar'>x</button></form></td></tr>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{top}<h1>Bancos de dados</h1><table><thead><tr><th>Banco</th><th>Usuário</th><th></th></tr></thead><tbody>{rows}</tbody></table><a class=botao href=/bancos/novo>Novo banco</a>"
            )
        if path == "/bancos/novo":
            step = sent.get("passo", "0")
            if step == "0":
                return self.html(
                    f"{top}<h1>Novo banco</h1><form method=post action={path}><input type=hidden name=passo value=1><label><input type=radio name=tipo value=pg checked> PostgreSQL</label><label><input type=radio name=tipo value=my> MariaDB</label><button>Próximo</button></form>"
                )
            if step == "1":
                return self.html(
                    f"{top}<h1>Novo banco</h1><form method=post action={path}><input type=hidden name=passo value=2><input type=hidden name=tipo value={sent.get('tipo')}><label>Nome do banco <input name=banco></label><label>Usuário do banco <input name=usuario></label><button>Próximo</button></form>"
                )
            if step == "2":
                return self.html(
                    f"{top}<h1>Confirme</h1><p>Banco {sent['banco']}, usuário {sent['usuario']}</p><form method=post action={path}><input type=hidden name=passo value=3><input type=hidden name=tipo value={sent['tipo']}><input type=hidden name=banco value={sent['banco']}><input type=hidden name=usuario value={sent['usuario']}><button>Criar banco</button></form>"
                )
            if sent.get("tipo") != "my":
                return self.html(top + "<p class=erro>PostgreSQL não está incluído no seu plano.</p>")
            self.state.databases[sent["banco"]] = {sent["usuario"]: list(RIGHTS)}
            self.state.users[sent["usuario"]] = "Mare-cheia-77"
            return self.html(
                f"{top}<h1>Pronto</h1><p>Anote estes dados, a senha só aparece agora.</p><table><tr><td>Banco</td><td>{sent['banco']}</td></tr><tr><td>Usuário</td><td>{sent['usuario']}</td></tr><tr><td>Senha</td><td>Mare-cheia-77</td></tr><tr><td>Servidor</td><td>localhost</td></tr></table>"
            )
        if path == "/bancos/apagar":
            self.drops += 1
            for user in self.state.databases.pop(sent["banco"]):
                self.state.users.pop(user, None)
            return 302, "/bancos", ""
        return self.html(top + "<h1>Painel</h1>")


class Modal(HandPanel):
    """English, drawn for scripts, but whole without: forms stand hidden in the page as dialogs, tables say data-labels, one token in a header tag."""

    door = "<div class=login><form method=post action=/auth><input type=hidden name=csrf value=t0k><input type=text name=identity autocomplete=username><input type=password name=credential autocomplete=current-password><label><input type=checkbox name=remember> Remember this device</label><button class=primary>Continue</button></form></div>"
    door_fields = ("identity", "credential")

    def pages(
        self, method: str, path: str, asked: dict[str, str], sent: dict[str, str], fields: list[tuple[str, str]]
    ) -> Answer:
        top = "<aside><a href=/overview><svg></svg><span>Overview</span></a><a href=/web><span>Web</span></a><a href=/mysql/databases><span>Databases</span></a><a href=/mysql/users><span>Database users</span></a><a href=/auth/end><span>Sign out</span></a></aside>"
        if method == "POST" and sent.get("csrf") != "t0k":
            return self.html(top + "<p role=alert>Invalid token</p>")
        held = "<input type=hidden name=csrf value=t0k>"
        if path == "/mysql/databases":
            if method == "POST":
                self.state.databases[f"{sent['prefix']}{sent['database']}"] = {}
                return 302, path, ""
            cards = "".join(
                f"<article data-name={d}><header><h3>{d}</h3></header><p>Users: {', '.join(g) or 'none'}</p><dialog><form method=post action=/mysql/grant>{held}<input type=hidden name=database value={d}><select name=user>{''.join(f'<option>{u}</option>' for u in self.state.users)}</select><fieldset><legend>Privileges</legend><label><input type=radio name=set value=ro checked> Read only</label><label><input type=radio name=set value=all> All privileges</label></fieldset><button>Grant</button></form></dialog><dialog><form method=post action=/mysql/databases/delete>{held}<input type=hidden name=database value={d}><p>Delete {d}?</p><button>Delete database</button></form></dialog></article>"
                for d, g in self.state.databases.items()
            )
            return self.html(
                f"{top}<main><h1>Databases</h1>{cards}<dialog><form method=post action={path}><h2>New database</h2>{held}<select name=prefix><option>c1042_</option></select><input name=database aria-label='Database name'><button>Create</button></form></dialog></main>"
            )
        if path == "/mysql/users":
            if method == "POST":
                self.state.users[f"{sent['prefix']}{sent['user']}"] = sent["password"]
                return 302, path, ""
            rows = "".join(
                f"<article><h3>{u}</h3><dialog><form method=post action=/mysql/users/password>{held}<input type=hidden name=user value={u}><input type=password name=password aria-label='New password'><button>Change password</button></form></dialog><dialog><form method=post action=/mysql/users/delete>{held}<input type=hidden name=user value={u}><button>Delete user</button></form></dialog></article>"
                for u in self.state.users
            )
            return self.html(
                f"{top}<main><h1>Database users</h1>{rows}<dialog><form method=post action={path}><h2>New user</h2>{held}<select name=prefix><option>c1042_</option></select><input name=user aria-label='User name'><input type=password name=password aria-label='Password'><button>Create</button></form></dialog></main>"
            )
        if path == "/mysql/grant":
            self.state.databases[sent["database"]][sent["user"]] = (
                list(RIGHTS) if sent.get("set") == "all" else ["SELECT"]
            )
            return 302, "/mysql/databases", ""
        if path == "/mysql/users/password":
            self.state.users[sent["user"]] = sent["password"]
            return 302, "/mysql/users", ""
        if path == "/mysql/databases/delete":
            self.drops += 1
            self.state.databases.pop(sent["database"])
            return 302, "/mysql/databases", ""
        if path == "/mysql/users/delete":
            self.drops += 1
            self.state.users.pop(sent["user"])
            for grants in self.state.databases.values():
                grants.pop(sent["user"], None)
            return 302, "/mysql/users", ""
        return self.html(top + "<main><h1>Overview</h1></main>")


THIRD: dict[str, Callable[[], HandPanel]] = {"dutch": Dutch, "stores": Stores, "wizard": Wizard, "modal": Modal}
