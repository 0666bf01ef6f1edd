"""One form a station; they read and check, and write nothing."""

from workshop.jobs.forms.artwork import ArtworkForm
from workshop.jobs.forms.base import StationForm
from workshop.jobs.forms.blank import BlankForm
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

__all__ = ["FORMS", "StationForm"]
