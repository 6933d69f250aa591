"""What is said of noise, and what can be done about it at once."""

from __future__ import annotations

from itertools import pairwise

import pytest

from westlight.core.analysis import USUAL_RATIOS, Cure, remedy


@pytest.mark.parametrize(
    ("kind", "direct", "bounced", "openings", "kept", "cure"),
    [
        ("sky", 0.3, 0.1, False, True, "openings"),
        ("sky", 0.3, 0.1, True, True, "none"),
        ("sky", 0.1, 0.3, True, False, "kept"),
        ("lamp", 0.1, 0.3, True, False, "kept"),
        ("lamp", 0.1, 0.3, True, True, "none"),
        ("sun", 0.3, 0.1, False, False, "none"),
    ],
)
def test_a_cure_is_offered_only_where_it_is_one(
    kind: str, direct: float, bounced: float, openings: bool, kept: bool, cure: Cure
) -> None:
    words, found = remedy("Clear sky", kind, direct, bounced, openings, kept)  # type: ignore[arg-type]
    assert found == cure
    assert words.startswith("Clear sky")


def test_usual_ratios_follow_one_another_without_gaps() -> None:
    for (_, _, end), (_, begin, _) in pairwise(USUAL_RATIOS):
        assert end == begin
