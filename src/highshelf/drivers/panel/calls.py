"""One call of a panel that answers in JSON, as a primer's step says it.

Rules:
1. What the panel says no to becomes a PanelError with the panel's own words, without secrets.
2. A call that only looks is made again when no proper answer came. One that may have done something never is: it is `unsure`, and
   whoever made it looks first.
3. A panel that wants fewer calls a minute (RFC 6585, section 4) is waited for as long as it asks, up to a bound.
"""

from __future__ import annotations

import json
import time
from base64 import b64encode
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import quote, urlencode, urljoin, urlsplit

from highshelf.core.errors import FetchError, PanelError
from highshelf.core.ports import Fetch
from highshelf.core.primers.answers import found_at, said_in
from highshelf.core.primers.filling import filled_in, holes
from highshelf.core.primers.models import PanelPrimer, PanelStep
from highshelf.core.values import redactor

# Seconds before a call that only looks is made again.
LOOKS = (1.0, 3.0, 6.0)
# Seconds that a panel may ask for in all before one call is answered, and what is waited where it does not say.
MOST_PATIENCE, USUAL_PATIENCE = 180.0, 2.0
# Seconds between two looks at what is at work: at first, and at most.
SHORTEST, LONGEST = 0.5, 5.0


class OutOfDate(Exception):
    """The panel no longer knows who is calling."""


@dataclass
class Calls:
    """Makes a primer's calls.

    Args:
        fetch: a conversation whose origins are the panel's alone.
        address: the panel's address, ending in `/`.
        renew: signs in again, and gives what the sign-in gives; raises PanelError where there is none, or it is refused.
        rest: how waiting is done.
    """

    fetch: Fetch
    primer: PanelPrimer
    address: str
    renew: Callable[[], Mapping[str, str]]
    rest: Callable[[float], None] = time.sleep

    def perform(self, step: PanelStep, values: Mapping[str, str], task: str) -> tuple[list[str], dict[str, str]]:
        """The names that are listed, and the values that are taken.

        Raises:
            PanelError: `unsure` in its context when it may have been done all the same.
        """
        answer = self._settled(step, values, task)
        taken = {name: self._taken(answer, place, values, task) for name, place in step.take.items()}
        return (found_at(answer, filled_in(step.listed, values)) if step.listed else []), taken

    def _settled(self, step: PanelStep, values: Mapping[str, str], task: str) -> Any:
        """The answer once what it is asked for is no longer at work."""
        waited, wait = 0.0, SHORTEST
        while True:
            answer = self._in_time(step, values, task)
            if _stands(answer, step.fails, values):
                raise self._error(
                    f"the panel did not do it ({task}): {said_in(answer) or 'it does not say why'}", values, task
                )
            if not step.until or _stands(answer, step.until, values):
                return answer
            if waited >= step.patience_seconds:
                raise self._error(
                    f"the panel has been at work for {step.patience_seconds:.0f} s and does not come to an end ({task})",
                    values,
                    task,
                )
            self.rest(wait)
            waited, wait = waited + wait, min(wait * 1.5, LONGEST)

    def _taken(self, answer: Any, place: str, values: Mapping[str, str], task: str) -> str:
        found = found_at(answer, filled_in(place, values))
        if not found:
            raise self._error(
                f"the panel's answer has nothing at {place} ({task})",
                values,
                task,
                hint="has it changed? mend the primer",
            )
        return found[0]

    def _in_time(self, step: PanelStep, values: Mapping[str, str], task: str) -> Any:
        """A call that was refused because nobody is signed in did nothing: it is made once more after signing in again."""
        try:
            return self._answer(step, values, task)
        except OutOfDate as refused:
            if task == "sign-in":
                hint = "check the panel's login and password"
                raise self._error(f"the panel refuses ({task}): {refused}", values, task, hint=hint) from None
        try:
            return self._answer(step, {**values, **self.renew()}, task)
        except OutOfDate as refused:
            hint = "look at the panel by hand; is the account blocked?"
            raise self._error(
                f"the panel lets nobody in any more ({task}): {refused}", values, task, hint=hint
            ) from None

    def _answer(self, step: PanelStep, values: Mapping[str, str], task: str) -> Any:
        method, _, path = (step.call or "").partition(" ")
        quoted = {name: quote(text, safe="") for name, text in values.items()}
        url = urljoin(self.address, filled_in(path, quoted).lstrip("/"))
        body, headers = _sent(step, values)
        headers = {**self._headers(values), **headers}
        looks, patience = iter(LOOKS if method == "GET" else ()), MOST_PATIENCE
        while True:
            problem, wait = "", USUAL_PATIENCE
            try:
                status, told, content = self.fetch.send_json(url, body, headers, method)
            except FetchError as fault:
                status, told, content, problem = 0, {}, b"", fault.message
            if status == 429 and patience > 0:
                wait = min(_seconds(told), patience)
                patience -= wait
                self.rest(wait)
                continue
            if status == 401:
                raise OutOfDate(self._no(method, url, status, content))
            answer = _json(content)
            if not problem and status < 300 and (answer is not None or not content.strip()):
                return answer
            if 400 <= status < 500:
                raise self._error(f"the panel refuses ({task}): {self._no(method, url, status, content)}", values, task)
            problem = problem or self._no(method, url, status, content)
            again = next(looks, None)
            if again is None:
                raise self._error(
                    f"the panel did not answer properly ({task}): {problem}", values, task, unsure=method != "GET"
                )
            self.rest(max(again, _seconds(told) if "retry-after" in told else 0))

    def _headers(self, values: Mapping[str, str]) -> dict[str, str]:
        """Those whose values are there; before the sign-in some are not."""
        login = f"{values.get('panel.login', '')}:{values.get('panel.password', '')}"
        known = {**values, "panel.basic": b64encode(login.encode()).decode()}
        fit = {name: text for name, text in self.primer.headers.items() if holes(text) <= set(known)}
        return {"Accept": "application/json", **{name: filled_in(text, known) for name, text in fit.items()}}

    def _no(self, method: str, url: str, status: int, content: bytes) -> str:
        said = said_in(_json(content))
        if said and status not in (404, 405):
            return said
        # What is not there is told with what was asked for: it is the primer's fault as often as the panel's.
        page = " with a page instead of JSON" if content.strip() and _json(content) is None else ""
        return f"{method} {urlsplit(url).path} answers {status}{page}" + (f": {said}" if said else "")

    def _error(
        self, text: str, values: Mapping[str, str], task: str, *, hint: str = "", unsure: bool = False
    ) -> PanelError:
        # What a panel hands out at its door is as secret as the password.
        handed = {name for one in self.primer.tasks.get("sign-in", []) for name in one.take}
        hide = redactor([text for name, text in values.items() if name in handed or name.endswith("password")])
        return PanelError(
            hide(text), hint=hint or "see to it in the panel, then run the job again", task=task, unsure=unsure
        )


def _sent(step: PanelStep, values: Mapping[str, str]) -> tuple[bytes, dict[str, str]]:
    if step.form is not None:
        fields = {name: filled_in(text, values) for name, text in step.form.items()}
        return urlencode(fields).encode(), {"Content-Type": "application/x-www-form-urlencoded"}
    return (b"", {}) if step.body is None else (json.dumps(_put(step.body, values)).encode(), {})


def _put(thing: Any, values: Mapping[str, str]) -> Any:
    if isinstance(thing, str):
        return filled_in(thing, values)
    if isinstance(thing, dict):
        return {key: _put(one, values) for key, one in thing.items()}
    return [_put(one, values) for one in thing] if isinstance(thing, list) else thing


def _stands(answer: Any, wanted: Mapping[str, list[str]], values: Mapping[str, str]) -> bool:
    """Whether one of the words wanted stands at one of the places."""
    return any(set(found_at(answer, filled_in(place, values))) & set(words) for place, words in wanted.items())


def _json(content: bytes) -> Any:
    try:
        return json.loads(content)
    except (ValueError, RecursionError):
        return None


def _seconds(headers: Mapping[str, str]) -> float:
    told = headers.get("retry-after", "")
    return min(float(told), 60.0) if told.isdigit() and len(told) < 6 else USUAL_PATIENCE
