"""Numbers as they stand in addresses and headers."""


def is_number(text: str) -> bool:
    """Whether a text is a whole number as anybody would type it: `²` is a digit to Python and none to `int`."""
    return text.isascii() and text.isdigit() and len(text) <= 18
