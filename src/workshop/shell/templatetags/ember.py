"""Template tags and filters of the whole application."""

from collections.abc import Iterable
from datetime import date
from functools import cache
from pathlib import Path
from typing import Any, cast

from django import template
from django.forms import BoundField, ChoiceField
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from workshop.shell import modules
from workshop.shell.quantity import QuantityField
from workshop.shell.services import (
    in_shown_unit,
    show_length,
    show_lengths,
    show_number,
    show_time,
)

register = template.Library()
_ICONS = Path(__file__).resolve().parents[1] / "icons"


@cache
def _icon(name: str) -> str:
    text = (_ICONS / f"{name}.svg").read_text()
    start = text.index(">", text.index("<svg")) + 1
    body = text[start : text.rindex("</svg>")]
    return (
        '<svg class="ico" viewBox="0 0 24 24" fill="none" stroke="currentColor" '
        'stroke-width="1.9" stroke-linecap="round" stroke-linejoin="round" '
        f'aria-hidden="true">{" ".join(body.split())}</svg>'
    )


@register.simple_tag
def script(name: str) -> SafeString:
    """Return a script of ours as a module, and the head's word of all it imports."""
    own, *others = modules.addresses(name)
    links = (format_html('<link rel="modulepreload" href="{}">', one) for one in others)
    module = format_html('<script type="module" src="{}"></script>', own)
    return mark_safe("".join([*links, module]))  # noqa: S308 (built by format_html)


@register.simple_tag
def icon(name: str) -> SafeString:
    """Return an icon of ours as inline SVG; the files are part of the program."""
    return mark_safe(_icon(name))  # noqa: S308


@register.filter
def number(value: float, places: int) -> str:
    """Show a number with up to so many decimals."""
    return show_number(value, places)


@register.filter
def fixed(value: float, places: int) -> str:
    """Show a number with exactly so many decimals."""
    return f"{value:.{places}f}"


@register.filter
def distance(value_mm: float, places: int) -> str:
    """Show a length with its unit, in the operator's choice of mm or inches."""
    return show_length(value_mm, places)


@register.filter
def by(first_mm: float, second_mm: float) -> str:
    """Show two lengths as width × height with their unit, one decimal in mm."""
    return show_lengths(first_mm, second_mm, 1)


@register.filter
def percent(value: float) -> str:
    """Show a share 0..1 in percent with one decimal."""
    return f"{100 * value:.1f} %"


@register.filter
def whole_percent(value: float) -> str:
    """Show a share 0..1 in whole per cent."""
    return f"{100 * value:.0f} %"


@register.filter
def away(percent: float) -> str:
    """Say how much wider or narrower something is: 12.9 % narrower."""
    return f"{abs(percent):.1f} % {'wider' if percent > 0 else 'narrower'}"


@register.filter
def lengths(text: str) -> str:
    """Show a sentence of the core with its lengths in the operator's unit."""
    return in_shown_unit(text)


@register.filter
def add_half(value: float) -> float:
    """Return a share with a half added: a gain as what half the dots look like."""
    return value + 0.5


@register.filter
def clock(seconds: float) -> str:
    """Show seconds as m:ss or h:mm:ss."""
    return show_time(seconds)


@register.filter
def chosen(wanted: object, name: str) -> str:
    """Return what is asked for by a name, as a choice's value; empty for nothing."""
    value = getattr(wanted, name)
    return "" if value is None else str(value)


@register.filter
def date_or_text(value: object) -> str:
    """Show a day as a date field takes it, and what is no day as it was typed."""
    return value.isoformat() if isinstance(value, date) else str(value or "")


@register.filter
def ticket_no(value: int) -> str:
    """Show a ticket number with four digits."""
    return f"{value:04d}"


@register.inclusion_tag("shell/_partials/num.html")
def num(field: BoundField) -> dict[str, object]:
    """Draw a quantity field: label, value, unit, error."""
    quantity = cast("QuantityField", field.field)
    return {"field": field, "unit": quantity.shown_unit, **_ways(quantity)}


def _ways(quantity: QuantityField) -> dict[str, object]:
    """Return what keys and a double click do to a quantity."""
    plain = quantity.initial
    return {
        # A number pad has no letters and no fractions: whoever types "3 in" needs both.
        "pad": "text" if quantity.shown_unit[:1].isalpha() else "decimal",
        "by_key": f"{quantity.shown(quantity.step):.5g}",
        "plain": "" if plain is None else quantity.prepare_value(plain),
    }


@register.inclusion_tag("shell/_partials/ranged.html")
def ranged(field: BoundField) -> dict[str, object]:
    """Draw a slider for a quantity whose number stands elsewhere."""
    return slide(field)


@register.inclusion_tag("shell/_partials/slide.html")
def slide(field: BoundField, use: BoundField | None = None) -> dict[str, object]:
    """Draw a quantity field with a slider beside its number.

    With ``use``, a checkbox before its name passes it over.
    """
    quantity = cast("QuantityField", field.field)
    low, high, step = (quantity.shown(edge) for edge in quantity.slider or (0, 100, 1))
    return {
        "field": field,
        "unit": quantity.shown_unit,
        "low": f"{low:.5g}",
        "high": f"{high:.5g}",
        "step": f"{step:.5g}",
        "use": use,
        **_ways(quantity),
    }


@register.inclusion_tag("shell/_partials/line.html")
def line(field: BoundField, offers: str = "", hint: str = "") -> dict[str, object]:
    """Draw a text field: label, value, error; what a list of that name offers."""
    return {"field": field, "offers": offers, "hint": hint}


@register.inclusion_tag("shell/_partials/pick.html")
def pick(field: BoundField) -> dict[str, object]:
    """Draw a choice: label, options, error."""
    return {"field": field}


@register.inclusion_tag("shell/_partials/tick.html")
def tick(field: BoundField, words: str = "", title: str = "") -> dict[str, object]:
    """Draw a switch; without words, with its label."""
    return {"field": field, "words": words or field.label, "title": title}


@register.inclusion_tag("shell/_partials/segments.html")
def segments(
    field: BoundField,
    legend: str = "",
    look: str = "",
    *,
    silent: bool = False,
    chosen: object = None,
) -> dict[str, object]:
    """Draw a choice as a few buttons of which one is down.

    Parameters
    ----------
    field : BoundField
        Of a choice.
    legend : str, optional
        Its label where none is given.
    look : str
        Names of looks: even, under, snug, three.
    silent : bool
        Whether the legend is read out only.
    chosen : object, optional
        What is down, where that is not the field's value.
    """
    choices = cast("Iterable[tuple[Any, str]]", cast("ChoiceField", field.field).choices)
    down = str(field.value() if chosen is None else chosen)
    return {
        "name": field.html_name,
        "legend": legend or field.label,
        "silent": silent,
        "look": "".join(f" seg--{one}" for one in look.split()),
        "options": [(value, label, str(value) == down) for value, label in choices],
    }


@register.inclusion_tag("shell/_partials/how.html")
def how(label: str, figure: str, formula: str) -> dict[str, object]:
    """Draw a figure of a list whose formula opens on demand."""
    return {"label": label, "figure": figure, "formula": formula}


@register.filter
def speed(value_mm_s: float) -> str:
    """Show a speed with its unit."""
    return f"{show_number(value_mm_s, 1)} mm/s"


@register.filter
def dose(value: float) -> str:
    """Show an areal dose with its unit."""
    return f"{value:.2f} J/mm²"


@register.filter
def watt(value: float) -> str:
    """Show a power in W."""
    return f"{value:.1f} W"


@register.filter
def from_words(origin: str) -> str:
    """Say where a recipe comes from."""
    return {
        "start": "starting point, to be tested",
        "carried": "carried over, to be tested",
        "card": "swatch card",
        "burn": "burn log",
        "hand": "typed in",
    }.get(origin, origin)


@register.filter
def plus(value: float, other: float) -> float:
    """Add, for the measures of a drawing."""
    return value + other


@register.filter
def minus(value: float, other: float) -> float:
    """Take away, for the measures of a drawing."""
    return value - other


@register.filter
def words(text: str) -> list[str]:
    """Split a text at its blanks."""
    return text.split()


@register.filter
def commas(text: str) -> list[str]:
    """Split a text at its commas."""
    return text.split(",")


@register.filter
def pairs(text: str) -> list[list[str]]:
    """Split ``value,words|value,words`` into pairs."""
    return [pair.split(",", 1) for pair in text.split("|")]


@register.filter
def anchor_words(name: str) -> str:
    """Say which of nine points a name means: front left."""
    return name.replace("-", " ")


@register.filter
def from_back(front_mm: float, deep_mm: float) -> float:
    """Turn a distance from the bed's front into one from its back, as SVG counts."""
    return deep_mm - front_mm


@register.filter
def count(value: float) -> str:
    """Show a whole number with thousands apart."""
    return f"{value:,.0f}"
