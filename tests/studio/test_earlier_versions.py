"""Projects of earlier versions open: rows as those versions wrote them, in tables as they made them.

`earlier/` holds settings by the revision of the tables they were written in: the looks and views of the demo of that day, a
lamp of each shape, a building. Where a revision had settings of two kinds, both are there.
"""

from __future__ import annotations

import json
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import create_engine, text

from westlight.api.answers import Project as Told
from westlight.cli.postgres import Cluster
from westlight.engine.spec import FixtureSettings, GlowSettings, Settings, ViewSettings
from westlight.store import Store
from westlight.studio.settings import LookState, ModelState
from westlight.studio.studio import Studio

KEPT = sorted((Path(__file__).parent / "earlier").glob("*.json"))
AT = datetime(2026, 11, 24, tzinfo=UTC)
#: What earlier versions wrote and later ones have no use for: paths of the server's disk, and a limit in per cent.
GONE = {"path", "other_path", "photometry_path", "table_path", "picture_path", "target_noise"}


def leaves(value: Any, at: str = "") -> dict[str, Any]:
    """Every number and word of nested settings, by its place."""
    if isinstance(value, dict):
        inner = [leaves(v, f"{at}.{k}") for k, v in value.items() if k not in GONE]
    elif isinstance(value, list):
        inner = [leaves(v, f"{at}[{n}]") for n, v in enumerate(value)]
    else:
        return {at: value}
    return {k: v for part in inner for k, v in part.items()}


def model_of(kind: str, settings: dict[str, Any]) -> Settings:
    """Settings as they are read today."""
    if kind == "source":
        lamp = settings["kind"] == "fixture"
        return (FixtureSettings if lamp else GlowSettings).model_validate(settings)
    read: dict[str, type[Settings]] = {"look": LookState, "view": ViewSettings, "model": ModelState}
    return read[kind].model_validate(settings)


def rows_of(told: dict[str, Any]) -> list[tuple[str, str, dict[str, Any]]]:
    """Kind, name and settings of the rows of a project."""
    return [
        *(("view", name, s) for name, s in told["views"]),
        *(("look", name, s) for name, s in told["looks"]),
        *(("source", name, s) for name, s in told["sources"]),
        ("model", "Pottery", told["model"]),
    ]


@pytest.mark.parametrize("file", KEPT, ids=lambda f: f.stem)
def test_settings_keep_every_value(file: Path) -> None:
    for kind, name, settings in rows_of(json.loads(file.read_text())):
        before = leaves(settings)
        after = leaves(model_of(kind, settings).model_dump(mode="json"))
        assert {k: after.get(k, "lost") for k in before} == before, (kind, name)


@pytest.mark.parametrize("file", KEPT, ids=lambda f: f.stem)
def test_a_project_in_earlier_tables_opens(file: Path, cluster: Cluster, tmp_path: Path) -> None:
    """Migrated, it is told to the page, is edited, and steps taken back that an earlier version wrote."""
    told = json.loads(file.read_text())
    revision, name = told["revision"], f"earlier_{file.stem.replace('-', '_')}"
    engine = create_engine(cluster.url, isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    engine.dispose()
    store = Store(engine.url.set(database=name).render_as_string(hide_password=False))
    store.migrate(revision)
    rows = [(f"{n:032x}", *row) for n, row in enumerate(rows_of(told))]
    look = next(r for r in rows if r[1] == "look")
    step = {"kind": "look", "id": look[0],
            "before": {"project_id": "p", "name": "Morning", "position": 0, "settings": look[3]},
            "after": {"project_id": "p", "name": look[2], "position": 0, "settings": look[3]}}  # fmt: skip
    with store.engine.begin() as connection:
        connection.execute(
            text("INSERT INTO project VALUES ('p', 'Old', 43.6, -9.1, 'Etc/GMT-1', 12, :at)"),
            {"at": AT},
        )
        for n, (row_id, kind, title, settings) in enumerate(rows):
            connection.execute(
                text(f"INSERT INTO {kind} VALUES (:id, 'p', :name, :n, :settings, 1)"),
                {"id": row_id, "name": title, "n": n, "settings": json.dumps(settings)},
            )
        connection.execute(
            text("INSERT INTO history (project_id, label, changes, undone, created_at)"
                 " VALUES ('p', 'Rename', :changes, false, :at)"),
            {"changes": json.dumps([step]), "at": AT},
        )  # fmt: skip
    store.migrate()
    studio = Studio(store, tmp_path)
    seen = studio.projects.overview("p")
    Told.model_validate(seen)
    assert [r["name"] for r in seen["looks"]] == [n for n, _ in told["looks"]]
    assert seen["undo"] == "Rename"
    studio.history.undo("p")
    assert studio.projects.overview("p")["looks"][0]["name"] == "Morning"
    studio.history.redo("p")
    studio.history.change("p", "look", look[0], {"settings": {"minutes": 600.0}})
    view = next(r for r in rows if r[1] == "view")
    after = studio.projects.overview("p")["looks"][0]["settings"]
    assert after["minutes"] == 600.0
    assert leaves(after)[".exposure.iso"] == leaves(look[3])[".exposure.iso"]
    assert view[2] in [v["name"] for v in seen["views"]]
    store.close()
