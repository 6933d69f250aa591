"""Luminaires as XML (TM-33), written by hand: the same lamp as in other formats gives the same light."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.errors import PhotometricError
from westlight.core.luminaires import read_photometric

from .test_luminaires import lm63

V = [0.0, 30.0, 60.0, 90.0]
H = [0.0, 45.0, 90.0]
TABLE = [[1000.0, 800, 300, 0], [1000, 700, 250, 0], [1000, 600, 200, 0]]


def tm33(
    kind: str = "CIE-C", values: str | None = None, more: str = "", root: str = "IESTM33-22"
) -> bytes:
    rows = values or "\n".join(
        f'<IntData horz="{h:g}" vert="{v:g}">{TABLE[i][j]:g}</IntData>'
        for i, h in enumerate(H) for j, v in enumerate(V)
    )  # fmt: skip
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<{root} xmlns="http://www.ies.org/{root}"><Version>1.0</Version>
<Header><Manufacturer>Hollow Lamp Works</Manufacturer><CatalogNumber>HL-7</CatalogNumber><Description>Wall washer</Description></Header>
<Luminaire><Dimensions><Length>1200</Length><Width>150</Width><Height>80</Height></Dimensions></Luminaire>
<Emitter><Quantity>1</Quantity><RatedLumens>2000</RatedLumens><InputWattage>18.5</InputWattage>
<LuminousData><PhotometryType>{kind}</PhotometryType><Multiplier>1</Multiplier>
<LuminousIntensity><NumberHorz>{len(H)}</NumberHorz><NumberVert>{len(V)}</NumberVert>{rows}</LuminousIntensity></LuminousData></Emitter>{more}
</{root}>""".encode()


@pytest.mark.parametrize("root", ["IESTM33-18", "IESTM33-22"])
def test_it_is_the_lamp_of_an_ies_file(root: str) -> None:
    lamp, same = read_photometric(tm33(root=root)), read_photometric(lm63(V, H, TABLE))
    g, c = np.meshgrid(np.arange(0, 91, 7.5), np.arange(0, 360, 15.0))
    assert lamp.candela(g, c) == pytest.approx(same.candela(g, c), rel=1e-9)
    assert lamp.flux_lm == pytest.approx(same.flux_lm)
    assert lamp.name == "Wall washer"
    assert lamp.watts == 18.5
    assert (lamp.width_m, lamp.length_m, lamp.height_m) == (0.15, 1.2, 0.08)


def test_another_emitter_is_told() -> None:
    more = ('<Emitter><Description>Uplight</Description><LuminousData><LuminousIntensity><IntData horz="0" vert="0">5</IntData>'
            "</LuminousIntensity></LuminousData></Emitter>")  # fmt: skip
    lamp = read_photometric(tm33(more=more))
    assert any("Uplight" in r for r in lamp.remarks)
    assert lamp.flux_lm == pytest.approx(read_photometric(tm33()).flux_lm)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (tm33()[:-40], "no whole XML"),
        (b'<?xml version="1.0" encoding="UTF-Q"?><IESTM33-22/>', "no luminous intensities"),
        (b'<?xml version="1.0" encoding="UTF-16"?>' + tm33(values="<Nothing/>"), "."),
        (tm33(values="<Nothing/>"), "no luminous intensities"),
        (tm33(kind="CIE-B"), "type C"),
        (
            tm33(
                values='<IntData horz="0" vert="0">5</IntData><IntData horz="5" vert="9">5</IntData>'
            ),
            "leaves some",
        ),
        (tm33(values='<IntData horz="0">5</IntData>'), "without its angles"),
        (
            tm33(
                values='<IntData horz="0" vert="0">0</IntData><IntData horz="0" vert="9">0</IntData>'
            ),
            "without light",
        ),
        (
            tm33(
                values='<IntData horz="0" vert="0">1e999</IntData><IntData horz="0" vert="9">2</IntData>'
            ),
            "impossible",
        ),
        (
            tm33(
                values='<IntData horz="0" vert="0">1</IntData><IntData horz="0" vert="270">2</IntData>'
            ),
            "outside",
        ),
    ],
)
def test_what_cannot_be_used_says_why(content: bytes, words: str) -> None:
    with pytest.raises(PhotometricError, match=words):
        read_photometric(content)
