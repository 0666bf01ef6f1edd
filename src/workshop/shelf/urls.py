"""Addresses of the shelf."""

from django.urls import path

from workshop.shelf.blanks import views as blanks
from workshop.shelf.machines import views as machines
from workshop.shelf.recipes import views as recipes
from workshop.shelf.substrates import views as substrates
from workshop.shelf.views import shelf

urlpatterns = [
    path("", shelf, name="shelf"),
    path("blanks/new/", blanks.blank, name="new_blank"),
    path("blanks/preview/", blanks.preview, name="preview_blank"),
    path("blanks/<int:pk>/", blanks.blank, name="blank"),
    path("blanks/<int:pk>/preview/", blanks.preview, name="preview_blank"),
    path("blanks/<int:pk>/duplicate/", blanks.duplicate, name="duplicate_blank"),
    path("blanks/<int:pk>/remove/", blanks.remove, name="remove_blank"),
    path("blanks/<int:pk>/photo.jpg", blanks.photo, name="blank_photo"),
    path("machines/new/", machines.machine, name="new_machine"),
    path("machines/facts/", machines.facts_of, name="machine_facts"),
    path("machines/<int:pk>/", machines.machine, name="machine"),
    path("machines/<int:pk>/duplicate/", machines.duplicate, name="duplicate_machine"),
    path("machines/<int:pk>/remove/", machines.remove, name="remove_machine"),
    path("substrates/new/", substrates.substrate, name="new_substrate"),
    path("substrates/<int:pk>/", substrates.substrate, name="substrate"),
    path("substrates/<int:pk>/remove/", substrates.remove, name="remove_substrate"),
    path("recipes/", recipes.recipes, name="recipes"),
    path("recipes/new/", recipes.recipe, name="new_recipe"),
    path("recipes/import/", recipes.take_in, name="import_recipes"),
    path("recipes/export.<slug:form>", recipes.export, name="export_recipes"),
    path("recipes/<int:pk>/", recipes.recipe, name="recipe"),
    path("recipes/<int:pk>/favourite/", recipes.favourite, name="favourite"),
    path("recipes/<int:pk>/remove/", recipes.remove, name="remove_recipe"),
    path("recipes/<int:pk>/back/<int:number>/", recipes.back_to, name="recipe_back"),
    path("recipes/<int:pk>/to/<int:machine>/", recipes.carry, name="carry_recipe"),
]
