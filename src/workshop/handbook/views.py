"""The handbook's pages, and the slip a "?" opens."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from workshop.handbook import book


def _is_part(request: HttpRequest) -> bool:
    return bool(getattr(request, "htmx", False))


@require_GET
def handbook(request: HttpRequest) -> HttpResponse:
    """Show what the handbook has, or what was found in it."""
    asked = request.GET.get("q", "").strip()
    said, told = book.find(asked)
    context = {"asked": asked, "said": said, "told": told}
    if _is_part(request):
        return render(request, "handbook/_partials/found.html", context)
    context["pages"] = [(page, book.entries(page)) for page in book.ORDER]
    return render(request, "handbook/handbook.html", context)


@require_GET
def page(request: HttpRequest, name: str) -> HttpResponse:
    """Show a page of the handbook."""
    if name not in book.ORDER:
        raise Http404
    at = book.ORDER.index(name)
    context = {
        "entries": book.entries(name),
        "before": book.entries(book.ORDER[at - 1])[0] if at else None,
        "after": book.entries(book.ORDER[at + 1])[0] if at + 1 < len(book.ORDER) else None,
    }
    return render(request, "handbook/page.html", context)


@require_GET
def slip(request: HttpRequest, name: str, anchor: str) -> HttpResponse:
    """Show one entry: in the slip beside the work, or as a page without scripts."""
    entry = book.entry(name, anchor)
    if entry is None:
        raise Http404
    whole = "handbook/_partials/slip.html" if _is_part(request) else "handbook/page.html"
    return render(request, whole, {"entry": entry, "entries": [entry], "asked": ""})
