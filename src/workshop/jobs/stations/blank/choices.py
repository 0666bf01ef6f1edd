"""Choices of the blank station."""


def backing_choices() -> list[tuple[str, str]]:
    """Return what may lie behind clear material."""
    return [
        ("none", "Nothing in particular"),
        ("white", "White"),
        ("black", "Black"),
        ("mirror", "A mirror"),
        ("light", "Light"),
    ]


def fit_choices() -> list[tuple[str, str]]:
    """Return how a picture's size may follow its blank."""
    return [
        ("inside", "Fit inside"),
        ("cover", "Cover"),
        ("stretch", "Stretch"),
        ("exact", "Exact"),
    ]


def follow_choices() -> list[tuple[str, str]]:
    """Return whether something follows by itself."""
    return [("auto", "follows"), ("yes", "yes"), ("no", "no")]


def polarity_choices() -> list[tuple[str, str]]:
    """Return what the beam may be said to do."""
    return [
        ("auto", "as the substrate has it"),
        ("darkens", "darkens it"),
        ("lightens", "lightens it"),
    ]
