"""Photometric files: both formats, their symmetries, their flux, and files that are not right."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from westlight.core import luminaires
from westlight.core.errors import PhotometricError, WestlightError


def lm63(v: list[float], h: list[float], rows: list[list[float]], kind: int = 1, lumens: float = -1,
         multiplier: float = 1.0, head: str = "IESNA:LM-63-2002\n[LUMINAIRE] Test\nTILT=NONE\n") -> bytes:  # fmt: skip
    """The text of a small LM-63 file."""
    words = [head, f"1 {lumens} {multiplier} {len(v)} {len(h)} {kind} 2 0.1 0.2 0\n1 1 30\n"]
    words.append(" ".join(map(str, v)) + "\n" + " ".join(map(str, h)) + "\n")
    words += [" ".join(map(str, r)) + "\n" for r in rows]
    return "".join(words).encode()


def test_flux_of_known_shapes() -> None:
    """An even lamp of I cd: 4π·I lm. A Lambert lamp of I0 cd ahead: π·I0 lm."""
    even = luminaires.read_photometric(lm63([0, 180], [0], [[50, 50]]))
    assert even.flux_lm == pytest.approx(4 * math.pi * 50, rel=1e-4)
    v = list(range(0, 91))
    cosine = luminaires.read_photometric(
        lm63(v, [0], [[100 * math.cos(math.radians(a)) for a in v]])
    )
    assert cosine.flux_lm == pytest.approx(math.pi * 100, rel=1e-3)
    assert cosine.beam_angle_deg == pytest.approx(120, abs=0.5)
    assert cosine.is_round


def test_symmetries_unfold() -> None:
    """Quadrant, half and whole files of one lamp say the same everywhere."""

    def row(c: float) -> list[float]:
        k = 1 + 0.5 * math.cos(math.radians(c)) ** 2
        return [100 * k, 60 * k * k, 0.0]

    v = [0.0, 45.0, 90.0]
    whole = list(range(0, 361, 15))
    files = [lm63(v, h, [row(c) for c in h]) for h in (whole, whole[:13], whole[:7])]
    g, c = np.meshgrid(np.arange(0, 91, 9.0), np.arange(0, 360, 7.5))
    found = [luminaires.read_photometric(f).candela(g, c) for f in files]
    assert found[1] == pytest.approx(found[0])
    assert found[2] == pytest.approx(found[0])
    tilted = list(range(90, 271, 15))
    sideways = luminaires.read_photometric(lm63(v, tilted, [row(x) for x in tilted]))
    assert sideways.candela(g, c) == pytest.approx(found[0])


def test_multiplier_and_stated_flux() -> None:
    """The multiplier counts; a lamp that gives more than its lamps have is remarked on."""
    plain = luminaires.read_photometric(lm63([0, 180], [0], [[50, 50]], lumens=100))
    doubled = luminaires.read_photometric(
        lm63([0, 180], [0], [[50, 50]], lumens=1400, multiplier=2)
    )
    assert doubled.flux_lm == pytest.approx(2 * plain.flux_lm)
    assert any("more than" in r for r in plain.remarks)
    assert not doubled.remarks


def test_type_b_beam_points_ahead() -> None:
    """A narrow type B floodlight is brightest at γ = 0 and falls off alike in C 0 and C 90."""
    angles = [-90.0, -20.0, 0.0, 20.0, 90.0]
    rows = [[0, 0, 0, 0, 0], [0, 100, 400, 100, 0], [0, 400, 1000, 400, 0], [0, 100, 400, 100, 0],
            [0, 0, 0, 0, 0]]  # fmt: skip
    flood = luminaires.read_photometric(lm63(angles, angles, rows, kind=2))
    assert float(flood.candela(0, 0)) == pytest.approx(1000)
    assert float(flood.candela(20, 0)) == pytest.approx(400, rel=0.05)
    assert float(flood.candela(20, 90)) == pytest.approx(400, rel=0.05)


EULUMDAT = """Saltmarsh Lamps
1
{symmetry}
{mc}
{dc}
{ng}
15
report
Batwing
no. 1
file
today
600
200
80
500
150
0
0
0
0
100
85
1
0
1
{count}
LED
2000
3000
80
20
""" + "0.5\n" * 10  # fmt: skip


def eulumdat(symmetry: int, planes: list[float], stored: int, count: int = 1) -> bytes:
    """A EULUMDAT file with intensities 100·(1 + cos²C) cd/klm that fall to 0 at 90°."""
    g = [0, 15, 30, 45, 60, 75, 90]
    dc = planes[1] if len(planes) > 1 else 0
    text = EULUMDAT.format(symmetry=symmetry, mc=len(planes), dc=dc, ng=len(g), count=count)
    text += "".join(f"{c}\n" for c in planes) + "".join(f"{a}\n" for a in g)
    first = 3 * len(planes) // 4 if symmetry == 3 else 0
    for i in range(stored):
        c = planes[(first + i) % len(planes)]
        k = 1 + math.cos(math.radians(c)) ** 2
        text += "".join(f"{100 * k * math.cos(math.radians(a)):.4f}\n".replace(".", ",") for a in g)
    return text.encode("latin-1")


def test_eulumdat_symmetries_agree() -> None:
    """All ways to store one lamp, decimal commas included; candela per kilolumen are scaled."""
    planes = [float(c) for c in range(0, 360, 15)]
    g, c = np.meshgrid(np.arange(0, 91, 10.0), np.arange(0, 360, 10.0))
    found = [
        luminaires.read_photometric(eulumdat(s, planes, n)).candela(g, c)
        for s, n in ((0, 24), (2, 13), (3, 13), (4, 7))
    ]
    for other in found[1:]:
        assert other == pytest.approx(found[0], abs=1e-3)
    assert found[0][0, 0] == pytest.approx(400.0)  # 200 cd/klm × 2 klm
    absolute = luminaires.read_photometric(eulumdat(2, planes, 13, count=-1))
    assert absolute.stated_flux_lm == 2000
    assert absolute.watts == 20
    assert absolute.length_m == pytest.approx(0.15)


def test_a_set_of_lamps_has_one_flux_and_others_are_alternatives() -> None:
    """Three lamps of 2000 lm in all are not 6000; a second set is told, not added; too good to be true is doubted."""
    planes = [float(c) for c in range(0, 360, 15)]
    single = eulumdat(2, planes, 13)
    three = luminaires.read_photometric(eulumdat(2, planes, 13, count=3))
    assert three.flux_lm == pytest.approx(luminaires.read_photometric(single).flux_lm)
    lines = single.decode("latin-1").splitlines()
    at = lines.index("LED") - 1
    of_set = lines[at : at + 6]
    other = ["2", "HALOGEN", "800", *of_set[3:5], "60"]
    two = [*lines[: at - 1], "2", *of_set, *other, *lines[at + 6 :]]
    both = luminaires.read_photometric("\n".join(two).encode("latin-1"))
    assert both.stated_flux_lm == 2000
    assert both.watts == 20
    assert any("HALOGEN, 800 lm, 60 W" in r for r in both.remarks)
    (halogen,) = both.others
    assert halogen.name.endswith("HALOGEN, 800 lm, 60 W")
    assert halogen.flux_lm == pytest.approx(both.flux_lm * 800 / 2000)
    assert (halogen.stated_flux_lm, halogen.watts) == (800, 60)
    doubtful = [*lines[: at + 5], "2", *lines[at + 6 :]]
    said = luminaires.read_photometric("\n".join(doubtful).encode("latin-1")).remarks
    assert any("lm/W" in r for r in said)
    assert not any("lm/W" in r for r in luminaires.read_photometric(single).remarks)


def test_editing_and_writing_back() -> None:
    """Scaled, turned and written files say what was meant."""
    v, h = [0.0, 30.0, 90.0], [0.0, 45.0, 90.0]
    lamp = luminaires.read_photometric(lm63(v, h, [[100, 80, 0], [100, 60, 0], [100, 20, 0]]))
    assert lamp.scaled(3).flux_lm == pytest.approx(3 * lamp.flux_lm)
    turned = lamp.turned(90)
    assert float(turned.candela(30, 90)) == pytest.approx(float(lamp.candela(30, 0)))
    assert turned.flux_lm == pytest.approx(lamp.flux_lm, rel=2e-3)
    even = lamp.symmetrised()
    assert even.is_round
    assert even.flux_lm == pytest.approx(lamp.flux_lm, rel=0.01)
    again = luminaires.read_photometric(luminaires.write_lm63(lamp).encode())
    g, c = np.meshgrid(np.arange(0, 91, 10.0), np.arange(0, 360, 10.0))
    assert again.candela(g, c) == pytest.approx(lamp.candela(g, c), rel=1e-4)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"),
        (b"\0\1\2", "not a text file"),
        (b"hello world", "damaged|number|ends"),
        (lm63([0, 180], [0], [[0, 0]]), "without light"),
        (lm63([0, 180], [0], [[50, 50]])[:-9], "ends too early"),
        (lm63([180, 0], [0], [[50, 50]]), "do not rise"),
        (lm63([0, 270], [0], [[50, 50]]), "outside"),
        (lm63([0, 180], [0], [[50, 50]], kind=7), "photometric type"),
        (lm63([0, 180], [0], [[50, 50]]).replace(b"50", b"fifty"), "where a number belongs"),
        (lm63([0, 180], [0], [[50, 50]]).replace(b"50 50", b"1e400 5"), "impossible"),
    ],
)
def test_files_that_cannot_be_used(content: bytes, words: str) -> None:
    """Each is refused with a sentence that says why."""
    with pytest.raises(PhotometricError, match=words):
        luminaires.read_photometric(content)


@settings(max_examples=150, deadline=None)
@given(st.data())
def test_malformed_files_never_crash(data: st.DataObject) -> None:
    """Cut, doubled, shuffled and overwritten files end in a distribution or a named error."""
    good = data.draw(st.sampled_from([
        lm63([0, 45, 90], [0, 90], [[100, 50, 0], [80, 40, 0]]),
        eulumdat(4, [float(c) for c in range(0, 360, 30)], 4),
    ]))  # fmt: skip
    lines = good.split(b"\n")
    for _ in range(data.draw(st.integers(1, 4))):
        at = data.draw(st.integers(0, len(lines) - 1))
        lines[at] = data.draw(st.one_of(
            st.binary(max_size=12), st.sampled_from([b"-1", b"0", b"1e99", b"nan", b"", b"99999"])
        ))  # fmt: skip
    try:
        found = luminaires.read_photometric(b"\n".join(lines))
    except WestlightError:
        return
    assert np.isfinite(found.table()).all()
    assert found.flux_lm >= 0


def _angles(text: str) -> tuple[list[float], list[float]]:
    """Vertical and horizontal angles of a file, read by its counts alone."""
    numbers = [float(w) for w in text.split("TILT=NONE")[1].split()]
    rows, columns = int(numbers[3]), int(numbers[4])
    return numbers[13 : 13 + rows], numbers[13 + rows : 13 + rows + columns]


@pytest.mark.parametrize(
    ("vertical", "planes"),
    [
        (np.linspace(0, 90, 2000), [0.0]),
        (np.array([0, 29.99999, 30.00001, 90]), [0.0]),
        (np.array([5, 60.0]), [0.0]),
        (np.array([95, 170.0]), [0.0]),
        (np.linspace(0, 180, 37), np.linspace(0, 360, 361)),
    ],
)
def test_a_written_file_keeps_the_rules(vertical: np.ndarray, planes: np.ndarray) -> None:
    """Angles rise, none stands there twice; they begin and end where the standard wants; it is the same light."""
    shape = 100 + 50 * np.cos(np.radians(np.asarray(planes)))[:, None] * np.sin(
        np.radians(vertical)
    )
    lamp = luminaires.IntensityDistribution(vertical, np.asarray(planes), shape, "Made here")
    text = luminaires.write_lm63(lamp)
    v, h = _angles(text)
    assert all(b > a for a, b in pairwise(v))
    assert all(b > a for a, b in pairwise(h))
    assert len(v) <= 181
    assert len(h) <= 73
    assert v[0] in (0, 90)
    assert v[-1] in (90, 180)
    assert text.startswith("IES:LM-63-2019\r\n")
    for needed in ("TEST", "TESTLAB", "ISSUEDATE", "MANUFAC"):
        assert f"[{needed}]" in text
    again = luminaires.read_photometric(text.encode())
    assert again.flux_lm == pytest.approx(lamp.flux_lm, rel=2e-3)


def test_a_file_that_was_read_keeps_its_angles_and_words() -> None:
    v, h = np.linspace(0, 90, 361), np.linspace(0, 360, 145)
    table = 100 + 50 * np.sin(np.radians(h))[:, None] * np.cos(np.radians(v))
    raw = lm63(v.tolist(), h.tolist(), table.tolist()).replace(
        b"TILT=NONE", b"[COLOUR] warm\r\n[LAMP] LED\r\nTILT=NONE"
    )
    text = luminaires.write_lm63(luminaires.read_photometric(raw))
    assert [len(a) for a in _angles(text)] == [361, 145]
    assert "[_COLOUR] warm" in text
    assert "[LAMP] LED" in text
