"""When the built front end is out of date."""

from __future__ import annotations

import re

from westlight.cli.main import ROOT, front_end_sources


def test_all_that_the_page_takes_in_counts() -> None:
    """Files of other folders that the page's sources take in, as the guide, are among what it is built of."""
    taken = {
        (file.parent / name).resolve()
        for file in ROOT.glob("web/src/**/*.ts*")
        for name in re.findall(r'from "(\.[^"]+)\?raw"', file.read_text())
    }
    assert ROOT / "docs/guide.md" in taken
    assert taken <= {p.resolve() for p in front_end_sources()}
