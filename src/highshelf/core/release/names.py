"""What the names of a release's files say: installers, samples, dumps, readmes, web folder, administration."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Sequence

from highshelf.core.release.clues import LIBRARIES, is_text_for_people

INSTALL_WORD = r"(?:_?install(?:er|ation)?_?|setup|set-?up|wizard|instalacion|einrichtung)"
INSTALLER = re.compile(
    rf"(?i)^(?:.*/)?{INSTALL_WORD}(?:/(?:index|install|setup|start|wizard)\.php|/public/index\.php|\.php)$"
)
INSTALLER_FOLDER = re.compile(rf"(?i)(?:^|/){INSTALL_WORD}$")
# What a sample of a configuration is called: a mark at the beginning or the end of its name, and beside it a word for settings, or the
# ending of a file of settings.
SAMPLE_MARKS = frozenset(
    (
        "sample",
        "samples",
        "example",
        "dist",
        "default",
        "defaults",
        "template",
        "tmpl",
        "orig",
        "new",
        "skel",
        "skeleton",
    )
)
SURE_MARKS = frozenset(("sample", "example", "dist", "new", "skel", "skeleton"))
SETTINGS_WORD = re.compile(r"(?:config|conf$|setting|param|local|database|db|env|connect|option|credential)")
SETTINGS_ENDS = frozenset(
    ("php", "inc", "ini", "yml", "yaml", "json", "xml", "env", "conf", "cnf", "cfg", "neon", "toml", "properties")
)
SETTINGS_FOLDER = re.compile(r"(?i)(?:^|/)(?:config[\w-]*|settings?|conf|etc)/[^/]+$")
# A server's, a scheduler's or an editor's settings are nobody's here; a view is no sample, whatever it shows.
NO_SAMPLE = re.compile(
    r"(?i)(?:^|/)(?:templates?|views?|locales?|lang(?:uages?)?|themes?|skins?)/|apache|nginx|httpd|lighttpd|caddy|systemd|logrotate|docker|"
    r"vhost|(?:^|/)php\.ini|crontab|phpunit|phpcs|editorconfig|gitlab|travis|webpack|eslint|(?:^|/)web\.config"
)
WEB_FOLDERS = (
    "public",
    "web",
    "htdocs",
    "www",
    "public_html",
    "webroot",
    "pub",
    "html",
    "httpdocs",
    "docroot",
    "ui",
    "wwwroot",
    "site",
    "frontend",
)
ADMIN_FOLDERS = re.compile(
    r"(?i)^_?(?:admin|administrator|administration|adm|backend|back-?office|manage(?:ment|r)?|controlpanel|cp|verwaltung|adminpanel|admin-?area|admin_?\w{0,6}|acp|sysadmin|staff|office)$"
)
WRITABLE_FOLDERS = re.compile(
    r"(?i)^(?:cache|tmp|temp|uploads?|logs?|sessions?|files|images?/uploads?|compiled?|templates_c|storage|data|backups?|userfiles|media|attachments?|avatars|var)$"
)
PLACEHOLDERS = re.compile(
    r"(?i)^(?:index\.html?|index\.php|\.htaccess|\.gitkeep|\.gitignore|\.keep|\.dummy|\.?empty|placeholder|readme(?:\.\w+)?|web\.config)$"
)
CONFIG_FILE = re.compile(r"(?i)^(?:.*/)?(?:config(?:uration)?|settings)(?:\.inc)?\.php$")


def own(paths: Sequence[str]) -> list[str]:
    """Without libraries, tests and documentation that came along."""
    return [p for p in paths if not LIBRARIES.search(p)]


# What lies here is about the application.
ABOUT = re.compile(r"(?i)^(?:docs?|documentation|legal|licen[sc]es?|about|manual)$")


def libraries(paths: Sequence[str]) -> frozenset[str]:
    """Folders below the top with a licence or a package description of their own: somebody else's, brought along."""
    found = {
        folder
        for folder, _, name in (p.rpartition("/") for p in paths)
        if folder
        and not ABOUT.match(folder)
        and re.match(r"(?i)(licen[sc]e|copying)([.-]\w+)*$|(composer|package|bower)\.json$", name)
    }
    inside: dict[str, int] = {}
    for path in paths:
        for folder in _up(path.rpartition("/")[0]):
            if folder in found:
                inside[folder] = inside.get(folder, 0) + 1
    # Where most of the release lies is the application itself.
    return frozenset(f for f, count in inside.items() if count * 2 < len(paths))


def installers(paths: Sequence[str], web_folder: str) -> list[str]:
    """Web installers, the likeliest first. Classes of that name in source folders are none."""
    found = [p for p in own(paths) if INSTALLER.match(p) and not _is_source(p, web_folder)]
    return sorted(found, key=lambda p: (p.count("/"), not p.endswith("index.php"), len(p)))


def _is_source(path: str, web_folder: str) -> bool:
    name = path.rsplit("/", 1)[-1]
    if re.search(
        r"(?i)(^|/)(src|classes?|inc(ludes?)?|lang(uages?)?|locales?|templates?|views?|controllers?|models?|modules/.+|plugins/.+|themes/.+|extensions/.+)/",
        path,
    ):
        return not name.startswith("index.") or path.count("/") > 3
    if web_folder and not path.startswith(web_folder + "/"):
        # Outside the web folder nobody can open it.
        return True
    return name[0].isupper()


def samples(paths: Sequence[str]) -> list[str]:
    """Sample configurations, those near the top first."""
    found = [p for p in own(paths) if _is_sample(p) and p.count("/") < 4]
    return sorted(found, key=lambda p: (p.count("/"), p))


def real_name(sample: str) -> str:
    """What a sample is called once it is filled in: its name without the mark, beside it."""
    folder, _, name = sample.rpartition("/")
    marks = "|".join(sorted(SAMPLE_MARKS, key=len, reverse=True))
    for pattern in (
        rf"(?i)^(.+?)[._-]+(?:{marks})$",
        rf"(?i)^(.+?)[._-]+(?:{marks})((?:\.\w+)+)$",
        rf"(?i)^(?:{marks})[._-]+(.+)$",
        rf"(?i)^(\.\w+)[._-](?:{marks})((?:\.\w+)*)$",
    ):
        if found := re.match(pattern, name):
            name = "".join(g or "" for g in found.groups())
            break
    # A copy that is kept as text loses that ending too.
    name = re.sub(r"(?i)^(.+\.(?:php|ini|ya?ml|json|xml|env))\.txt$", r"\1", name)
    return f"{folder}/{name}" if folder else name


def _is_sample(path: str) -> bool:
    name = path.rsplit("/", 1)[-1].lower()
    if NO_SAMPLE.search(path) or name.endswith(
        (".sql", ".md", ".html", ".js", ".css", ".map", ".svg", ".png", ".rst", ".tpl")
    ):
        return False
    parts = [p for p in re.split(r"[._-]+", name) if p]
    ends = parts[-1] if parts else ""
    # Before the ending, behind it, or in front of everything.
    stem = list(parts)
    while len(stem) > 1 and (stem[-1] in SETTINGS_ENDS or stem[-1] == "txt"):
        stem.pop()
    marks = {parts[0], ends, stem[-1]} & SAMPLE_MARKS if len(parts) > 1 else set()
    rest = [p for p in parts if p not in marks]
    if not marks or not rest:
        return False
    settings = any(SETTINGS_WORD.match(p) for p in rest) or SETTINGS_FOLDER.search(path) is not None
    return settings or bool(marks & SURE_MARKS and (ends in SURE_MARKS) and set(rest[1:]) & SETTINGS_ENDS)


def readmes(paths: Sequence[str]) -> list[str]:
    """Texts for people that lie at the top, where the web shows them; licences are to stay with what they license."""
    licences = re.compile(r"(?i)^(licen[sc]e|copying|authors)")
    return sorted(p for p in paths if p.count("/") == 0 and is_text_for_people(p) and not licences.match(p))


def web_folder(paths: Sequence[str], thin: Sequence[str] = ()) -> tuple[str, float]:
    """The folder below the root that the web must see, with how sure that is; "" when it is the root itself.

    `thin` are front pages that lead to no program: a root's one only tells people to point the site elsewhere.
    """
    fronts_above = [p for p in paths if re.match(r"(?i)index\.(php|html?)$", p)]
    there = set(paths)
    if any(p not in thin for p in fronts_above):
        return "", 0.9
    if fronts_above and not any(f"{name}/index.php" in there for name in WEB_FOLDERS):
        return "", 0.8
    for name in WEB_FOLDERS:
        if f"{name}/index.php" in there:
            return name, 0.95 if name in ("public", "web", "public_html", "htdocs", "webroot", "www") else 0.8
    fronts = [p for p in own(paths) if re.fullmatch(r"[^/]+/index\.php", p)]
    return (posixpath.dirname(fronts[0]), 0.5) if len(fronts) == 1 else ("", 0.4)


def administration(paths: Sequence[str], web_folder: str) -> list[str]:
    """Folders for administrators that can be opened in a browser."""
    base = f"{web_folder}/" if web_folder else ""
    found = {
        posixpath.dirname(p)
        for p in own(paths)
        if p.startswith(base)
        and re.search(r"(?i)/(index|login|admin|main)\.php$", p)
        and p[len(base) :].count("/") == 1
        and ADMIN_FOLDERS.match(p[len(base) :].split("/")[0])
    }
    return sorted(found, key=len)


def writable(paths: Sequence[str]) -> list[str]:
    """Folders that hold nothing but a placeholder and are called what such folders are called."""
    inside: dict[str, list[str]] = {}
    for path in own(paths):
        folder, _, name = path.rpartition("/")
        for parent in _up(folder):
            inside.setdefault(parent, []).append(name)
    return sorted(
        f
        for f, names in inside.items()
        if WRITABLE_FOLDERS.match(f.rsplit("/", 1)[-1])
        and all(PLACEHOLDERS.match(n) for n in names)
        and f.count("/") < 4
    )


def _up(folder: str) -> list[str]:
    parts = folder.split("/") if folder else []
    return ["/".join(parts[: i + 1]) for i in range(len(parts))]
