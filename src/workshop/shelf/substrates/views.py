"""Pages of substrates."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from workshop.shelf.models import Substrate
from workshop.shelf.substrates import changes
from workshop.shelf.substrates.form import SubstrateForm
from workshop.shell.services import Error


def substrate(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Show a substrate's form, or save what it says."""
    item = get_object_or_404(Substrate.objects.with_use(), pk=pk) if pk else None
    initial = changes.substrate_values(item)
    form = SubstrateForm(request.POST or None, initial=initial, item=item)
    if request.method == "POST" and form.is_valid():
        try:
            changes.save_substrate(form.cleaned_data, item)
        except Error as error:
            form.add_fault(error.field, error.message)
    if request.method == "POST" and not form.errors:
        return redirect(reverse("shelf") + "#substrates")
    return render(request, "shelf/substrates/substrate.html", {"form": form, "item": item})


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a substrate off the shelf."""
    changes.remove_substrate(get_object_or_404(Substrate, pk=pk))
    return redirect(reverse("shelf") + "#substrates")
