"""Blanks."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from workshop.shelf.blanks import changes, facts
from workshop.shelf.blanks.form import ShelfBlankForm
from workshop.shelf.models import Blank, Substrate
from workshop.shell.services import Error


def blank(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Show a blank's form, or save what it says."""
    item = get_object_or_404(Blank.objects.with_use(), pk=pk) if pk else None
    found = asked_for(request, item)
    if isinstance(found, HttpResponse):
        return found
    return redirect(reverse("shelf") + "#blanks")


def asked_for(
    request: HttpRequest, item: Blank | None, **more: object
) -> Blank | HttpResponse:
    """Return the page of a blank until it is saved, then the blank.

    Parameters
    ----------
    more
        What the page shows besides: ``ticket``, the job it is made for.
    """
    initial = changes.blank_values(item)
    if request.method != "POST":
        return _page(request, ShelfBlankForm(initial=initial, item=item), item, more)
    form = ShelfBlankForm(request.POST, request.FILES, initial=initial, item=item)
    if form.is_valid():
        try:
            return changes.save_blank(form.cleaned_data, item)
        except Error as error:
            form.add_error(
                error.field if error.field in form.fields else None, error.message
            )
    return _page(request, form, item, more)


def _page(
    request: HttpRequest, form: ShelfBlankForm, item: Blank | None, more: dict[str, object]
) -> HttpResponse:
    context = {"form": form, "item": item, "drawn": _drawn(form, item), **more}
    return render(request, "shelf/blanks/blank.html", context)


def _drawn(form: ShelfBlankForm, item: Blank | None) -> facts.BlankDrawing | None:
    data = {**changes.blank_values(item), **getattr(form, "cleaned_data", {})}
    try:
        part = changes.blank_part({"name": "blank", **data}, item)
        chosen = data.get("substrate")
        kept = item.substrate if item else None
        substrate = chosen if isinstance(chosen, Substrate) else kept
        return facts.drawn_blank(part, facts.ground_of(substrate))
    except Error:
        return None


@require_POST
def preview(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Draw the blank as the form stands."""
    item = get_object_or_404(Blank, pk=pk) if pk else None
    form = ShelfBlankForm(request.POST, initial=changes.blank_values(item), item=item)
    form.is_valid()
    context = {"drawn": _drawn(form, item), "shape": request.POST.get("shape", "")}
    return render(request, "shelf/blanks/drawing.html", context)


@require_POST
def duplicate(request: HttpRequest, pk: int) -> HttpResponse:
    """Copy a blank and open the copy."""
    copy = changes.duplicate_blank(get_object_or_404(Blank, pk=pk))
    return redirect("blank", pk=copy.pk)


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a blank off the shelf."""
    changes.remove_blank(get_object_or_404(Blank, pk=pk))
    return redirect(reverse("shelf") + "#blanks")


@require_GET
def photo(request: HttpRequest, pk: int) -> HttpResponse:
    """Return a blank's photo."""
    item = get_object_or_404(Blank, pk=pk)
    path = changes.photo_path(item.photo) if item.photo else None
    if path is None or not path.is_file():
        raise Http404
    return HttpResponse(path.read_bytes(), content_type="image/jpeg")
