"""Verbs of the shelf."""

from engraving.errors import EngravingError
from workshop.shelf.services.blanks import (
    DrawnBlank,
    blank_part,
    blank_values,
    drawn_blank,
    duplicate_blank,
    ground_of,
    photo_path,
    put_blank,
    remove_blank,
    save_blank,
)
from workshop.shelf.services.machines import (
    duplicate_machine,
    lens_facts,
    machine_facts,
    machine_values,
    put_machine,
    remove_machine,
    save_machine,
    set_row_shift,
    set_spot,
    starting_machine,
)
from workshop.shelf.services.overview import shelf
from workshop.shelf.services.recipes import (
    add_version,
    carried,
    put_recipe,
    recipe_dose,
    recipe_facts,
    recipe_part,
    recipe_values,
    remove_recipe,
    save_recipe,
    start_recipe,
    toggle_favourite,
)
from workshop.shelf.services.substrates import (
    put_substrate,
    remove_substrate,
    save_substrate,
    substrate_values,
)

Error = EngravingError

__all__ = [
    "DrawnBlank",
    "Error",
    "add_version",
    "blank_part",
    "blank_values",
    "carried",
    "drawn_blank",
    "duplicate_blank",
    "duplicate_machine",
    "ground_of",
    "lens_facts",
    "machine_facts",
    "machine_values",
    "photo_path",
    "put_blank",
    "put_machine",
    "put_recipe",
    "put_substrate",
    "recipe_dose",
    "recipe_facts",
    "recipe_part",
    "recipe_values",
    "remove_blank",
    "remove_machine",
    "remove_recipe",
    "remove_substrate",
    "save_blank",
    "save_machine",
    "save_recipe",
    "save_substrate",
    "set_row_shift",
    "set_spot",
    "shelf",
    "start_recipe",
    "starting_machine",
    "substrate_values",
    "toggle_favourite",
]
