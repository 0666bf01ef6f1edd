"""What can go wrong on a link."""


class LinkError(Exception):
    """The controller cannot be reached, refuses, or stopped by itself.

    Attributes
    ----------
    refused : bool
        Whether it understood a line and would not do it.
    """

    def __init__(self, sentence: str, *, refused: bool = False) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.refused = refused
