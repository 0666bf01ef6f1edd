"""Pages as they are read."""


def read(answer):
    """The page's text as a browser reads it: wherever lines break in a template, one blank."""
    return " ".join(answer.content.decode().split())


def smallest_texts(page, least=14):
    """The texts in sight that are smaller than so many pixels, and how small."""
    return page.evaluate(
        """least => {
          const small = {}, walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
          while (walker.nextNode()) {
            const text = walker.currentNode.textContent.trim(), part = walker.currentNode.parentElement;
            if (!text || !part.checkVisibility() || part.closest('.is-sr-only, svg, option')) continue;
            const size = parseFloat(getComputedStyle(part).fontSize);
            if (part.getBoundingClientRect().width > 2 && size < least) small[text.slice(0, 40)] = size;
          }
          return small;
        }""",
        least,
    )
