"""Cells of tables that spreadsheets open: what somebody typed is never taken for a formula."""

#: A cell that begins so is a formula to one spreadsheet or another (OWASP, CSV Injection; from memory).
_FORMULA = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")


def plain_cell(text: str) -> str:
    """Return a text as a cell that is only shown.

    Examples
    --------
    >>> plain_cell("=1+1"), plain_cell(" +0.2/-0"), plain_cell("Bore")
    ("'=1+1", "' +0.2/-0", 'Bore')
    """
    is_formula = text.startswith(_FORMULA) or text.lstrip().startswith(_FORMULA)
    return f"'{text}" if is_formula else text


def typed_cell(text: str) -> str:
    """Return what stands in a cell that came back, without the mark that `plain_cell` may have given it.

    Examples
    --------
    >>> typed_cell("'+0.2/-0 ")
    '+0.2/-0'
    """
    bare = text.strip()
    return bare[1:].strip() if bare.startswith("'") and plain_cell(bare[1:]) != bare[1:] else bare
