"""Contact pictures: many small pictures of one building, made together, in a process of its own.

They are pictures of one live session that is shown one spec after another: what is alike of them (lamps under another sun,
light that was gathered) is traced once. All are there soon, in some grain, and refined in further rounds.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
from collections.abc import Callable, Mapping
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import Annotated, Any

import structlog
from pydantic import Field

from westlight.core.errors import WestlightError

from .live import Session, Shared
from .orphans import die_with_parent
from .spec import PictureSpec, Settings

log = structlog.get_logger()
#: Bounces of a small picture: enough to judge light by.
BOUNCES = 4
#: Passes of the full size that a picture has after each round; after the first what there was soonest, at half the size.
ROUNDS = (0, 1, 3)
DRAFT = 2


class ContactOrder(Settings):
    """Small pictures to make: specs of one building, and where their files go.

    With ``metered`` each is exposed by itself, so that dawn and noon can both be judged.
    """

    specs: Annotated[list[PictureSpec], Field(min_length=1, max_length=200)]
    folder: str
    metered: bool = False


def render_contacts(order: ContactOrder, done: Callable[[int, int], None]) -> None:
    """Render all pictures of an order, round by round; ``done`` is told of each file and its round (1 …) as it is there."""
    frames: list[tuple[dict[str, Any], bytes]] = []

    def take(head: dict[str, Any], body: bytes) -> None:
        if head["kind"] == "frame":
            frames.append((head, body))

    session = Session("contact", Shared(), take, alone=True)
    specs = [_small(spec, order.metered) for spec in order.specs]
    for number, passes in enumerate(ROUNDS, 1):
        for n, spec in enumerate(specs):
            frames.clear()
            session.apply(spec.model_copy(update={"max_samples": max(passes, 1)}))
            while session.work():
                if not passes and frames and _begun(frames[-1][0]):
                    break
            if frames:
                # No frame: a single picture had all of this round already.
                file = Path(order.folder) / f"{n:03d}.jpg"
                part = file.with_suffix(".part.jpg")
                part.write_bytes(frames[-1][1])
                part.replace(file)
            done(n, number)


def _begun(head: dict[str, Any]) -> bool:
    """Whether a frame can be judged: it has light of every source, at half the size or more."""
    return bool(head["waiting"] == 0 and head["scale"] <= DRAFT)


def _small(spec: PictureSpec, metered: bool) -> PictureSpec:
    """The spec of a small picture: nothing that does not count is traced for it."""
    changes: dict[str, Any] = {
        "sources": [s for s in spec.sources if s.counts], "bounces": min(spec.bounces, BOUNCES),
    }  # fmt: skip
    if metered:
        alone = {"automatic": "whole", "compensation": 0.0}
        changes["exposure"] = spec.exposure.model_copy(update=alone)
    return spec.model_copy(update=changes)


def begun(order: ContactOrder) -> tuple[BaseProcess, Connection]:
    """A process that makes the pictures of an order, and the pipe on which it tells of each (a dict with a ``kind``).

    It is forked from the process that engines come from, which has everything loaded, and can simply be killed.
    """
    context = multiprocessing.get_context("forkserver")
    ours, theirs = context.Pipe(duplex=False)
    process = context.Process(target=_run, args=(theirs, order, dict(os.environ)), daemon=True)
    process.start()
    theirs.close()
    return process, ours


def _run(told: Connection, order: ContactOrder, environment: Mapping[str, str]) -> None:
    os.environ.clear()
    os.environ.update(environment)
    os.nice(5)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    die_with_parent()
    try:
        render_contacts(order, lambda n, r: told.send({"kind": "picture", "n": n, "round": r}))
    except WestlightError as error:
        told.send({"kind": "failed", "text": str(error)})
    except Exception:
        log.exception("fault in a contact sheet")
        told.send({"kind": "failed", "text": "These pictures could not be made. Try again."})
