"""Proofs: kept pictures with their full recipe, to be compared and gone back to."""

from __future__ import annotations

import io
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from sqlalchemy import select
from sqlalchemy.orm import Session

from westlight.core.colour import AP1_LUMINANCE
from westlight.store import AssetStore, Look, Proof, Source, Store, View

from . import edits
from .errors import BadEdit, NotFound
from .rows import live_project
from .scenes import Scenes
from .settings import Mix
from .shelf import keep_asset

#: How the files of proofs are marked in the store.
MEDIA = {".jpg": "image/jpeg", ".npy": "application/x-npy"}
#: Stops of difference at which the comparing picture is fully coloured.
_FULL_STOPS = 3.0
#: Names of settings as the artist knows them, for what differs between two recipes.
_WORDS = {
    "minutes": "time", "day": "date", "f_number": "f-number", "shutter_s": "shutter", "iso": "ISO",
    "kelvin": "kelvin", "mix": "levels", "sun": "sun", "sky": "sky", "exposure": "exposure",
    "finish": "finish", "clay": "clay", "view": "view", "sources": "sources",
}  # fmt: skip


def recipe_of(look: Look, view: View, sources: list[Source]) -> dict[str, Any]:
    """Everything a picture was made from, by row id."""
    return {
        "look": {"id": look.id, "name": look.name, "settings": look.settings},
        "view": {"id": view.id, "name": view.name, "settings": view.settings},
        "sources": {s.id: {"name": s.name, "settings": s.settings} for s in sources},
    }


def keep(
    session: Session, assets: AssetStore, project_id: str, name: str, recipe: dict[str, Any],
    picture: dict[str, Any],
) -> str:  # fmt: skip
    """Keep a picture with its recipe; returns the proof's id."""
    if not picture:
        raise BadEdit("There is no picture yet to keep.")
    files = {}
    with tempfile.TemporaryDirectory() as folder:
        shown = Path(folder) / "proof.jpg"
        shown.write_bytes(picture["jpeg"])
        linear = Path(folder) / "proof.npy"
        np.save(linear, picture["linear"])
        for kind, file in (("shown", shown), ("linear", linear)):
            files[kind] = keep_asset(session, assets, file, file.name, MEDIA[file.suffix])
    proof = Proof(project_id=project_id, name=name,
                  settings={"recipe": recipe, "files": files, "note": "",
                            "described": picture.get("described", "")})  # fmt: skip
    session.add(proof)
    session.flush()
    return proof.id


def found(session: Session, project_id: str, proof_id: str) -> Proof:
    """A proof of a project; raises `NotFound`, too for one that was put aside."""
    proof = session.get(Proof, proof_id)
    if proof is None or proof.project_id != project_id or proof.settings.get("aside"):
        raise NotFound("This proof is no longer there.")
    return proof


def listed(session: Session, project_id: str) -> list[dict[str, Any]]:
    """Proofs of a project, newest first."""
    live_project(session, project_id)
    query = select(Proof).where(Proof.project_id == project_id).order_by(Proof.created_at.desc())
    return [
        {"id": p.id, "name": p.name, "note": p.settings["note"],
         "described": p.settings.get("described", ""), "shown": p.settings["files"]["shown"],
         "created_at": p.created_at.isoformat(),
         "look": p.settings["recipe"]["look"]["id"], "view": p.settings["recipe"]["view"]["id"]}
        for p in session.scalars(query) if not p.settings.get("aside")
    ]  # fmt: skip


def annotate(session: Session, project_id: str, proof_id: str, note: str) -> None:
    """Write a note on a proof."""
    proof = found(session, project_id, proof_id)
    proof.settings = {**proof.settings, "note": note[:2000]}


def remove(session: Session, project_id: str, proof_id: str) -> None:
    """Put a proof aside; `put_back` brings the last one back until they are forgotten."""
    proof = found(session, project_id, proof_id)
    proof.settings = {**proof.settings, "aside": time.time()}


def put_back(session: Session, project_id: str) -> None:
    """Bring back the proof that was put aside last; raises `NotFound` if there is none."""
    rows = session.scalars(select(Proof).where(Proof.project_id == project_id)).all()
    aside = [p for p in rows if p.settings.get("aside")]
    if not aside:
        raise NotFound("No proof was removed lately.")
    last = max(aside, key=lambda p: p.settings["aside"])
    last.settings = {k: v for k, v in last.settings.items() if k != "aside"}


def forget(session: Session) -> None:
    """Delete all proofs that were put aside."""
    for proof in session.scalars(select(Proof)).all():
        if proof.settings.get("aside"):
            session.delete(proof)


def restore(session: Session, project_id: str, proof_id: str) -> dict[str, str]:
    """Bring the project back to a proof's recipe, as one edit; returns its look and view.

    Rows that have been removed meanwhile come back; sources that are newer stay but are muted.
    """
    proof = found(session, project_id, proof_id)
    recipe = proof.settings["recipe"]
    look = dict(recipe["look"]["settings"])
    newer = [
        s.id for s in session.scalars(select(Source).where(Source.project_id == project_id))
        if s.id not in recipe["sources"]
    ]  # fmt: skip
    quiet = {i: {"level": 0.0, "muted": True, "solo": False} for i in newer}
    look["mix"] = {**look.get("mix", {}), **quiet}
    wanted = [
        ("look", recipe["look"]["id"], recipe["look"]["name"], look),
        ("view", recipe["view"]["id"], recipe["view"]["name"], recipe["view"]["settings"]),
        *(("source", i, s["name"], s["settings"]) for i, s in recipe["sources"].items()),
    ]
    steps = []
    for position, (kind, row_id, name, settings) in enumerate(wanted):
        row = session.get(edits.KINDS[kind], row_id)
        before = None if row is None else edits.state_of(kind, row)
        after = before or {"project_id": project_id, "position": position}
        after = {**after, "name": name, "settings": edits.validated(kind, settings)}
        if after != before:
            if before is not None:
                edits.unlocked(kind, before, {})
            steps.append({"kind": kind, "id": row_id, "before": before, "after": after})
    if steps:
        edits.record(session, project_id, f"Back to proof {proof.name}", steps)
    return {"look": recipe["look"]["id"], "view": recipe["view"]["id"]}


def differences(old: dict[str, Any], new: dict[str, Any]) -> list[str]:
    """What differs between two recipes, in the artist's words, most telling first."""
    out: list[str] = []
    if old["view"]["id"] != new["view"]["id"]:
        out.append(f"view: {old['view']['name']} → {new['view']['name']}")
    else:
        out += _settings("view", old["view"]["settings"], new["view"]["settings"])
    names = {i: s["name"] for r in (old, new) for i, s in r["sources"].items()}
    names |= {"sun": "Sun", "sky": "Sky"}
    before, after = (dict(r["look"]["settings"]) for r in (old, new))
    # A source without an entry in the mix is at level 0 and on.
    everyone = before["mix"].keys() | after["mix"].keys()
    for look in (before, after):
        look["mix"] = {i: look["mix"].get(i, Mix().model_dump()) for i in everyone}
    out += _settings("", before, after, names)
    for i in old["sources"].keys() | new["sources"].keys():
        was, now = old["sources"].get(i), new["sources"].get(i)
        if was is None or now is None:
            out.append(f"{names[i]}: {'added' if was is None else 'removed'}")
        else:
            out += _settings(names[i], was["settings"], now["settings"])
    return out


def _settings(where: str, old: Any, new: Any, names: dict[str, str] | None = None) -> list[str]:
    if isinstance(old, dict) and isinstance(new, dict):
        out = []
        for key in sorted(old.keys() | new.keys()):
            word = (names or {}).get(key) or _WORDS.get(key, key.replace("_", " "))
            below = f"{where}, {word}" if where else word
            out += _settings(below, old.get(key), new.get(key), names)
        return out
    if old == new:
        return []
    return [f"{where}: {_said(old)} → {_said(new)}"]


def _said(value: Any) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, float):
        return f"{value:.4g}"
    if value is None:
        return "none"
    return f"{len(value)} points" if isinstance(value, list) and len(value) > 3 else str(value)


def difference_picture(old: np.ndarray, new: np.ndarray) -> bytes:
    """PNG of the difference in stops: warm where the new is brighter, cold where darker.

    Neutral grey is no difference. Pictures (h, w, 3) in cd/m² of one size.
    """
    if old.shape != new.shape:
        raise BadEdit("The two pictures have different shapes; compare pictures of one view.")
    a, b = (np.maximum(p.astype(np.float32) @ AP1_LUMINANCE, 1e-4) for p in (old, new))
    stops = np.clip(np.log2(b / a) / _FULL_STOPS, -1, 1)[..., None]
    warm, cold, grey = np.array([226, 140, 40]), np.array([58, 98, 178]), np.array([128] * 3)
    shown = grey + np.where(stops > 0, (warm - grey) * stops, (grey - cold) * stops)
    out = io.BytesIO()
    Image.fromarray(np.round(shown).astype(np.uint8)).save(out, "PNG")
    return out.getvalue()


class Proofs:
    """The proofs of projects."""

    def __init__(self, store: Store, assets: AssetStore, scenes: Scenes) -> None:
        self.store, self.assets, self.scenes = store, assets, scenes

    def _recipe(self, project_id: str, look_id: str, view_id: str) -> dict[str, Any]:
        _, look, view, _, sources = self.scenes.shown(project_id, look_id, view_id)
        return recipe_of(look, view, sources)

    def keep(
        self, project_id: str, look_id: str, view_id: str, picture: dict[str, Any]
    ) -> list[dict[str, Any]]:
        """Keep the present picture (from the engine) as a proof; returns all proofs."""
        recipe = self._recipe(project_id, look_id, view_id)
        with self.store.editing(project_id) as session:
            count = len(listed(session, project_id))
            name = f"{count + 1}: {recipe['view']['name']}, {recipe['look']['name']}"
            keep(session, self.assets, project_id, name, recipe, picture)
            return listed(session, project_id)

    def all(self, project_id: str) -> list[dict[str, Any]]:
        """All proofs, newest first."""
        with self.store.session() as session:
            return listed(session, project_id)

    def note(self, project_id: str, proof_id: str, note: str) -> None:
        """Write a note on a proof."""
        with self.store.editing(project_id) as session:
            annotate(session, project_id, proof_id, note)

    def remove(self, project_id: str, proof_id: str) -> None:
        """Put a proof aside."""
        with self.store.editing(project_id) as session:
            remove(session, project_id, proof_id)

    def put_back(self, project_id: str) -> list[dict[str, Any]]:
        """Bring back the proof that was removed last; returns all proofs."""
        with self.store.editing(project_id) as session:
            put_back(session, project_id)
            return listed(session, project_id)

    def restore(self, project_id: str, proof_id: str) -> dict[str, str]:
        """Bring the project back to a proof's recipe, as one edit."""
        with self.store.editing(project_id) as session:
            return restore(session, project_id, proof_id)

    def differences(self, project_id: str, proof_id: str, look_id: str, view_id: str) -> list[str]:
        """What has changed from a proof to the present state."""
        now = self._recipe(project_id, look_id, view_id)
        with self.store.session() as session:
            proof = found(session, project_id, proof_id)
            return differences(proof.settings["recipe"], now)

    def difference(self, project_id: str, proof_id: str, picture: dict[str, Any]) -> bytes:
        """PNG of the difference in stops from a proof to a present picture of the engine."""
        if not picture:
            raise BadEdit("There is no picture yet to compare.")
        with self.store.session() as session:
            files = found(session, project_id, proof_id).settings["files"]
        kept = np.load(self.assets.path(files["linear"], ".npy"))
        return difference_picture(kept, picture["linear"])
