"""The studio: what can be asked and done with projects, as peers over one store. The web door only forwards to it."""

from __future__ import annotations

from pathlib import Path

from westlight.store import Store

from . import demo, examples
from .buildings import Buildings
from .handover import Handover
from .history import History
from .last_pictures import LastPictures
from .looks import Looks
from .placing import Fixtures
from .projects import Projects
from .proofs import Proofs
from .scenes import Scenes
from .shelves import Shelves


class Studio:
    """Each service by name; what one needs of another is given to it here and nowhere else.

    ``history`` makes every edit and takes it back; ``looks``, ``fixtures``, ``buildings`` and ``proofs`` make edits that take
    more than a patch; ``scenes`` tells the engine what to draw; ``shelves`` are shared by all ``projects``; ``handover`` is
    what leaves the house.
    """

    def __init__(self, store: Store, folder: Path) -> None:
        self.store, self.folder = store, folder
        self.last_pictures = LastPictures(folder / "pictures")
        self.shelves = Shelves(store, folder)
        self.scenes = Scenes(store, self.shelves)
        self.buildings = Buildings(store, self.shelves)
        self.history = History(store, {"model": self.buildings.glows})
        self.looks = Looks(store, self.history, self.scenes, self.shelves)
        self.fixtures = Fixtures(store, self.history, self.buildings, self.shelves)
        self.proofs = Proofs(store, self.shelves.assets, self.scenes)
        self.handover = Handover(store, self.shelves, self.scenes, self.buildings, folder)
        self.projects = Projects(store, self.shelves, self.last_pictures, self.handover.queue)

    def create_demo(self, folder: Path) -> str:
        """The demo project from the generator's files, unless it is there already; returns its id."""
        return demo.create(self, folder)

    def add_example(self) -> str:
        """The second building as a new project, built by its script now; returns its id.

        Raises `BadEdit` where its scripts are not there.
        """
        return demo.create_lantern_row(self, examples.built(self.folder))
