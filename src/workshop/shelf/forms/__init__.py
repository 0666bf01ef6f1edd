"""Forms of the shelf; they read and check, and write nothing."""

from workshop.shelf.forms.blanks import ShelfBlankForm
from workshop.shelf.forms.machines import MachineForm
from workshop.shelf.forms.recipes import ImportForm, RecipeFilter, RecipeForm
from workshop.shelf.forms.substrates import SubstrateForm

__all__ = [
    "ImportForm",
    "MachineForm",
    "RecipeFilter",
    "RecipeForm",
    "ShelfBlankForm",
    "SubstrateForm",
]
