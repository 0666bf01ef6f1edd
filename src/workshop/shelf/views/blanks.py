"""Blanks."""

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from workshop.shelf import services
from workshop.shelf.forms import ShelfBlankForm
from workshop.shelf.models import Blank, Substrate


def blank(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Show a blank's form, or save what it says."""
    item = get_object_or_404(Blank.objects.with_use(), pk=pk) if pk else None
    initial = services.blank_values(item)
    if request.method != "POST":
        return _page(request, ShelfBlankForm(initial=initial, item=item), item)
    form = ShelfBlankForm(request.POST, request.FILES, initial=initial, item=item)
    if form.is_valid():
        try:
            services.save_blank(form.cleaned_data, item)
        except services.Error as error:
            form.add_error(
                error.field if error.field in form.fields else None, error.message
            )
    if form.errors:
        return _page(request, form, item)
    return redirect(reverse("shelf") + "#blanks")


def _page(request: HttpRequest, form: ShelfBlankForm, item: Blank | None) -> HttpResponse:
    context = {"form": form, "item": item, "drawn": _drawn(form, item)}
    return render(request, "shelf/blank.html", context)


def _drawn(form: ShelfBlankForm, item: Blank | None) -> services.DrawnBlank | None:
    data = {**services.blank_values(item), **getattr(form, "cleaned_data", {})}
    try:
        part = services.blank_part({"name": "blank", **data}, item)
        chosen = data.get("substrate")
        kept = item.substrate if item else None
        substrate = chosen if isinstance(chosen, Substrate) else kept
        return services.drawn_blank(part, services.ground_of(substrate))
    except services.Error:
        return None


@require_POST
def preview(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Draw the blank as the form stands."""
    item = get_object_or_404(Blank, pk=pk) if pk else None
    form = ShelfBlankForm(request.POST, initial=services.blank_values(item), item=item)
    form.is_valid()
    context = {"drawn": _drawn(form, item), "shape": request.POST.get("shape", "")}
    return render(request, "shelf/_partials/blank_drawing.html", context)


@require_POST
def duplicate(request: HttpRequest, pk: int) -> HttpResponse:
    """Copy a blank and open the copy."""
    copy = services.duplicate_blank(get_object_or_404(Blank, pk=pk))
    return redirect("blank", pk=copy.pk)


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a blank off the shelf."""
    services.remove_blank(get_object_or_404(Blank, pk=pk))
    return redirect(reverse("shelf") + "#blanks")


@require_GET
def photo(request: HttpRequest, pk: int) -> HttpResponse:
    """Return a blank's photo."""
    item = get_object_or_404(Blank, pk=pk)
    path = services.photo_path(item.photo) if item.photo else None
    if path is None or not path.is_file():
        raise Http404
    return HttpResponse(path.read_bytes(), content_type="image/jpeg")
