"""Recipes: the list, one recipe, carrying over, import and export."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes import carry as carry_over
from workshop.shelf.recipes import changes, facts, import_recipes, rows
from workshop.shelf.recipes.form import ImportForm, RecipeFilter, RecipeForm
from workshop.shell.numbers import whole
from workshop.shell.services import Error

_TYPES = {"csv": "text/csv; charset=utf-8", "json": "application/json"}


@require_GET
def recipes(request: HttpRequest) -> HttpResponse:
    """Show the recipes that a filter lets through."""
    form = RecipeFilter(request.GET)
    listed = rows.recipe_rows(form.cleaned_data if form.is_valid() else {})
    context = {"filter": form, "rows": listed, "query": request.GET.urlencode()}
    partial = bool(getattr(request, "htmx", False))
    page = "shelf/recipes/rows.html" if partial else "shelf/recipes/recipes.html"
    return render(request, page, context)


def _known(pk: int) -> Recipe:
    return get_object_or_404(Recipe.objects.with_all(), pk=pk)


def recipe(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Show a recipe's form, or save what it says as a new version."""
    item = _known(pk) if pk else None
    initial, sources = _initial(request, item)
    form = RecipeForm(request.POST or None, initial=initial, item=item)
    if request.method == "POST" and form.is_valid():
        try:
            item = changes.save_recipe(form.cleaned_data, item)
        except Error as error:
            form.add_fault(error.field, error.message)
    if request.method == "POST" and not form.errors and item:
        return redirect("recipe", pk=item.pk)
    context: dict[str, Any] = {"form": form, "item": item, "sources": sources}
    context["machines"] = Machine.objects.all()
    if item:
        part = changes.recipe_part(item)
        context |= {
            "part": part,
            "facts": facts.recipe_facts(part, item.machine),
            "versions": facts.history(item),
            "evidence": list(item.evidence.all()[:50]),
        }
    return render(request, "shelf/recipes/recipe.html", context)


def _initial(
    request: HttpRequest, item: Recipe | None
) -> tuple[dict[str, Any], tuple[str, ...]]:
    """Return the form's first values; a new recipe may begin with the nearest ones."""
    machine = Machine.objects.filter(pk=_number(request, "machine")).first()
    substrate = Substrate.objects.filter(pk=_number(request, "substrate")).first()
    if item or not (machine and substrate):
        return changes.recipe_values(item), ()
    start = carry_over.start_recipe(substrate, machine)
    part, sources = start or (None, ())
    chosen = {"machine": machine.pk, "substrate": substrate.pk}
    name = {"name": f"{substrate.name}, to be tested"}
    return {**changes.recipe_values(None, part), **chosen, **name}, sources


def _number(request: HttpRequest, name: str) -> int:
    return whole(request.GET.get(name, "")) or 0


@require_POST
def favourite(request: HttpRequest, pk: int) -> HttpResponse:
    """Make a recipe a favourite, or one no longer."""
    changes.toggle_favourite(_known(pk))
    return render(request, "shelf/recipes/star.html", {"recipe": _known(pk)})


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a recipe off the shelf."""
    changes.remove_recipe(_known(pk))
    return redirect("recipes")


@require_POST
def back_to(request: HttpRequest, pk: int, number: int) -> HttpResponse:
    """Make an old version of a recipe its newest."""
    item = _known(pk)
    if not changes.back_to(item, number):
        raise Http404
    return redirect("recipe", pk=pk)


def carry(request: HttpRequest, pk: int, machine: int) -> HttpResponse:
    """Show a recipe carried over to another machine, or put it on the shelf."""
    item, target = _known(pk), get_object_or_404(Machine, pk=machine)
    try:
        if request.method == "POST":
            return redirect("recipe", pk=carry_over.keep_carried(item, target).pk)
        carried = carry_over.carried(item, target)
    except Error as error:
        messages.warning(request, error.message)
        return redirect("recipe", pk=pk)
    context = {"item": item, "target": target, "carried": carried}
    return render(request, "shelf/recipes/carry.html", context)


@require_GET
def export(request: HttpRequest, form: str) -> HttpResponse:
    """Send the recipes that the filter lets through, as CSV or JSON."""
    if form not in _TYPES:
        raise Http404
    chosen = RecipeFilter(request.GET)
    listed = rows.recipe_rows(chosen.cleaned_data if chosen.is_valid() else {})
    found = [row["recipe"] for row in listed]
    data = import_recipes.as_csv(found) if form == "csv" else import_recipes.as_json(found)
    response = HttpResponse(data, content_type=_TYPES[form])
    response["Content-Disposition"] = f'attachment; filename="recipes.{form}"'
    return response


def take_in(request: HttpRequest) -> HttpResponse:
    """Look at a file of recipes, then take it in."""
    form = ImportForm(request.POST or None, request.FILES or None)
    context: dict[str, Any] = {
        "form": form,
        "fault": "",
        "limit": import_recipes.SHOWN_ROWS,
    }
    if request.method == "POST" and form.is_valid():
        upload, held = form.cleaned_data.get("file"), form.cleaned_data.get("held")
        try:
            if held:
                context["done"] = import_recipes.take_in_held(held)
            elif upload:
                context["held"], context["preview"] = import_recipes.hold(
                    upload.read(), upload.name
                )
                context["file"] = upload.name
            else:
                context["fault"] = "Choose a file first."
        except Error as error:
            context["fault"] = error.message
    return render(request, "shelf/recipes/import.html", context)
