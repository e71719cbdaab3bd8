"""Reading a primer's YAML: all faults at once, each with its line and, where a name is nearly right, the right one."""

from __future__ import annotations

import difflib
from collections.abc import Iterator
from typing import Any

import yaml
from pydantic import BaseModel, ValidationError

from highshelf.core.errors import PrimerError
from highshelf.core.primers.answers import why_no_place
from highshelf.core.primers.models import (
    TASKS,
    WITH_USER,
    ApplicationPrimer,
    LoginChange,
    NameRule,
    Packages,
    PanelPrimer,
    PanelStep,
)

MAX_PRIMER_CHARACTERS = 200_000
MAX_DEPTH = 20
# What a fault's place leads into, for proposing the right name.
INSIDE: dict[str, type[BaseModel]] = {
    "packages": Packages,
    "change_login": LoginChange,
    "tasks": PanelStep,
    "database_name": NameRule,
    "user_name": NameRule,
}


def read_primer(text: str, source: str = "primer") -> PanelPrimer | ApplicationPrimer:
    """Read and check a primer.

    Raises:
        PrimerError: all faults at once, each with its line; `context["faults"]` has them as a list.
    """
    primer, faults = examine_primer(text)
    if primer is None or faults:
        count = "a fault" if len(faults) == 1 else f"{len(faults)} faults"
        raise PrimerError(
            f"{source} has {count}: " + "; ".join(faults[:20]),
            hint="`highshelf primer check FILE` tells them all; docs/primers.md says what may stand there",
            faults=faults,
        )
    return primer


def examine_primer(text: str) -> tuple[PanelPrimer | ApplicationPrimer | None, list[str]]:
    """The primer, or None, and all faults in the order of their lines."""
    if len(text) > MAX_PRIMER_CHARACTERS:
        return None, [f"line 1: longer than {MAX_PRIMER_CHARACTERS:,} characters"]
    try:
        root = yaml.compose(text, yaml.SafeLoader)
        lines: dict[tuple[Any, ...], int] = {}
        faults = list(_walk(root, (), lines))
        raw: Any = None if faults else yaml.safe_load(text)
    except yaml.MarkedYAMLError as fault:
        line = fault.problem_mark.line + 1 if fault.problem_mark else 1
        return None, [f"line {line}: not YAML: {fault.problem}"]
    except RecursionError:
        return None, ["line 1: nested too deep"]
    except (yaml.YAMLError, ValueError) as fault:
        return None, [f"line 1: not YAML: {fault}"]
    if faults:
        return None, faults
    if not isinstance(raw, dict) or raw.get("kind") not in ("panel", "application"):
        return None, [f"line {lines.get(('kind',), 1)}: kind: must be panel or application"]
    model: type[PanelPrimer] | type[ApplicationPrimer] = PanelPrimer if raw["kind"] == "panel" else ApplicationPrimer
    try:
        primer = model.model_validate(raw)
    except ValidationError as fault:
        told = [(_line(lines, e["loc"]), _said(model, e["loc"], e["type"], e["msg"])) for e in fault.errors()]
        return None, [f"line {line}: {said}" for line, said in sorted(told)]
    return primer, [f"line {line}: {said}" for line, said in sorted(_meaning(primer, lines))]


def _walk(node: yaml.Node | None, place: tuple[Any, ...], lines: dict[tuple[Any, ...], int]) -> Iterator[str]:
    """Note where everything stands; keys that stand twice are faults, because YAML would quietly take the last."""
    if node is None:
        return
    lines.setdefault(place, node.start_mark.line + 1)
    if len(place) > MAX_DEPTH:
        yield f"line {node.start_mark.line + 1}: nested too deep"
    elif isinstance(node, yaml.MappingNode):
        seen: set[str] = set()
        for key, value in node.value:
            name = str(key.value) if isinstance(key, yaml.ScalarNode) else ""
            if name in seen:
                yield f"line {key.start_mark.line + 1}: {name}: stands here twice"
            seen.add(name)
            lines[(*place, name)] = key.start_mark.line + 1
            yield from _walk(value, (*place, name), lines)
    elif isinstance(node, yaml.SequenceNode):
        for index, value in enumerate(node.value):
            yield from _walk(value, (*place, index), lines)


def _line(lines: dict[tuple[Any, ...], int], place: tuple[Any, ...]) -> int:
    while place and place not in lines:
        place = place[:-1]
    return lines.get(place, 1)


def _said(model: type[BaseModel], place: tuple[Any, ...], kind: str, message: str) -> str:
    name = ".".join(str(p) for p in place)
    if kind == "extra_forbidden":
        inside = next((INSIDE[p] for p in reversed(place[:-1]) if p in INSIDE), model)
        near = difflib.get_close_matches(str(place[-1]), inside.model_fields, 1)
        return f"{name}: there is no such setting" + (f"; is {near[0]} meant?" if near else "")
    if kind == "missing":
        return f"{name}: is missing"
    return f"{name}: {message[:1].lower()}{message[1:]}"


def _meaning(primer: PanelPrimer | ApplicationPrimer, lines: dict[tuple[Any, ...], int]) -> Iterator[tuple[int, str]]:
    """Faults that a schema cannot say."""
    if not primer.recognise:
        yield _line(lines, ("recognise",)), "recognise: is empty, so nothing would ever fit it"
    if isinstance(primer, ApplicationPrimer):
        return
    needed = [name for name in TASKS if not (primer.makes_user_too and name in WITH_USER)]
    if any(step.call for steps in primer.tasks.values() for step in steps) and "sign-in" not in primer.tasks:
        # A panel that is only called may know its customer by each call's headers.
        needed.remove("sign-in")
    for name in needed:
        if name not in primer.tasks:
            yield _line(lines, ("tasks",)), f"tasks: lacks {name}"
    for name, steps in primer.tasks.items():
        for index, step in enumerate(steps):
            if said := _wrong(step):
                yield _line(lines, ("tasks", name, index)), f"tasks.{name}.{index}: {said}"


STEP_KINDS = ("open", "fill", "attach", "expect", "names", "boxes", "call")
OF_CALLS = ("body", "form", "take", "listed", "until", "fails")


def _wrong(step: PanelStep) -> str:
    """What is wrong with a step, beside what its schema says; or ""."""
    kinds = [k for k in STEP_KINDS if getattr(step, k) is not None]
    if len(kinds) != 1 and kinds != ["fill", "attach"]:
        # A form with a file in it may have other fields too.
        return f"must have exactly one of {', '.join(STEP_KINDS)}, and has {', '.join(kinds) or 'none'}"
    given = [k.replace("body", "json") for k in OF_CALLS if getattr(step, k) not in (None, {})]
    if given and step.call is None:
        return f"{', '.join(given)} can only stand beside call"
    if step.body is not None and step.form is not None:
        return "json and form cannot stand side by side: a call sends one of them"
    if step.until and step.call is not None and not step.call.startswith("GET "):
        return "until makes the call again and again, so it must be a GET"
    places = [*step.take.values(), *([step.listed] if step.listed else []), *step.until, *step.fails]
    return next((f"{place!r} is no place in an answer: {why}" for place in places if (why := why_no_place(place))), "")
