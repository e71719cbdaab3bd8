"""The manual: pages for `man` and the reference as Markdown, made from the same texts as the help."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any

import typer

from highshelf.cli.common import USAGE, Json, fail, out
from highshelf.cli.examples import EXAMPLES

SECTION, TITLE = "1", "High Shelf"
FORMS = ("man", "markdown")
# Of every command, and told once.
USUAL = ("help", "install_completion", "show_completion")


def manual(
    ctx: typer.Context,
    to: Annotated[Path, typer.Argument(metavar="TO", help="The folder for the pages, or the file for the reference.")],
    form: Annotated[
        str, typer.Option("--as", help="man: a page for each word that follows `highshelf`; markdown: one file.")
    ] = "man",
    as_json: Json = False,
) -> None:
    """Write the manual pages for `man`, or the reference of all commands."""
    if form not in FORMS:
        fail("input", f"--as {form} is no form", "say man or markdown", as_json, USAGE)
    root: Any = ctx.find_root().command
    if form == "markdown":
        texts = {to: reference(root)}
    else:
        to.mkdir(parents=True, exist_ok=True)
        texts = {to / name: text for name, text in man_pages(root).items()}
    for path, text in texts.items():
        path.write_text(text, encoding="utf-8")
    if as_json:
        print(json.dumps({"files": [str(path) for path in texts]}, indent=2))
    else:
        out.print(f"{len(texts)} pages in {to}" if form == "man" else f"the reference is in {to}", markup=False)


def commands(command: Any, path: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], Any]]:
    """Every command with the words that lead to it, in the order of the help."""
    for name, inner in getattr(command, "commands", {}).items():
        if getattr(inner, "commands", None):
            yield from commands(inner, (*path, name))
        elif not inner.hidden:
            yield (*path, name), inner


def reference(root: Any) -> str:
    """All commands as Markdown."""
    parts = [
        "# Commands",
        "Made by `highshelf manual docs/commands.md --as markdown`; a test holds it to what the commands say of themselves.",
        str(root.help),
        "Every command takes `-h`, `--json`, and wherever they stand:",
        _list(_options(root)),
    ]
    group = ""
    for path, command in commands(root):
        if len(path) > 1 and path[0] != group:
            group = path[0]
            parts += [f"## {group}", str(root.commands[group].help)]
        elif len(path) == 1 and group != "":
            group = ""
            parts.append("## on their own")
        parts += [f"### highshelf {' '.join(path)}", f"    {usage(path, command)}", _said(command)]
        parts += [_list(found)] if (found := [*_arguments(command), *_options(command)]) else []
        if examples := EXAMPLES.get(" ".join(path)):
            parts.append("\n".join(f"    highshelf {line}" for line in examples))
    return "\n\n".join(parts) + "\n"


def man_pages(root: Any) -> dict[str, str]:
    """File name -> page in the language of man (groff_man(7))."""
    by_word: dict[str, list[tuple[tuple[str, ...], Any]]] = {}
    for path, command in commands(root):
        by_word.setdefault(path[0], []).append((path, command))
    pages = {f"highshelf.{SECTION}": _first_page(root, list(by_word))}
    for word, found in by_word.items():
        said = str(root.commands[word].help or "")
        lines = [_head(f"highshelf-{word}", said.split(". ")[0].rstrip("."))]
        for path, command in found:
            lines += [
                ".SH " + _quoted(f"highshelf {' '.join(path)}".upper()),
                ".B " + _safe(usage(path, command)),
                ".PP",
                _safe(_said(command)),
            ]
            lines += _tagged([*_arguments(command), *_options(command)])
            if examples := EXAMPLES.get(" ".join(path)):
                lines += [
                    ".PP",
                    "Examples:",
                    ".PP",
                    ".nf",
                    *(_safe(f"    highshelf {line}") for line in examples),
                    ".fi",
                ]
        pages[f"highshelf-{word}.{SECTION}"] = "\n".join([*lines, ".SH SEE ALSO", f".BR highshelf ({SECTION})"]) + "\n"
    return pages


def _first_page(root: Any, words: list[str]) -> str:
    lines = [_head("highshelf", str(root.help).split(". ")[0]), ".SH DESCRIPTION", _safe(str(root.help)), ".SH OPTIONS"]
    lines += _tagged(_options(root))
    lines += [".SH COMMANDS"]
    for word in words:
        lines += [
            ".TP",
            f".BR highshelf-{_safe(word)} ({SECTION})",
            _safe(str(root.commands[word].help or "").split("\n")[0]),
        ]
    return "\n".join(lines) + "\n"


def usage(path: tuple[str, ...], command: Any) -> str:
    words = ["highshelf", *path]
    for param in command.params:
        if param.param_type_name == "argument":
            name = _metavar(param)
            words.append(name if param.required else f"[{name}]")
    return " ".join([*words, "[OPTIONS]"])


def _metavar(param: Any) -> str:
    name = str(param.metavar or param.name).upper().replace("_", "-")
    return name + ("..." if param.nargs == -1 else "")


def _said(command: Any) -> str:
    return " ".join(str(command.help or "").split())


def _arguments(command: Any) -> list[tuple[str, str]]:
    found = [p for p in command.params if p.param_type_name == "argument" and getattr(p, "help", None)]
    return [(_metavar(p), str(p.help)) for p in found]


def _options(command: Any) -> list[tuple[str, str]]:
    found = []
    for p in command.params:
        if p.param_type_name != "option" or p.name in USUAL or getattr(p, "hidden", False):
            continue
        if p.name == "as_json":
            continue
        names = ", ".join([*p.opts, *p.secondary_opts])
        takes = "" if p.is_flag else " " + (str(p.metavar) if p.metavar else "VALUE")
        found.append((names + takes, str(p.help or "")))
    return found


def _list(found: list[tuple[str, str]]) -> str:
    return "\n".join(f"- `{name}`: {said}" for name, said in found)


def _tagged(found: list[tuple[str, str]]) -> list[str]:
    return [line for name, said in found for line in (".TP", f".B {_safe(name)}", _safe(said))]


def _head(name: str, said: str) -> str:
    return f'.TH {_quoted(name.upper())} {SECTION} "" "{TITLE}"\n.SH NAME\n{_safe(name)} \\- {_safe(said)}'


def _quoted(text: str) -> str:
    return '"' + _safe(text).replace('"', "") + '"'


def _safe(text: str) -> str:
    """A text in a page: what man would take for an order is none."""
    escaped = text.replace("\\", "\\e").replace("-", "\\-").replace("'", "\\(aq").replace("…", "...").replace("→", "->")
    return "\n".join("\\&" + line if line.startswith(".") else line for line in escaped.split("\n"))
