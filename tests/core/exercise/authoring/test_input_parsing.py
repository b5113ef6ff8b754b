"""Tolerances as they are typed: what is written out is read in again, and what is no number is said."""

import pytest

from rigid_bench.core.exercise.authoring.input_parsing import read_nominal, read_tolerance, tolerance_words
from rigid_bench.core.values.errors import FormRejected


@pytest.mark.parametrize(
    ("text", "minus", "plus"),
    [
        ("±0.1", 0.1, 0.1), ("± 0,05", 0.05, 0.05), ("+-0.1", 0.1, 0.1), ("+/-0.1", 0.1, 0.1), ("0.2", 0.2, 0.2),
        ("+0.2/-0", 0, 0.2), ("+0,2 / −0,1", 0.1, 0.2), ("+0/-0.3", 0.3, 0),
    ],
)  # fmt: skip
def test_limits_are_read_and_written_the_same(text: str, minus: float, plus: float) -> None:
    tolerance = read_tolerance(text)
    assert tolerance == {"minus": minus, "plus": plus}
    assert read_tolerance(tolerance_words({"tolerance": tolerance})) == tolerance


@pytest.mark.parametrize("text", ["H7", "h6", "ISO 2768-m", "fit", "printed", "-0.2"])
def test_names_stay_names(text: str) -> None:
    assert read_tolerance(text) == text == tolerance_words({"tolerance": text})


@pytest.mark.parametrize("text", ["±1.2.3", "+0.1/-.", ",", "+0,1,2/-0"])
def test_what_is_no_number_is_said(text: str) -> None:
    with pytest.raises(FormRejected, match="is no number"):
        read_tolerance(text)


def test_nominals_are_numbers_or_sums() -> None:
    read = [read_nominal(entry) for entry in ("16", "-2.5", "2*8.2", "nan", "1e3", "")]
    assert read == [16, -2.5, "2*8.2", "nan", "1e3", ""]
    endless = 400 * "9"  # is no finite number, and stays a text that the check refuses
    assert (read_nominal(endless), read_tolerance(endless)) == (endless, endless)
