"""What a lot raises that makes no drill."""


class Unfit(Exception):
    """What was drawn by lot makes no drill with one right answer: another lot is drawn."""
