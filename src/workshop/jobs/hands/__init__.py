"""The list for the hands: what is to be done at the machine, and that it was done."""
