"""Reading and writing of quantities in the user's words."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from nimble_cradle.units import (
    LB,
    LBF,
    LBF_FT_NM,
    NEARLY,
    PSI_MPA,
    Display,
    UnitError,
    parse,
    parse_length,
    show,
)

SHOWS = [Display(), Display("in"), Display("in", 16), Display("in", 32)]


@pytest.mark.parametrize(
    ("typed", "mm"),
    [
        ("32", 32.0),
        ("32 in", 812.8),
        ('1 1/4"', 31.75),
        ("9/16", 14.2875),
        ("55mm", 55.0),
        ("2' 3\"", 685.8),
        ("60-4", 56.0),
        ("60 - 4 mm", 56.0),
        ("5 cm", 50.0),
        ("1.2 m", 1200.0),
        ("12,5", 12.5),
        ("-3", -3.0),
        ("−3 mm", -3.0),
        ("3/8 + 1/8", 12.7),
        ("2 ft", 609.6),
        (".5 in", 12.7),
        ("1 in - 2 mm", 23.4),
    ],
)
def test_lengths_as_they_are_typed(typed: str, mm: float) -> None:
    assert parse_length(typed) == pytest.approx(mm, abs=1e-9)


def test_a_bare_number_takes_the_display_unit() -> None:
    assert parse_length("2", "in") == pytest.approx(50.8)
    assert parse("2", "length", Display("in")) == pytest.approx(50.8)
    assert parse("100", "force", Display("in")) == pytest.approx(444.822, abs=0.001)


@pytest.mark.parametrize(
    "typed",
    [
        "",
        "abc",
        "12x",
        "1/0",
        "1,250",
        '1-1/4"',
        "12 bananas",
        "3 4",
        "5 in 2",
        "--3",
        "1e5",
        "1/2/3",
        "9" * 80,
        "in",
        "12 mm mm",
    ],
)
def test_what_cannot_be_read_is_one_sentence(typed: str) -> None:
    with pytest.raises(UnitError) as refused:
        parse_length(typed)
    assert str(refused.value).endswith(".") and "\n" not in str(refused.value)


def test_conversions_are_the_published_ones() -> None:
    # NIST SP 811 (2008), appendix B.8: lbf 4.448 222 N, lbf ft 1.355 818 Nm, psi 6.894 757 kPa, lb 0.453 592
    # 37 kg (from memory)
    assert pytest.approx(4.448222, abs=5e-7) == LBF
    assert pytest.approx(1.355818, abs=5e-7) == LBF_FT_NM
    assert pytest.approx(6.894757e-3, abs=5e-10) == PSI_MPA
    assert LB == 0.45359237


@given(st.floats(-5000, 5000), st.sampled_from(SHOWS))
def test_a_shown_length_reads_back_to_the_shown_precision(mm: float, display: Display) -> None:
    text = show(mm, "length", display)
    back = parse(text, "length", display)
    step = 0.1 if display.length == "mm" else (25.4 / display.fraction if display.fraction else 0.0254)
    assert abs(back - mm) <= step / 2 + 1e-9
    assert show(back, "length", display) == text.removeprefix(NEARLY), "what was nearly so is so exactly now"


@given(
    st.floats(-1e5, 1e5),
    st.sampled_from(["angle", "force", "mass", "torque", "stress", "stiffness", "speed", "number"]),
    st.sampled_from(SHOWS[:2]),
)
def test_other_kinds_read_back(value: float, kind: str, display: Display) -> None:
    text = show(value, kind, display)  # type: ignore[arg-type]
    assert show(parse(text, kind, display), kind, display) == text  # type: ignore[arg-type]


@given(st.text(max_size=30))
def test_no_text_at_all_breaks_the_reader(typed: str) -> None:
    try:
        assert isinstance(parse_length(typed), float)
    except UnitError as refused:
        assert str(refused)
