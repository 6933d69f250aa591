"""A whole project at once: copied, as one file for another machine, and back from such a file."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path
from typing import Annotated, Any

from pydantic import BaseModel, Field, TypeAdapter, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from westlight.engine import project_file
from westlight.engine.project_file import ProjectFileError
from westlight.engine.reading import read_in_child
from westlight.engine.spec import FileId, Settings
from westlight.store import (
    Asset,
    LightScene,
    Look,
    LookVersion,
    Model,
    Project,
    Proof,
    Source,
    Store,
    View,
)
from westlight.store.rows import new_id

from . import daylight, edits, proofs
from .errors import NotFound
from .last_pictures import LastPictures
from .rows import TABLES, live_project
from .settings import ProjectState
from .shelf import ReadShelf, keep_asset
from .shelves import BUILDING, KINDS, Shelves

_ROW_ID = re.compile(r"(?<![0-9a-f])[0-9a-f]{32}(?![0-9a-f])")
_FILE_ID = re.compile(r"(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])")
#: How each kind of file is read again when it comes in with a project, by its media type; those of proofs are
#: looked at where they are unpacked.
_READERS = {
    BUILDING: "model", **{k.media_type: k.readers[-1] for k in KINDS if issubclass(k, ReadShelf)},
}  # fmt: skip
_OF_PROOFS = {media: suffix for suffix, media in proofs.MEDIA.items()}
Hex32 = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]


class _Row(Settings):
    id: Hex32
    name: Annotated[str, Field(max_length=edits.MOST_LETTERS)]
    position: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0
    settings: dict[str, Any]


class _ProofFiles(Settings):
    shown: FileId
    linear: FileId


class _Named(BaseModel):
    """A row of a recipe; its settings are checked when it is gone back to."""

    name: str
    settings: dict[str, Any]


class _NamedRow(_Named):
    id: Hex32


class _Recipe(BaseModel):
    look: _NamedRow
    view: _NamedRow
    sources: dict[str, _Named]


class _ProofState(Settings):
    recipe: _Recipe
    files: _ProofFiles
    note: Annotated[str, Field(max_length=2000)] = ""
    described: Annotated[str, Field(max_length=2000)] = ""


class _Version(Settings):
    look_id: Hex32
    name: Annotated[str, Field(max_length=edits.MOST_LETTERS)]
    settings: dict[str, Any]


class _File(Settings):
    id: FileId
    name: Annotated[str, Field(max_length=300)]
    media_type: Annotated[str, Field(max_length=80)]
    suffix: Annotated[str, Field(pattern=r"^\.[a-z0-9]{2,5}$")]


class WholeProject(Settings):
    """Everything of a project but its history and stills, as it stands in a file."""

    westlight_project: int = project_file.FORMAT
    project: ProjectState
    models: Annotated[list[_Row], Field(max_length=8)]
    views: Annotated[list[_Row], Field(max_length=500)]
    looks: Annotated[list[_Row], Field(max_length=500)]
    sources: Annotated[list[_Row], Field(max_length=5000)]
    scenes: Annotated[list[_Row], Field(max_length=500)] = Field(default_factory=list)
    proofs: Annotated[list[_Row], Field(max_length=2000)] = Field(default_factory=list)
    versions: Annotated[list[_Version], Field(max_length=5000)] = Field(default_factory=list)
    files: Annotated[list[_File], Field(max_length=5000)] = Field(default_factory=list)


def export(shelves: Shelves, last_pictures: LastPictures, project_id: str, target: Path) -> str:
    """Write a project as one file; returns its name."""
    with shelves.store.session() as session:
        whole = _dumped(session, live_project(session, project_id))
        named = set(_FILE_ID.findall(whole.model_dump_json()))
        rows = [a for a in (session.get(Asset, i) for i in sorted(named)) if a is not None]
        files = {}
        for row in rows:
            suffix = Path(row.name).suffix or _OF_PROOFS.get(row.media_type, "")
            path = shelves.assets.path(row.id, suffix)
            if not path.is_file():
                raise NotFound(f"A file of this project, {row.name}, is no longer on the disk.")
            files[f"assets/{row.id}{suffix}"] = path
            whole.files.append(_File(id=row.id, name=row.name, media_type=row.media_type,
                                     suffix=suffix))  # fmt: skip
    for look in whole.looks:
        for view in whole.views:
            picture = last_pictures.there(project_id, look.id, view.id)
            if picture is not None:
                files[f"pictures/{look.id}_{view.id}.jpg"] = picture
    project_file.pack(whole.model_dump(mode="json"), files, target)
    return whole.project.name


def duplicate(store: Store, last_pictures: LastPictures, project_id: str) -> str:
    """A copy of a project with rows of its own, the files being the same; returns its id."""
    with store.session() as session:
        whole = _dumped(session, live_project(session, project_id))
        whole.project.name = edits.named(f"{whole.project.name[: edits.MOST_LETTERS - 5]} copy")
        made, renamed = _loaded(session, whole, {})
    for look in whole.looks:
        for view in whole.views:
            picture = last_pictures.there(project_id, look.id, view.id)
            if picture is not None:
                ids = made, renamed[look.id], renamed[view.id]
                last_pictures.keep(*ids, picture.read_bytes())
    return made


def bring(shelves: Shelves, last_pictures: LastPictures, file: Path, name: str) -> str:
    """Open a project file as a new project; returns its id. Raises `ProjectFileError` and what readers raise."""
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        report = read_in_child("project", file, name, folder)
        text = (folder / report["file"]).read_text()
        try:
            whole = WholeProject.model_validate_json(text)
        except ValidationError as error:
            first = ".".join(str(p) for p in error.errors()[0]["loc"])
            raise ProjectFileError(
                f"“{name}” holds something that is not understood ({first}); export it again."
            ) from error
        # What cannot be is refused before any of its files is read.
        daylight.zone(whole.project.time_zone)
        edits.named(whole.project.name)
        for kind in TABLES:
            for row in getattr(whole, f"{kind}s"):
                edits.validated(kind, row.settings)
        files = {f.id: _kept(shelves, f, folder) for f in whole.files}
        with shelves.store.session() as session:
            missing = set(_FILE_ID.findall(text)) - files.keys()
            for asset in missing & _needed(whole):
                if session.get(Asset, asset) is None:
                    raise ProjectFileError(f"“{name}” lacks a file it needs; export it again.")
            made, renamed = _loaded(session, whole, files)
        for picture in (folder / "pictures").glob("*.jpg"):
            look, view = picture.stem.split("_")
            if look in renamed and view in renamed:
                last_pictures.keep(made, renamed[look], renamed[view], picture.read_bytes())
    return made


def _needed(whole: WholeProject) -> set[str]:
    """Files without which the building cannot be shown."""
    return {str(m.settings.get("asset")) for m in whole.models}


def _dumped(session: Session, project: Project) -> WholeProject:
    def rows(table: Any) -> list[_Row]:
        found = session.scalars(select(table).where(table.project_id == project.id))
        return [_Row(id=r.id, name=r.name, position=r.position, settings=r.settings)
                for r in found if not r.settings.get("aside")]  # fmt: skip

    kept = session.scalars(select(LookVersion).where(LookVersion.project_id == project.id))
    return WholeProject(
        project=ProjectState.model_validate(edits.state_of("project", project)),
        models=rows(Model), views=rows(View), looks=rows(Look), sources=rows(Source),
        scenes=rows(LightScene),
        proofs=rows(Proof),
        versions=[_Version(look_id=v.look_id, name=v.name, settings=v.settings) for v in kept],
    )  # fmt: skip


def _loaded(
    session: Session, whole: WholeProject, files: dict[str, tuple[str, dict[str, Any]]]
) -> tuple[str, dict[str, str]]:
    """Rows of a new project under ids of their own; returns its id, and the new id of each old one.

    ``files`` tells for each file under which id it is kept here, and what of a building changed with it.
    """
    known = {r.id for rows in (whole.models, whole.views, whole.looks, whole.sources, whole.scenes, whole.proofs)
             for r in rows}  # fmt: skip
    renamed = {old: new_id() for old in known}
    text = _ROW_ID.sub(lambda m: renamed.get(m[0], m[0]), whole.model_dump_json())
    text = _FILE_ID.sub(lambda m: files[m[0]][0] if m[0] in files else m[0], text)
    new = WholeProject.model_validate_json(text)
    project = Project(**(new.project.model_dump() | {"name": edits.named(new.project.name)}))
    session.add(project)
    session.flush()
    changed = dict(files.values())
    for kind, table in TABLES.items():
        for row in getattr(new, f"{kind}s"):
            settings = row.settings
            if kind == "model":
                settings = {**settings, **changed.get(settings.get("asset"), {})}
            session.add(table(id=row.id, project_id=project.id, name=edits.named(row.name),
                              position=row.position, settings=edits.validated(kind, settings)))  # fmt: skip
    proof = TypeAdapter(_ProofState)
    for row in new.proofs:
        state = proof.validate_python(row.settings).model_dump(mode="json")
        session.add(
            Proof(id=row.id, project_id=project.id, name=edits.named(row.name), settings=state)
        )
    for v in new.versions:
        session.add(LookVersion(look_id=v.look_id, project_id=project.id, name=edits.named(v.name),
                                settings=edits.validated("look", v.settings)))  # fmt: skip
    session.flush()
    return project.id, renamed


def _kept(shelves: Shelves, file: _File, folder: Path) -> tuple[str, dict[str, Any]]:
    """Keep a file that came with a project; returns its id here, and what of a building's settings goes with it."""
    with shelves.store.session() as session:
        row = session.get(Asset, file.id)
        if row is not None and shelves.assets.path(file.id, Path(row.name).suffix).is_file():
            return file.id, {}
    given = folder / "assets" / f"{file.id}{file.suffix}"
    if not given.is_file():
        raise ProjectFileError(f"The project file lacks “{file.name}”; export it again.")
    title = Path(file.name).stem or "file"
    if _OF_PROOFS.get(file.media_type) == file.suffix:
        with shelves.store.session() as session:
            name = f"{title}{given.suffix}"
            return keep_asset(session, shelves.assets, given, name, file.media_type), {}
    kind = _READERS.get(file.media_type)
    if kind is None:
        raise ProjectFileError(
            f"“{file.name}” is of a kind that no project holds; export it again."
        )
    made = folder / file.id
    made.mkdir()
    report = read_in_child(kind, given, f"{title}{file.suffix}", made)
    report["title"] = title
    if kind == "model":
        return shelves.keep_building(made, report, file.suffix)
    card = shelves.keep_read(kind, report, made)
    return str(card.get("asset") or card["id"]), {}
