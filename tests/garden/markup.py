"""How a garden's page is written: the same meaning in the clothes of its traits."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from html import escape
from random import Random

from tests.garden.traits import UNREAD, Traits, hints_of, words_of


@dataclass(frozen=True)
class Control:
    """A field and its truth: `meaning` is the value that belongs into it, "" when its preset has to stay."""

    name: str
    meaning: str
    label: str
    kind: str = "text"
    preset: str = ""
    required: bool = False
    group: str = ""
    # (value, label) of a list; a list of the page's own making when `custom`.
    options: tuple[tuple[str, str], ...] = ()
    custom: bool = False
    fixed: bool = False


@dataclass
class Sheet:
    """What a page shows; `controls` in groups, and the button that leads on."""

    heading: str
    controls: list[Control] = field(default_factory=list)
    hidden: dict[str, str] = field(default_factory=dict)
    notices: list[tuple[str, str]] = field(default_factory=list)
    rows: list[tuple[str, bool, bool]] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)
    raw: str = ""
    button: str = ""
    button_name: str = ""
    button_value: str = ""
    disabled: bool = False
    action: str = ""
    # Instead of a form's button: where a link or a button outside forms leads, or a page that leads on by itself.
    leads_to: str = ""
    refresh: str = ""
    steps: list[tuple[str, str]] = field(default_factory=list)
    # Ways to choose from by pressing one: (what is sent, its words).
    ways: list[tuple[str, str]] = field(default_factory=list)
    ways_by: str = ""


class Markup:
    """Writes the pages of one installer."""

    def __init__(self, traits: Traits, seed: int) -> None:
        self.traits, self._words = traits, words_of(traits.language)
        self._random = Random(f"markup {seed}")
        self._hints, self._hinting = hints_of(traits.language), Random(f"hints {seed}")
        self._said: dict[str, str] = {}

        # Words of the classes by which rows tell their state, where nothing else does.
        self._family = dict(
            zip(
                ("good", "bad", "warn"),
                self._random.choice(
                    [
                        ("messages ok", "messages error", "messages warning"),
                        ("good", "bad", "warn"),
                        ("text-success", "text-danger", "text-warning"),
                        ("check passed", "check failed", "check optional"),
                        ("req-ok", "req-fail", "req-note"),
                    ]
                ),
                strict=True,
            )
        )
        self._row = self._random.choice(["li", "div", "p"])
        self._cards_send = Random(f"cards {seed}").random() < 0.5
        # Whoever reads no word has the place alone to go by.
        places = (("footer", False), ("nav", True), ("div", False), ("div", True))
        self._tag, self._first = Random(f"second {seed}").choice(places[:2] if traits.language == UNREAD else places)

    def say(self, key: str, **names: str) -> str:
        """One way to say it, the same throughout the installer."""
        if key not in self._said:
            self._said[key] = self._random.choice(self._words[key])
        return self._said[key].format(**names)

    def page(self, title: str, sheet: Sheet) -> str:
        body = [f"<h1>{escape(title)}</h1>", self._steps(sheet), f"<h2>{escape(sheet.heading)}</h2>"]
        if self.traits.noise:
            body.insert(
                0,
                "<br />\n<b>Deprecated</b>: a function is old in <b>/srv/www/lib/tools.php</b> on line <b>41</b><br />",
            )
        body += [
            f'<div class="{kind}">{escape(text)}</div>' if kind else f"<p>{escape(text)}</p>"
            for kind, text in sheet.notices
        ]
        body += [f"<p>{escape(t)}</p>" for t in sheet.texts]
        body.append(self._rows(sheet.rows))
        body.append(sheet.raw)
        if sheet.ways:
            body.append(self._ways(sheet))
        elif sheet.leads_to:
            body.append(self._lead(sheet))
        elif sheet.button:
            body.append(self._form(sheet))
        if self._first:
            body.insert(0, self._second())
        else:
            body.append(self._second())
        if self.traits.noscript:
            body.insert(0, f"<noscript><p>{escape(self.say('noscript'))}</p></noscript>")
        head = f'<meta http-equiv="Refresh" content="2; url={escape(sheet.refresh)}">' if sheet.refresh else ""
        return f"<!doctype html><html lang={self.traits.language}><head>{head}<title>{escape(title)}</title></head><body>{''.join(body)}</body></html>"

    def _unseen(self) -> str:
        """What a script would show, sooner or later, and a button whose colour is a success's."""
        failed, done = escape(self.say("wrong_db")), escape(self.say("done", app="This"))
        return (
            f'<div class="alert alert-danger" style="display:none">{failed}</div><p hidden>{done}</p>'
            f'<div class="invalid-feedback">{failed}</div><div class="d-none success">{done}</div>'
            f'<div class="row no-gutters"><span>{escape(self.say("help"))}</span></div>'
        )

    def _steps(self, sheet: Sheet) -> str:
        """Where one is: links that lead back, or words alone, some of them of success."""
        if not sheet.steps:
            return ""
        links = self.traits.step_list == "links"
        items = [
            f'<li><a href="{escape(url)}">{escape(t)}</a></li>' if links and url else f"<li>{escape(t)}</li>"
            for t, url in sheet.steps
        ]
        return f"<ol>{''.join(items)}</ol>"

    def _lead(self, sheet: Sheet) -> str:
        help_link = f'<a href="https://docs.saltmarsh.example/">{escape(self.say("help"))}</a>'
        if self.traits.lead == "onclick":
            button = (
                f"""<button type="button" onclick="location.href='{sheet.leads_to}'">{escape(sheet.button)}</button>"""
            )
            return f"<div>{button}</div><p>{help_link}</p>"
        return f'<p>{help_link}</p><p><a href="{escape(sheet.leads_to)}">{escape(sheet.button)}</a></p>'

    def _second(self) -> str:
        """A small form that is none of the step's."""
        say = self.say
        inside = {
            "search": f'<input type="search" name="find" aria-label="{escape(say("search"))}"> <button>{escape(say("search"))}</button>',
            "languages": '<select name="other_tongue"><option value="de">Deutsch</option><option value="en" selected>English</option>'
            '<option value="fr">Français</option></select> <button>OK</button>',
            "letter": f'<label>{escape(say("newsletter"))} <input type="email" name="post_to"></label> <button>OK</button>',
        }.get(self.traits.second)
        tag = self._tag
        return f'<{tag}><form method="get" action="/setup/">{inside}</form></{tag}>' if inside else ""

    def _ways(self, sheet: Sheet) -> str:
        """One of several, each a link, a button, or a form with a button."""
        hidden = "".join(f'<input type="hidden" name="{n}" value="{escape(v)}">' for n, v in sheet.hidden.items())
        opens = f'<form method="{self.traits.method}" action="{escape(sheet.action)}">{hidden}'
        parts = []
        for sent, label in sheet.ways:
            said = escape(label)
            if sheet.ways_by == "cards":
                choose = escape(self.say("choose"))
                by_form = f'{opens}<input type="hidden" name="pick" value="{sent}"><button>{choose}</button></form>'
                by_link = f'<p><a href="/setup/?pick={sent}">{choose}</a></p>'
                parts.append(f"<h3>{said}</h3>{by_form if self._cards_send else by_link}")
                continue
            parts.append(
                {
                    "links": f'<a href="/setup/?pick={sent}">{said}</a>',
                    "flags": f'<a href="/setup/?pick={sent}"><img src="/flags/{sent}.png" alt="{said}"></a>',
                    "buttons": f'<button name="pick" value="{sent}">{said}</button>',
                    "forms": f'{opens}<input type="hidden" name="pick" value="{sent}"><button>{said}</button></form>',
                }[sheet.ways_by]
            )
        if sheet.ways_by in ("links", "flags"):
            return "<ul>" + "".join(f"<li>{one}</li>" for one in parts) + "</ul>"
        every = "".join(f"<p>{one}</p>" for one in parts)
        return (
            f"{opens}{every}</form>"
            if sheet.ways_by == "buttons"
            else every.replace("<p>", "<div>").replace("</p>", "</div>")
        )

    def _form(self, sheet: Sheet) -> str:
        inside, group = [], ""
        for control in sheet.controls:
            if control.group != group:
                inside.append(self._group_end(group) + self._group(control.group))
                group = control.group
            inside.append(self._control(control))
        inside.append(self._group_end(group))
        hidden = "".join(f'<input type="hidden" name="{n}" value="{escape(v)}">' for n, v in sheet.hidden.items())
        fields = "".join(inside)
        if self.traits.labels == "table" and self.traits.dress == "table form":
            begins = f'<form method="{self.traits.method}" action="{escape(sheet.action)}">'
            return f"<table>{begins}{hidden}{fields}<tr><td colspan=2>{self._buttons(sheet)}</td></tr></form></table>"
        if self.traits.labels == "table":
            fields = f"<table>{fields}</table>"
        elif self.traits.labels == "dl":
            fields = f"<dl>{fields}</dl>"
        return f'<form method="{self.traits.method}" action="{escape(sheet.action)}">{hidden}{fields}<p>{self._buttons(sheet)}</p></form>'

    def _group(self, group: str) -> str:
        if not group or self.traits.group == "none":
            return ""
        said = escape(self.say(group))
        if self._captions:
            return f"</table><table><caption>{said}</caption>"
        if self._names_groups:
            return f'<div role="group" aria-labelledby="g_{group}"><span id="g_{group}">{said}</span>'
        if self.traits.labels == "table":
            return f'<tr><th colspan="2">{said}</th></tr>'
        if self.traits.labels == "dl":
            return f"</dl><h3>{said}</h3><dl>"
        return f"<fieldset><legend>{said}</legend>" if self.traits.group == "fieldset" else f"<h3>{said}</h3>"

    @property
    def _captions(self) -> bool:
        """Whether each group has a table of its own, with a caption."""
        return (
            self.traits.grouped == "own names" and self.traits.labels == "table" and self.traits.dress != "table form"
        )

    @property
    def _names_groups(self) -> bool:
        return self.traits.grouped == "own names" and self.traits.labels not in ("table", "dl")

    def _group_end(self, group: str) -> str:
        if group and self.traits.group != "none" and self._names_groups:
            return "</div>"
        closes = group and self.traits.group == "fieldset" and self.traits.labels not in ("table", "dl")
        return "</fieldset>" if closes else ""

    def _control(self, control: Control) -> str:
        label, name = escape(self._written(control)), control.name
        identity = f"f_{name.replace('[', '_').replace(']', '')}"
        if control.kind == "checkbox":
            ticked = " checked" if control.preset == "1" else ""
            box = f'<input type="checkbox" id="{identity}" name="{name}" value="1"{ticked}>'
            row = f'{box} <label for="{identity}">{label}</label>'
            return {"table": f"<tr><td></td><td>{row}</td></tr>", "dl": f"<dt></dt><dd>{row}</dd>"}.get(
                self.traits.labels, f"<p>{row}</p>"
            )
        if control.kind == "radio":
            boxes = "".join(
                f'<p><label><input type="radio" name="{name}" value="{v}"{" checked" if v == control.preset else ""}> {escape(t)}</label></p>'
                for v, t in control.options
            )
            cells = {"table": f'<tr><td colspan="2">{boxes}</td></tr>', "dl": f"<dd>{boxes}</dd>"}
            return cells.get(self.traits.labels, boxes)
        required = (" required" if control.required else "") + (" readonly" if control.fixed else "")
        extra = {
            "placeholder": f' placeholder="{label}"',
            "aria": f' aria-label="{label}"',
        }.get(self.traits.labels, "")
        hint = self._hint(control, identity)
        if hint and self.traits.hints == "pointed to":
            extra += f' aria-describedby="{identity}_why"'
        box = f'<input type="{control.kind}" id="{identity}" name="{name}" value="{escape(control.preset)}"{required}{extra}>'
        if control.options:
            box = self._choice(control, identity, extra)
        if not label:
            # The page's heading is what asks.
            cells = {"table": f'<tr><td colspan="2">{box}{hint}</td></tr>', "dl": f"<dd>{box}{hint}</dd>"}
            return cells.get(self.traits.labels, f"<p>{box}{hint}</p>")
        between = hint and self.traits.hints == "between"
        if self.traits.labels == "before" and between:
            return f"<div class=row><span>{label}</span>{hint}{box}</div>"
        box = f"{hint}{box}" if between else f"{box}{hint}"
        return {
            "table": f"<tr><td>{label}</td><td>{box}</td></tr>",
            "dl": f"<dt>{label}</dt><dd>{box}</dd>",
            "for": f'<p><label for="{identity}">{label}</label> {box}</p>',
            "by name": f'<p><label for="{name}">{label}</label> {box}</p>',
            "wrapping": f"<p><label>{label} {box}</label></p>",
            "before": f"<p>{label}: {box}</p>",
            "sibling": f"<div class=row><label>{label}</label>{box}</div>",
            "placeholder": f"<p>{box}</p>",
            "aria": f"<p>{box}</p>",
        }[self.traits.labels]

    def _written(self, control: Control) -> str:
        match self.traits.written:
            case "capitals":
                return control.label.upper()
            case "star" if control.required and control.label:
                return f"{control.label} *"
            case "word" if control.required and control.label:
                return f"{control.label} ({self.say('required')})"
        return control.label

    def _hint(self, control: Control, identity: str) -> str:
        """A sentence that explains a field, as an element beside it, or ""."""
        ways = self._hints.get(control.meaning, self._hints[""])
        said = self._hinting.choice(ways)
        if self.traits.hints == "none" or self._hinting.random() < 0.3:
            return ""
        tag = self._hinting.choice(("small", "span", "em"))
        # A paragraph ends where another block begins (HTML standard, 13.1.2.4): what explains is a part of the line.
        return f'<{tag} id="{identity}_why" class="note">{escape(said)}</{tag}>'

    def _choice(self, control: Control, identity: str, extra: str) -> str:
        if control.custom:
            listed = escape(json.dumps([{"value": v, "label": t} for v, t in control.options]))
            return f'<x-choice id="{identity}" name="{control.name}" value="{control.preset}" data-options="{listed}"{extra}></x-choice>'
        options = "".join(
            f'<option value="{v}"{" selected" if v == control.preset else ""}>{escape(t)}</option>'
            for v, t in control.options
        )
        required = " required" if control.required else ""
        return f'<select id="{identity}" name="{control.name}"{extra}{required}>{options}</select>'

    def _buttons(self, sheet: Sheet) -> str:
        main = self._button(sheet.button, sheet.button_name, sheet.button_value, disabled=sheet.disabled)
        beside = {
            "restart first": [self._button(self.say("restart"), "again", "restart"), main],
            "back first": [self._button(self.say("back"), "again", "back"), main],
            "test mail": [main, self._button(self.say("test_mail"), "mailtest", "1")],
            "check": [self._button(self.say("check"), "check", "1"), main],
        }.get(self.traits.decoy, [main])
        if self.traits.save and sheet.controls:
            main = self._button(self.say("save_on"), sheet.button_name, sheet.button_value, disabled=sheet.disabled)
            beside = [self._button(self.say("save"), "save", "1"), main]
        if self.traits.cancel:
            beside = [*beside, self._button(self.say("cancel"), "cancel", "1")]
        return " ".join(beside)

    def _button(self, label: str, name: str, value: str, *, disabled: bool = False) -> str:
        if self.traits.dress == "script" and not name and not disabled:
            return f"""<a href="#" onclick="this.closest('form').submit(); return false">{escape(label)}</a>"""
        arrow = self.traits.arrow if name not in ("again", "mailtest", "check", "cancel", "save") else "none"
        label = {"behind": f"{label} »", "alone": "→"}.get(arrow, label)
        given = f' name="{name}"' if name else ""
        off = " disabled" if disabled else ""
        said = escape(label)
        match self.traits.button:
            case "input" if not name or value == "":
                return f'<input type="submit"{given} value="{said}"{off}>'
            case "image":
                return f'<button type="submit"{given} value="{escape(value)}"{off}><img src="/go.png" alt="{said}"></button>'
            case "title":
                return f'<button type="submit"{given} value="{escape(value)}" title="{said}"{off}><i class="icon"></i></button>'
            case _:
                return f'<button type="submit"{given} value="{escape(value)}"{off}>{said}</button>'

    def _rows(self, rows: list[tuple[str, bool, bool]]) -> str:
        if not rows:
            return ""
        made = []
        for label, fine, required in rows:
            state = self.say("fine") if fine else self.say("missing")
            need = self.say("required") if required else self.say("optional")
            kind = "good" if fine else "bad" if required else "warn"
            made.append(
                {
                    "table": f'<tr class="{kind}"><td>{escape(label)}</td><td>{need}</td><td>{state}</td></tr>',
                    "list": f'<li class="{kind}">{escape(label)} ({need}): <strong>{state}</strong></li>',
                    "divs": f'<div class="check {kind}"><span>{escape(label)}</span> <span>{need}</span> <b>{state}</b></div>',
                    "dl": f"<dt>{escape(label)}</dt><dd>{state} ({need})</dd>",
                    "marks": f'<{self._row} class="{self._family[kind]}">{escape(label)}</{self._row}>',
                    "icons": f'<tr><td>{escape(label)}</td><td>{need}</td><td><img src="/{kind}.png" alt="{state}"></td></tr>',
                }[self.traits.checks]
            )
        inside = "".join(made)
        return {
            "table": f"<table>{inside}</table>",
            "icons": f"<table>{inside}</table>",
            "list": f"<ul>{inside}</ul>",
            "dl": f"<dl>{inside}</dl>",
            "marks": f"<ul>{inside}</ul>" if self._row == "li" else f"<div>{inside}</div>",
        }.get(self.traits.checks, inside)
