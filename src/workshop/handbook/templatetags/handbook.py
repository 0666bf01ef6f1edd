"""The "?" beside what the handbook explains."""

from django import template
from django.urls import reverse
from django.utils.html import format_html
from django.utils.safestring import SafeString

from workshop.handbook import book

register = template.Library()


@register.simple_tag
def ask(page: str, anchor: str = "") -> SafeString:
    """Return a "?" that opens an entry in the slip; nothing where there is none.

    Parameters
    ----------
    page : str
        Of the handbook; a station's name is its page's.
    anchor : str, optional
        Of the entry; the page's first by default.
    """
    entry = book.entry(page, anchor or page)
    if entry is None:
        return SafeString("")
    where = reverse("ask", args=[entry.page, entry.anchor])
    return format_html(
        '<a class="ask" href="{}" hx-get="{}" hx-target="#ask" hx-swap="innerHTML" '
        'title="What is this?"><span aria-hidden="true">?</span>'
        '<span class="is-sr-only">What is this?</span></a>',
        where, where,
    )  # fmt: skip
