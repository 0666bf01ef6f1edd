"""One form a station; they read and check, and write nothing."""

from workshop.jobs.forms.artwork import ArtworkForm
from workshop.jobs.forms.base import StationForm
from workshop.jobs.forms.blank import BlankForm
from workshop.jobs.forms.cards import CardForm, NewCardForm
from workshop.jobs.forms.dots import DotsForm
from workshop.jobs.forms.later import BurnForm, PlaceForm
from workshop.jobs.forms.tone import ToneForm

FORMS: dict[str, type[StationForm]] = {
    "artwork": ArtworkForm,
    "blank": BlankForm,
    "tone": ToneForm,
    "dots": DotsForm,
    "burn": BurnForm,
    "place": PlaceForm,
}
"""The stations that change the job."""


def form_class(station: str, *, card: bool) -> type[StationForm]:
    """Return a station's form; a swatch card is described where artwork is."""
    return CardForm if card and station == "artwork" else FORMS[station]


__all__ = ["FORMS", "NewCardForm", "StationForm", "form_class"]
