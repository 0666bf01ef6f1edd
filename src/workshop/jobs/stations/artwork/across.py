"""One picture that lies across all pockets of a fixture."""

from engraving.jobspec import Crop
from engraving.place import across_ratio, engravable_box
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.edit import Edit, centred_on_blank, refitted, resized


def lay_across(edit: Edit) -> None:
    """Cut one picture to what all pockets together are, each filled to its edge."""
    spec = edit.spec
    if spec.fixture is None or spec.fixture.picture != "across":
        return
    _, _, wide, high = engravable_box(spec.blank)
    if spec.size.fit != "stretch" or spec.size.lock_ratio:
        changes = {"fit": "stretch", "lock_ratio": False, "bleed_mm": 0.0}
        spec = updated(spec, {"size": changes})
        spec = centred_on_blank(resized(spec, wide, high))
    wanted = across_ratio(spec)
    whole = spec.artwork.model_copy(update={"crop": Crop()}).ratio
    crop = Crop.to_ratio(whole, wanted).model_dump()
    edit.spec = updated(spec, {"artwork": {"crop": crop}})


def take_off_across(edit: Edit) -> None:
    """Give the picture back its whole, and each blank as much of it as lies inside."""
    fixture = edit.spec.fixture
    if fixture is None or fixture.picture != "across":
        return
    crop = Crop().model_dump(mode="json")
    size = {"fit": "inside", "lock_ratio": True, "bleed_mm": 0.0}
    plain = updated(edit.spec, {"artwork": {"crop": crop}, "size": size})
    edit.spec = centred_on_blank(refitted(plain))
