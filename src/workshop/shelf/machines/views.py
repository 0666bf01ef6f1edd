"""The shelf's first page, machines and substrates."""

from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from workshop.shelf.machines import changes, facts
from workshop.shelf.machines.form import MachineForm
from workshop.shelf.models import Machine
from workshop.shell.services import Error


def machine(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Show a machine's form, or save what it says."""
    item = get_object_or_404(Machine.objects.with_use(), pk=pk) if pk else None
    kind = request.POST.get("begun") or request.GET.get("kind", "co2")
    initial = changes.machine_values(item) if item else changes.starting_machine(kind)
    if request.method != "POST":
        return _machine_page(request, MachineForm(initial=initial, item=item), item, kind)
    if not item and request.POST.get("begin"):
        return _begun_with(request, initial, request.POST["begin"])
    form = MachineForm(request.POST, initial=initial, item=item)
    if form.is_valid():
        try:
            changes.save_machine(form.cleaned_data, item)
        except Error as error:
            form.add_fault(error.field, error.message)
    if form.errors:
        return _machine_page(request, form, item, kind)
    return redirect(reverse("shelf") + "#machines")


def _begun_with(request: HttpRequest, before: dict[str, Any], kind: str) -> HttpResponse:
    """Show the starting values of another kind, and all that was typed by then."""
    typed = MachineForm(request.POST, initial=before)
    data = changes.starting_machine(kind)
    shown = MachineForm(initial=before)
    for name in typed.changed_data:
        if isinstance(shown.fields[name], forms.BooleanField):
            data[name] = name in request.POST
        elif name in request.POST and request.POST[name] != str(shown[name].value() or ""):
            data[name] = request.POST[name]
    data["kind"] = changes.starting_machine(kind)["kind"]
    return _machine_page(request, MachineForm(initial=data), None, kind)


def _machine_page(
    request: HttpRequest, form: MachineForm, item: Machine | None, begun: str
) -> HttpResponse:
    values = {**form.initial, **getattr(form, "cleaned_data", {})}
    found = facts.machine_facts(values)
    context = {"form": form, "item": item, "facts": found, "begun": begun}
    return render(request, "shelf/machines/machine.html", context)


@require_POST
def facts_of(request: HttpRequest) -> HttpResponse:
    """Show what follows from a machine's form as it stands."""
    form = MachineForm(request.POST)
    form.is_valid()
    found = facts.machine_facts(form.cleaned_data)
    return render(request, "shelf/machines/facts.html", {"facts": found})


@require_POST
def duplicate(request: HttpRequest, pk: int) -> HttpResponse:
    """Copy a machine and open the copy."""
    copy = changes.duplicate_machine(get_object_or_404(Machine, pk=pk))
    return redirect("machine", pk=copy.pk)


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a machine off the shelf."""
    changes.remove_machine(get_object_or_404(Machine, pk=pk))
    return redirect(reverse("shelf") + "#machines")
