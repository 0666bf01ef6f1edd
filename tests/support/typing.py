"""Typing as hands do it: key by key, at their own pace, whatever the answers do."""

import random

LATENCY_MS = (0, 400)


class Hands:
    """Types into a page at a seeded pace, while answers are late by a seeded time.

    Parameters
    ----------
    page : playwright.sync_api.Page
    seed : int
    keys_ms : tuple of int
        The least and the most time between two keys.
    """

    def __init__(self, page, seed, keys_ms):
        self.page = page
        self.random = random.Random(seed)  # noqa: S311 (a pace, no secret)
        self.keys_ms = keys_ms
        self.network = page.context.new_cdp_session(page)
        self.network.send("Network.enable")

    def delay_answers(self):
        """Let the answers from now on come late, by another time than before."""
        late = self.random.randint(*LATENCY_MS)
        self.network.send(
            "Network.emulateNetworkConditions",
            {
                "offline": False,
                "latency": late,
                "downloadThroughput": -1,
                "uploadThroughput": -1,
            },
        )

    def rest(self):
        """Wait as long as a hand does before the next key."""
        self.page.wait_for_timeout(self.random.randint(*self.keys_ms))

    def press(self, key):
        """Press a key and wait for the next."""
        self.page.keyboard.press(key)
        self.rest()

    def type(self, text):
        """Type a text over what is selected."""
        for letter in text:
            self.page.keyboard.type(letter)  # also one that has no key of its own
            self.rest()

    def cycle(self, selector, text):
        """Step into a field, type over it, and leave it by Tab."""
        self.delay_answers()
        self.page.locator(selector).focus()
        self.page.locator(selector).select_text()
        self.page.wait_for_timeout(self.random.randint(0, 800))
        self.type(text)
        self.press("Tab")
