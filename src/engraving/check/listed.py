"""All rules as a page for people: made from the registry, so that none is missing."""

import inspect

from engraving.check.findings import RULES, Rule, of_rows

_HEAD = """# What the Check station looks at

Made from the rules themselves by `make findings`; a test holds it against them. Each rule
says what is so when nothing is wrong. A stop holds the job; a caution is put right or
signed off by name; a note informs. Limits without a source are common practice.
"""


def listing() -> str:
    """Return the rules, theme by theme, in Markdown."""
    themes: dict[str, list[Rule]] = {}
    for one in RULES:
        themes.setdefault(one.__module__, []).append(one)
    return _HEAD + "".join(_theme(name, rules) for name, rules in themes.items())


def _theme(module: str, rules: list[Rule]) -> str:
    title = (inspect.getdoc(inspect.getmodule(rules[0])) or module).splitlines()[0]
    rows = "".join(f"| `{one.__name__}` | {_said(one)} |\n" for one in rules)
    return f"\n## {title.rstrip('.')}\n\n| rule | what is so |\n|---|---|\n{rows}"


def _said(one: Rule) -> str:
    said = " ".join((inspect.getdoc(one) or "").split())
    return f"{said} Not asked where no picture is burned." if of_rows(one) else said
