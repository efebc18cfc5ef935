"""What a builder types, and what comes back on the bench's scale."""

import pytest

from yardmeter.core.errors import QuantityError
from yardmeter.core.units import format_si, parse_draw, parse_quantity


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("850mA", "A", 0.85),
        (" 1.2 A", "A", 1.2),
        ("1,2A", "A", 1.2),
        ("4k7", "Ω", 4700),
        ("4R7", "Ω", 4.7),
        ("35mΩ", "Ω", 0.035),
        ("470uF", "F", 470e-6),
        ("470µF", "F", 470e-6),
        ("120mm", "m", 0.12),
        ("24kHz", "Hz", 24e3),
        ("5.1V", "V", 5.1),
        ("1e-3A", "A", 1e-3),
        ("0.3 m", "m", 0.3),
        ("650mAh", "Ah", 0.65),
        ("5 Ah", "Ah", 5.0),
        ("22Wh", "Wh", 22.0),
    ],
)
def test_reads(text: str, unit: str, value: float) -> None:
    assert parse_quantity(text, unit) == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "unit", "words"),
    [
        ("", "A", "Nothing"),
        ("   ", "A", "Nothing"),
        ("12 bananas", "A", "bananas"),
        ("-3A", "A", "negative"),
        ("−500 mA", "A", "negative"),
        ("3", "A", "no unit"),
        ("3m", "A", "no unit"),
        ("5V", "A", "is in V"),
        ("5A", "Ah", "is in A"),
        ("650m", "Ah", "no unit"),
        ("1e999A", "A", "finite"),
        ("A", "A", "not a quantity"),
        ("3 4A", "A", "no"),
        ("४A", "V", "not a quantity"),
        ("٣A", "A", "not a quantity"),
        ("1_000A", "A", "quantity"),
    ],
)
def test_refuses_with_words_and_a_remedy(text: str, unit: str, words: str) -> None:
    with pytest.raises(QuantityError, match=words) as caught:
        parse_quantity(text, unit)
    assert caught.value.remedy


def test_draws() -> None:
    assert (parse_draw("9W@12V").value, parse_draw("9W@12V").unit, parse_draw("9W@12V").at_v) == (9.0, "W", 12.0)
    assert (parse_draw("850mA").value, parse_draw("850mA").at_v) == (0.85, None)
    for slip in ("12 bananas", "", "900A", "1A@500V", "9W@", "5V"):
        with pytest.raises(QuantityError):
            parse_draw(slip)


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [
        (0.85, "A", "850 mA"),
        (1.2, "A", "1.20 A"),
        (0.0123, "V", "12.3 mV"),
        (25.2, "V", "25.2 V"),
        (470e-6, "F", "470 µF"),
        (0, "A", "0 A"),
        (4700, "Ω", "4.70 kΩ"),
        (2e-11, "V", "0 V"),
        (-0.5, "A", "−500 mA"),
        (float("inf"), "A", "–"),
        (0.9999, "A", "1.00 A"),
        (7.94e-6, "Ah", "7.94 µAh"),
        (7.94e-7, "Ah", "0 Ah"),
        (0.0005, "Ah", "500 µAh"),
        (1.3 * 3, "Ah", "3.90 Ah"),
        (5000.0, "Wh", "5000 Wh"),
    ],
)
def test_writes(value: float, unit: str, text: str) -> None:
    assert format_si(value, unit) == text
