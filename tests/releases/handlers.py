"""Sources of installers that nobody wrote by hand: seeded, put together from how such code takes what is typed, and what it does with it.

The names of the fields say nothing. What each is for is known: the truth of a seed is written down with it.

.venv/bin/python -m tests.releases.handlers [--seeds N] [--first N] [--show SEED]
"""

from __future__ import annotations

import argparse
import json
import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field

from highshelf.core.release.inputs import conclude
from highshelf.core.release.php import read

DATABASE = ("database.host", "database.user", "database.password", "database.name")
ACCESS = (
    "post",
    "request",
    "filter",
    "isset",
    "coalesce",
    "function",
    "method",
    "alias",
    "nested",
    "extract",
    "loop",
    "session",
    "cast",
)
CONNECT = (
    *(
        "mysqli",
        "new mysqli",
        "mysql",
        "pdo inside",
        "pdo joined",
        "pdo sprintf",
        "pdo variable",
        "pg",
        "class",
        "elsewhere",
        "real",
    ),
    *("array", "none"),
)
WRITES = ("heredoc", "added", "export", "sprintf", "lines", "template", "templates", "ini", "env", "json", "none")
PEOPLE = ("inside", "places", "named", "bound", "wrapper", "file", "update")
SETTINGS = ("rows", "array", "update", "define")
HASHES = ("password_hash({})", "md5($salt . {})", "sha1({})", "hash('sha256', {})", "seal({})")


@dataclass
class Handler:
    """One of them: its files, and what each field is for ("" for what is nobody's here)."""

    seed: int
    files: dict[str, str] = field(default_factory=dict)
    truth: dict[str, str] = field(default_factory=dict)
    traits: dict[str, str] = field(default_factory=dict)


def handler(seed: int) -> Handler:
    draw = random.Random(seed)
    made = Handler(seed)
    t = made.traits
    t["access"], t["connect"], t["writes"] = draw.choice(ACCESS), draw.choice(CONNECT), draw.choice(WRITES)
    t["people"], t["settings"], t["hash"] = draw.choice(PEOPLE), draw.choice(SETTINGS), draw.choice(HASHES)
    if t["connect"] == "none" and t["writes"] == "none":
        t["writes"] = "heredoc"
    values = [*DATABASE, "admin.name", "admin.password", "admin.email", "site.title"]
    values += [v for v in ("database.port", "database.prefix") if draw.random() < 0.5 and t["writes"] != "none"]
    decoys = [d for d in ("smtp", "ldap") if draw.random() < 0.4]
    syllables = ["ka", "lo", "mi", "tu", "re", "so", "va", "ny", "pe", "hu", "ji", "dox", "wa", "qi", "bre", "zul"]
    names: dict[str, str] = {}
    for v in [*values, "again", *(f"{d}.{p}" for d in decoys for p in ("host", "user", "password"))]:
        name = ""
        while not name or name in names.values():
            name = "".join(draw.choices(syllables, k=draw.randint(2, 3)))
            name = name if t["access"] != "nested" else f"{v.partition('.')[0][:1]}x[{name}]"
        names[v] = name
    made.truth = {names[v]: v for v in values} | {n: "" for v, n in names.items() if v.startswith(tuple(decoys))}
    _write(made, names, decoys, draw)
    return made


def _write(made: Handler, names: dict[str, str], decoys: list[str], draw: random.Random) -> None:
    t = made.traits
    head, x = _taken(t["access"], names)
    body: list[str] = []
    body += [f"if (!filter_var({x['admin.email']}, FILTER_VALIDATE_EMAIL)) {{ $faults[] = 'x'; }}"]
    body += [f"if (strlen({x['admin.password']}) < 9) {{ $faults[] = 'y'; }}"]
    body += [f"if ({x['admin.password']} !== {x['again']}) {{ $faults[] = 'z'; }}"]
    blocks = [_connected(t["connect"], x, made), _written(t["writes"], x, names, decoys), _settled(t["settings"], x)]
    body += [b for b in blocks if b]
    body.append(_people(t["people"], x, t["hash"]))
    if "ldap" in decoys:
        body.append(f"$dir = ldap_connect({x['ldap.host']}); ldap_bind($dir, {x['ldap.user']}, {x['ldap.password']});")
    if "smtp" in decoys and t["writes"] in ("none", "json"):
        keys = {"host": "smtp.host", "user": "smtp.user", "password": "smtp.password"}
        pairs = ", ".join(f"'{k}' => {x[v]}" for k, v in keys.items())
        body.append(f"$post = new Postman(['smtp' => [{pairs}]]);")
    guard = draw.choice(["$_SERVER['REQUEST_METHOD'] === 'POST'", "!empty($_POST)", "isset($_POST['go'])"])
    inner = "\n".join(f"    {line}" for block in body for line in block.split("\n"))
    if "heredoc" in t["writes"] or t["access"] == "extract":
        inner = "\n".join(body)
    page = "<?php\n" + head["file"] + f"if ({guard}) {{\n{head['start']}{inner}\n}}\n"
    made.files["setup/" + draw.choice(["index.php", "install.php", "step2.php", "run.php"])] = page


def _taken(access: str, names: dict[str, str]) -> tuple[dict[str, str], dict[str, str]]:
    """How what was typed is come by: what stands at the head of the file and of the branch, and the expression for each value."""

    def key(name: str) -> str:
        return "".join(f"['{p}']" for p in name.replace("]", "").split("["))

    head, start = "", ""
    plain = {v: "$_POST" + key(n) for v, n in names.items()}
    match access:
        case "request":
            plain = {v: "$_REQUEST" + key(n) for v, n in names.items()}
        case "filter":
            plain = {v: f"filter_input(INPUT_POST, '{n}')" for v, n in names.items()}
        case "isset":
            plain = {v: f"(isset({p}) ? trim({p}) : '')" for v, p in plain.items()}
        case "coalesce":
            plain = {v: f"trim({p} ?? '')" for v, p in plain.items()}
        case "cast":
            plain = {v: f"(string) {p}" for v, p in plain.items()}
        case "function":
            head = "function had($what, $else = '') { return isset($_POST[$what]) ? trim($_POST[$what]) : $else; }\n"
            plain = {v: f"had('{n}')" for v, n in names.items()}
        case "method":
            plain = {v: f"$request->get('{n}')" for v, n in names.items()}
        case "alias":
            start = "$in = array_map('trim', $_POST);\n"
            plain = {v: f"$in['{n}']" for v, n in names.items()}
        case "extract":
            start = "extract($_POST);\n"
            plain = {v: f"${n}" for v, n in names.items()}
        case "loop":
            start = "foreach ($_POST as $k => $v) { $given[$k] = trim($v); }\n"
            plain = {v: f"$given['{n}']" for v, n in names.items()}
        case "session":
            start = "".join(f"$_SESSION['s']['{n}'] = $_POST['{n}'];\n" for n in names.values())
            plain = {v: f"$_SESSION['s']['{n}']" for v, n in names.items()}
    return {"file": head, "start": start}, plain


def _connected(how: str, x: dict[str, str], made: Handler) -> str:
    h, u, p, n = (x[v] for v in DATABASE)
    match how:
        case "mysqli":
            return f"$c = mysqli_connect({h}, {u}, {p}, {n});"
        case "new mysqli":
            return f"$c = @new mysqli({h}, {u}, {p});\n$c->select_db({n});"
        case "mysql":
            return f"$c = mysql_connect({h}, {u}, {p}) or die('no');\nmysql_select_db({n}, $c);"
        case "real":
            return f"$c = mysqli_init();\n$c->real_connect({h}, {u}, {p}, {n});"
        case "pdo inside":
            return f'$h = {h}; $n = {n};\n$c = new PDO("mysql:host=$h;dbname={{$n}};charset=utf8mb4", {u}, {p});'
        case "pdo joined":
            return f"$c = new PDO('mysql:host=' . {h} . ';dbname=' . {n}, {u}, {p}, [PDO::ATTR_ERRMODE => 2]);"
        case "pdo sprintf":
            return f"$c = new PDO(sprintf('mysql:dbname=%s;host=%s', {n}, {h}), {u}, {p});"
        case "pdo variable":
            return f"$dsn = 'pgsql:host=' . {h};\n$dsn .= ';dbname=' . {n};\n$c = new PDO($dsn, {u}, {p});"
        case "pg":
            return f'$h = {h}; $n = {n}; $u = {u}; $p = {p};\n$c = pg_connect("host=$h dbname=$n user=$u password=$p");'
        case "class":
            made.files["setup/lib.php"] = (
                "<?php\nclass Well { function __construct($a, $b, $c, $d) { $this->l = new mysqli($a, $c, $d, $b); } }\n"
            )
            return f"require 'lib.php';\n$c = new Well({h}, {n}, {u}, {p});"
        case "elsewhere":
            made.files["lib/well.php"] = (
                '<?php\nfunction dig($q, $r, $s, $t) { return new PDO("mysql:host=$q;dbname=$r", $s, $t); }\n'
            )
            return f"$c = dig({h}, {n}, {u}, {p});"
        case "array":
            return f"$c = Well::make(['host' => {h}, 'database' => {n}, 'username' => {u}, 'password' => {p}]);"
    return ""


def _written(how: str, x: dict[str, str], names: dict[str, str], decoys: list[str]) -> str:
    keys = {
        "database.host": "DB_HOST",
        "database.user": "DB_USER",
        "database.password": "DB_PASS",
        "database.name": "DB_NAME",
        "database.port": "DB_PORT",
        "database.prefix": "TABLE_PREFIX",
    }
    have = {v: k for v, k in keys.items() if v in x}
    mail = (
        {"smtp.host": "SMTP_HOST", "smtp.user": "SMTP_USER", "smtp.password": "SMTP_PASS"} if "smtp" in decoys else {}
    )
    every = have | mail
    put = "file_put_contents('../config.php', $text);"
    match how:
        case "heredoc":
            vars_ = "\n".join(f"$w{n} = {x[v]};" for n, v in enumerate(every))
            lines = "\n".join(f"define('{k}', '$w{n}');" for n, k in enumerate(every.values()))
            return f"{vars_}\n$text = <<<TEXT\n<?php\n{lines}\nTEXT;\n{put}"
        case "added":
            lines = "\n".join(
                f"$text .= \"define('{k}', '\" . addslashes({x[v]}) . \"');\\n\";" for v, k in every.items()
            )
            return f'$text = "<?php\\n";\n{lines}\n{put}'
        case "export":
            pairs = ", ".join(f"'{k.lower()}' => {x[v]}" for v, k in every.items())
            return f"$all = [{pairs}];\n$text = '<?php return ' . var_export($all, true) . ';';\n{put}"
        case "sprintf":
            lines = "\\n".join(f"\\${k.lower()} = '%s';" for k in every.values())
            return f'$text = sprintf("<?php\\n{lines}\\n", {", ".join(x[v] for v in every)});\n{put}'
        case "lines":
            lines = "\n".join(
                f"fwrite($f, \"\\$conf['{k.lower()}'] = '\" . {x[v]} . \"';\\n\");" for v, k in every.items()
            )
            return f"$f = fopen('../conf.php', 'w');\n{lines}\nfclose($f);"
        case "template":
            lines = "\n".join(f"$text = str_replace('%{k}%', {x[v]}, $text);" for v, k in every.items())
            return f"$text = file_get_contents('conf.tpl');\n{lines}\n{put}"
        case "templates":
            marks = ", ".join(f"'{{{{{k}}}}}'" for k in every.values())
            return f"$text = str_replace([{marks}], [{', '.join(x[v] for v in every)}], file_get_contents('conf.tpl'));\n{put}"
        case "ini":
            lines = "".join(
                f'$text .= \'{k.partition("_")[2].lower()} = "\' . {x[v]} . "\\"\\n";\n' for v, k in have.items()
            )
            rest = "".join(
                f'$text .= \'{k.partition("_")[2].lower()} = "\' . {x[v]} . "\\"\\n";\n' for v, k in mail.items()
            )
            return f'$text = "[database]\\n";\n{lines}$text .= "[smtp]\\n";\n{rest}{put}'
        case "env":
            lines = "".join(f'$text .= "{k}=" . {x[v]} . PHP_EOL;\n' for v, k in every.items())
            return f"$text = '';\n{lines}file_put_contents('.env', $text);"
        case "json":
            pairs = ", ".join(f"'{k.partition('_')[2].lower()}' => {x[v]}" for v, k in have.items())
            return f"file_put_contents('c.json', json_encode(['database' => [{pairs}]]));"
    return ""


def _people(how: str, x: dict[str, str], hashed: str) -> str:
    n, p, m = x["admin.name"], hashed.format(x["admin.password"]), x["admin.email"]
    match how:
        case "inside":
            return f"$a = {n}; $b = {p}; $d = {m};\n$c->query(\"INSERT INTO members (id, login, pass, mail) VALUES (1, '$a', '$b', '$d')\");"
        case "places":
            return f"$s = $c->prepare('INSERT INTO user (username, password_hash, email, role) VALUES (?, ?, ?, 1)');\n$s->execute([{n}, {p}, {m}]);"
        case "named":
            return (
                "$s = $c->prepare('INSERT INTO accounts (nickname, pwd, e_mail) VALUES (:who, :what, :where)');\n"
                f"$s->execute([':who' => {n}, ':what' => {p}, ':where' => {m}]);"
            )
        case "bound":
            return f"$s = $c->prepare('INSERT INTO staff (login, passwd, email) VALUES (?, ?, ?)');\n$a = {n}; $b = {p}; $d = {m};\n$s->bind_param('sss', $a, $b, $d);\n$s->execute();"
        case "wrapper":
            return f"$c->insert('users', ['user_name' => {n}, 'password' => {p}, 'email' => {m}, 'is_admin' => 1]);"
        case "file":
            return f"file_put_contents('users.json', json_encode(['admins' => [['login' => {n}, 'password' => {p}, 'email' => {m}]]]));"
    return f"$a = {n}; $b = {p}; $d = {m};\n$c->query(\"UPDATE users SET login = '$a', password = '$b', email = '$d' WHERE id = 1\");"


def _settled(how: str, x: dict[str, str]) -> str:
    title = x["site.title"]
    match how:
        case "rows":
            return f"$t = {title};\n$c->query(\"INSERT INTO settings (name, value) VALUES ('site_title', '$t')\");"
        case "array":
            return f"$site = ['site_title' => {title}];\nsave($site);"
        case "update":
            return f"$c->query(\"UPDATE options SET value = '\" . {title} . \"' WHERE name = 'sitename'\");"
    return f"fwrite($g, \"define('SITE_TITLE', '\" . {title} . \"');\\n\");"


def score(made: Handler) -> Iterator[tuple[str, str, str]]:
    """(right, wrong or silent; the field; what was said) of each field."""
    clues = [c for path, text in made.files.items() for c in read(path, text.encode()) if c.what == "input"]
    said = {t.field: t for t in conclude(clues)[0]}
    for name, value in made.truth.items():
        told = said[name].value if name in said else ""
        wanted = ("", "foreign") if value == "" else (value,)
        verdict = "right" if told in wanted else "silent" if told == "" else "wrong"
        yield verdict, f"{name} ({value})", told


def main() -> None:
    arguments = argparse.ArgumentParser()
    arguments.add_argument("--seeds", type=int, default=300)
    arguments.add_argument("--first", type=int, default=1)
    arguments.add_argument("--show", type=int)
    given = arguments.parse_args()
    if given.show is not None:
        made = handler(given.show)
        for path, text in made.files.items():
            print(f"--- {path}\n{text}")
        print(made.traits)
        for one in score(made):
            print(*one)
        return
    total, by = Counter[str](), Counter[str]()
    for seed in range(given.first, given.first + given.seeds):
        made = handler(seed)
        for verdict, name, told in score(made):
            total[verdict] += 1
            if verdict != "right":
                trait = {"database": "connect", "admin": "people", "site": "settings"}.get(
                    name.split("(")[1].split(".")[0], "writes"
                )
                by[
                    f"{verdict} {trait}={made.traits[trait]} access={made.traits['access']} writes={made.traits['writes']}"
                ] += 1
                if verdict == "wrong":
                    print(seed, name, told)
    for what, number in by.most_common(25):
        print(number, what)
    print(json.dumps({"seeds": given.seeds, **total}))


if __name__ == "__main__":
    main()
