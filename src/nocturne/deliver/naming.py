"""File names from a template: plain words with {tokens} in braces."""

import re
from datetime import datetime

from nocturne.errors import NocturneError

TOKENS = {
    "project": "the project's name",
    "view": "the view's name",
    "cue": "the cue's name",
    "pass": "the pass or light group",
    "quality": "the quality level's name",
    "width": "pixels across",
    "height": "pixels down",
    "date": "the day, as 2026-03-14",
    "time": "the time, as 1530",
}
DEFAULT = "{project}-{view}-{cue}-{pass}"


def clean(name: str) -> str:
    """Return a word that every file system takes: no separators, no leading or trailing dots and dashes."""
    return re.sub(r"[^\w\-.,()+ ]+", "_", name).strip(" .-_") or "_"


def file_name(template: str, facts: dict[str, str], *, now: datetime | None = None) -> str:
    """Return the name a template makes of some facts; what is empty goes, with the mark before it.

    Raises
    ------
    NocturneError
        If the template names something unknown, or makes no name.
    """
    now = now or datetime.now()
    known = dict.fromkeys(TOKENS, "") | {"date": f"{now:%Y-%m-%d}", "time": f"{now:%H%M}"} | facts
    unknown = [token for token in re.findall(r"\{([^{}]*)\}", template) if token not in known]
    if unknown:
        raise NocturneError(
            f"The name template knows no {{{unknown[0]}}}.",
            hint=f"There are {', '.join('{' + t + '}' for t in TOKENS)}.",
        )
    if template.count("{") != template.count("}"):
        raise NocturneError("The name template has a brace without its partner.", hint="Write tokens like {view}.")

    def value(match: re.Match) -> str:
        mark, token = match.group(1), match.group(2)
        word = known[token]
        return mark + clean(word) if word else ""

    name = re.sub(r"([-_. ]?)\{([^{}]*)\}", value, template)
    name = clean(name)
    if name == "_":
        raise NocturneError("The name template makes an empty name.", hint="Put some words or {view} into it.")
    return name
