"""Pages as they are read."""


def read(answer):
    """The page's text as a browser reads it: wherever lines break in a template, one blank."""
    return " ".join(answer.content.decode().split())
