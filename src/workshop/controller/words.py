"""What a controller's numbers mean, in sentences an operator understands.

The numbers are those of the open line protocol of small motion controllers (from
memory); the sentences are our own.
"""

ALARMS = {
    1: "A limit switch was hit. The machine no longer knows where it is; find home again.",
    2: "The job reaches beyond the machine's travel.",
    3: "It was reset while it moved and no longer knows where it is; find home again.",
    4: "The probe was already touching.",
    5: "The probe found nothing.",
    6: "Finding home was broken off by a reset.",
    7: "Finding home was broken off by the door.",
    8: "Finding home: the switch did not let go.",
    9: "Finding home: the switch was not found.",
}
ERRORS = {
    1: "it begins with no letter",
    2: "its number cannot be read",
    3: "it knows no such command",
    4: "a value is negative",
    5: "finding home is switched off in the controller's settings",
    7: "its memory of settings failed",
    8: "it does that only at rest",
    9: "it is locked by an alarm",
    10: "soft limits need homing",
    11: "the line is too long for it",
    13: "the door is open",
    15: "it would run beyond its travel",
    16: "the jog lacks a word",
    17: "laser mode needs a beam whose power can be set",
    20: "it does not know this word",
    21: "two of its words exclude one another",
    22: "the speed is missing",
    23: "a whole number is needed",
    24: "two of its words want the same axes",
    25: "a word stands twice",
    26: "an axis is missing",
    33: "its target cannot be reached",
}


def alarm_sentence(number: int) -> str:
    """Return what an alarm means."""
    return ALARMS.get(number, "It stopped for a reason of its own.") + f" (Alarm {number})"


def error_sentence(number: int) -> str:
    """Return why a line was refused, as the end of a sentence."""
    return f"{ERRORS.get(number, 'it gives no reason we know')} (error {number})"
