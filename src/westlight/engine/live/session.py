"""One live picture, as one open tab has it: takes specs, spends time on them, sends frames.

Three scales of the picture exist: 4 (a quarter of the size, direct light, while a hand moves), 2 and 1. Each source is
denoised by itself whenever its samples have multiplied, and the picture is the weighted sum of these: so levels,
colours and exposure never wait for light to be traced, nor for the denoiser, which works on a thread of its own.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Future, wait
from dataclasses import dataclass, field, replace
from typing import Any

from ..grain import Show, shower
from ..spec import PictureSpec
from .denoising import CLEAN_AGAIN, Cleaning, Workshop, smoothed
from .draft import Hand
from .films import FilmStore
from .frames import Drawing, Mixed, Mixer, read
from .memory import give_back
from .pictures import Pictures
from .prepared import Buildings, Prepared, Preparer, Skies
from .schedule import Policy, next_job
from .seen_noise import SeenNoise
from .surveyed import Surveyed
from .telling import Clock, calm_enough, doubt_of_view, encoded, head_of, prints
from .trace import Trace
from .tracing import GUIDE_PASSES, LightCaches, Run, Tracer

Send = Callable[[dict[str, Any], bytes], None]
#: Seconds between two rounds of all little pictures while levels or exposure are dragged.
PRINTS_EVERY_S = 0.3
#: Seconds that are waited for work beside the tracing before looking round again.
_PATIENCE_S = 0.02
#: For how long after its last word was shown a hand is expected to go on that only mixes what there is, as long as it
#: is known to hold on, and how long to look away meanwhile.
HAND_RESTS_S, HELD_RESTS_S, _BLINK_S = 0.12, 0.4, 0.004
#: Longest time between two words of one drag beyond that, and the time of a picture from which on a drag is shown at half the size.
GOES_ON_S, TOO_SLOW_S = 0.2, 0.03
#: Pixels from which on the denoiser's memory, 0.3 GB at 1280×720, is not kept between two rounds: more than a page of 1280 shows.
LARGE_PX = 800_000


@dataclass
class Shared:
    """What all sessions of an engine have in common."""

    store: FilmStore = field(default_factory=FilmStore)
    buildings: Buildings = field(default_factory=Buildings)
    skies: Skies = field(default_factory=Skies)
    caches: LightCaches = field(default_factory=LightCaches)
    workshop: Workshop = field(default_factory=Workshop)


class Session:
    """`apply` takes a new spec, `work` spends a little time on it.

    ``called`` tells whether somebody waits for an answer: work then ends soon.
    """

    def __init__(
        self, name: str, shared: Shared, send: Send, called: Callable[[], bool] | None = None,
        alone: bool = False,
    ) -> None:  # fmt: skip
        self.name, self.shared = name, shared
        #: Only the picture itself is looked at: no little pictures, no measured noise.
        self._alone = alone
        self.prepared = Prepared()
        self.pictures = Pictures(shared.store)
        self.hand = Hand()
        self.mixer = Mixer()
        self.noise = SeenNoise(shared.workshop)
        self.surveyed = Surveyed(shared.workshop)
        self.cleaning = Cleaning(shared.workshop)
        self._deliver, self._called = send, called
        self._trace = Trace(name)
        self._preparer = Preparer(shared.buildings, shared.skies, self._say)
        self._tracer = Tracer(shared.store, shared.caches)
        self._run: Run | None = None
        self._lends = True
        self._dirty, self._prints_dirty = True, not alone
        #: A moving hand has changed something since a picture was sent.
        self._unseen = False
        self._settled = False
        self._prints_at = self._told_at = 0.0
        #: Until when a hand is expected to go on that only mixes: levels, exposure, finish; 0 where none is at it.
        self._mixed_until = 0.0
        #: Such a hand is on the move, faster than pictures of full size can be made.
        self._quick = self._slow = False
        #: Sources whose levels were moved since all little pictures were sent; none where more than that has changed.
        self._touched: set[str] = set()
        self._started = time.monotonic()
        #: First surfaces for which a picture with light of every source was shown.
        self._complete_of = ""
        self._doubt: tuple[object, str | None] = (None, None)

    def apply(self, spec: PictureSpec) -> None:
        """Take a new state; only what its keys say has changed is traced again.

        Raises `WestlightError` for a state that cannot be; the one before then stays.
        """
        before = self.prepared
        if before.assembled is not None and spec == before.spec:
            # Told again what is shown: a picture and its prints cost as much as a pass of light.
            return
        lent = before if self._lends else replace(before, assembled=None, assembled_key="")
        self._lends = False
        now = self._preparer.prepare(spec, lent)
        self._lends = True
        if before.scene is not None and (spec.model is None or not before.scene.is_of(spec.model)):
            self.pictures.forget_last()
        self.hand.note(before, now, self.pictures)
        self.prepared = now
        if now.shown_as != before.shown_as:
            self.noise.leave()
        self.shared.store.show(self.name, now.shown_keys)
        changed = now.shown_keys != before.shown_keys
        if changed:
            self._started = time.monotonic()
        if self._run is not None and not self._run.still_wanted(now):
            self._run = None
        if spec.moving:
            self.cleaning.drop_waiting()
        self._settled = False
        # Under a moving hand the next direct picture is what to show, and bounced light when it lets go: not the last one again.
        lights = spec.moving or (before.spec.moving and self.dark)
        self._dirty = self._dirty or not (lights and changed)
        self._unseen = spec.moving and (changed or self._unseen)
        self._note_touched(before, now)
        self._prints_dirty, self._told_at = not self._alone, time.monotonic()
        mixed = not changed and before.assembled is not None and not spec.moving
        let_go = before.spec.held and not spec.held
        # A second word so soon after the first is a drag: pictures that are too slow for it are made at half the size.
        goes_on = before.spec.held or self._told_at < self._mixed_until + GOES_ON_S
        self._quick = mixed and not let_go and goes_on and self._slow
        self._mixed_until = self._told_at + self._rests_s if mixed and not let_go else 0.0
        self._trace.told(spec.moving, changed)

    def _note_touched(self, before: Prepared, now: Prepared) -> None:
        """Remember whose levels were moved, if that is all that has changed."""
        levels = [{s.id: (s.level, s.counts) for s in p.spec.sources} for p in (before, now)]
        same = {"sources": now.spec.sources, "held": now.spec.held}
        alone = before.spec.model_copy(update=same) == now.spec
        if alone and before.keys == now.keys and levels[0].keys() == levels[1].keys():
            if not self._prints_dirty:
                self._touched.clear()
            self._touched |= {i for i, level in levels[1].items() if levels[0][i] != level}
        else:
            self._touched.clear()

    def show_again(self) -> None:
        """Send the picture and its prints though nothing of them has changed: they were lost on the way."""
        self._dirty = self._prints_dirty = True
        self._settled = False

    def close(self) -> None:
        """Nobody looks any more: what only this session showed may go."""
        self.shared.store.close(self.name)
        self.cleaning.drop_waiting()
        self._run = None

    def work(self) -> bool:
        """Do the most useful next thing; returns False when there is nothing left to do."""
        p = self.prepared
        moving = p.spec.moving
        if p.assembled is not None:
            # Paused or not: what is done on the other thread is taken in, and then shown.
            self._dirty |= self.surveyed.take()
            self._dirty |= self.noise.take()
            if self._quick and time.monotonic() >= self._mixed_until:
                # The hand rests: now sharp.
                self._quick, self._dirty = False, True
        if self._dirty and not (moving and self.hand.waits(p, self.pictures)):
            self._dirty = False
            self._show()
            # Whatever the hand does meanwhile comes before light and little pictures.
            return True
        if p.assembled is None:
            return False
        self.surveyed.begin(p)
        now = time.monotonic()
        # What is shown before denoising is no measure of what is seen after it. A hand that mixes has both processors.
        if not self._alone and not p.spec.raw_share and now >= self._mixed_until:
            self.noise.begin(p, self.pictures, lambda: self._mixed().picture, self._shower)
        if p.spec.paused:
            if not self._quick:
                return self._finish_quietly()
            # Not before the hand rests: the last picture is a sharp one.
            time.sleep(_BLINK_S)
            return True
        due = self._prints_dirty and not moving and now - self._prints_at > PRINTS_EVERY_S
        # After the first light of what was moved: two dozen take as long as that. Those of a level on the move do not wait.
        if due and (self._touched or not self.dark):
            # Of sources whose levels are on the move only theirs; the rest when the hand rests.
            resting = now - self._told_at > PRINTS_EVERY_S
            self._prints_at = now
            self._show_prints(None if resting or not self._touched else frozenset(self._touched))
        if now < self._mixed_until:
            # The next word of the hand is on its way, and whoever draws the picture needs the processor.
            time.sleep(min(self._mixed_until - now, _BLINK_S))
            return True
        # Under the hand the next picture does not wait for what was being denoised before.
        begins = moving and self._begins()
        if self._unseen and not begins and not self.hand.waits(p, self.pictures):
            # The hand went back to where it has been: that light is there already.
            self._show()
            return True
        if self.cleaning.busy and not begins:
            done = self.cleaning.take(self.pictures)
            if done is not None:
                self._after_cleaning(done)
            return True
        if not self._begins():
            if not moving:
                self.cleaning.add_rest(p, self.pictures)
            return self.cleaning.busy or self._finish_quietly()
        assert self._run is not None
        run = self._run
        if self._tracer.go_on(run, self._called):
            self._run = None
            self._trace.done(run.sources)
            self._take_in(run)
        return True

    @property
    def moving(self) -> bool:
        """Whether a hand moves something in it."""
        return self.prepared.spec.moving

    @property
    def _rests_s(self) -> float:
        """Seconds after which a hand that only mixes is taken to rest."""
        return HELD_RESTS_S if self.prepared.spec.held else HAND_RESTS_S

    @property
    def dark(self) -> bool:
        """Whether sources that count have no bounced light yet."""
        p = self.prepared
        return not p.spec.paused and not all(
            self.pictures.best_fresh(p, s, direct=False) for s in p.counting
        )

    @property
    def policy(self) -> Policy:
        """What decides, beside the films, what is traced next."""
        return Policy(
            self.hand.moved, self.hand.draft, time.monotonic() - self._started,
            calm_enough(self.noise.of(self.prepared), self.prepared.spec),
        )  # fmt: skip

    def drawing(self, settled: bool = False, quickly: bool = False) -> Drawing:
        """The present picture with everything that is known of it; ``quickly``: for a hand it may be half as large."""
        p = self.prepared
        # Whatever is read in the picture is read at full size.
        as_it_is = p.spec.reading == "plain" and not (p.spec.find or p.spec.raw_share)
        made = self._mixed(quickly and self._quick and as_it_is)
        return Drawing(
            p, self.pictures, self.hand, made.picture, made.scale, self.mixer.exposure(p),
            self.surveyed.of(p), self.noise.of(p), settled, made.halved,
        )  # fmt: skip

    def _mixed(self, halved: bool = False) -> Mixed:
        return self.mixer.mixed(self.prepared, self.pictures, self.hand, halved)

    def _shower(self) -> Show:
        """How a scene-linear picture of the present look is shown, for the thread beside."""
        return shower(self.mixer.exposure(self.prepared), self.prepared.spec.finish)

    def _send(self, head: dict[str, Any], body: bytes) -> None:
        self._trace.sent(head)
        self._deliver(head, body)

    def _begins(self) -> bool:
        """Whether a pass is in progress or there is one to begin."""
        if self._run is None:
            job = next_job(self.prepared, self.pictures, self.policy)
            self._run = None if job is None else self._tracer.begin(self.prepared, job)
            if self._run is not None:
                passes = min((f.passes for f in self._run.films), default=0)
                run = self._run
                self._trace.begun(run.sources, run.job.scale, run.job.bounces, passes)
        return self._run is not None

    def _take_in(self, run: Run) -> None:
        """Take in a pass that is done."""
        p, films = self.prepared, tuple(zip(run.sources, run.films, strict=True))
        run.guide.refresh(GUIDE_PASSES)
        if run.direct and self.hand.draft is not None and not films:
            self._show()
        counts = any(s.id in run.sources for s in p.counting)
        if not run.direct and (run.job.scale < 4 or counts):
            self.cleaning.add(p, self.pictures, films, run.guide, run.job.scale == 4)
            return
        # Little pictures for the strip, and those that a hand waits for, are done at once.
        grown = [(source, film) for source, film in films if film.has_grown(CLEAN_AGAIN)]
        for source, film in grown:
            film.keep(smoothed(p, film, run.guide))
            self.pictures.keep_last(source, film)
        if grown:
            self._after_cleaning(frozenset(run.sources))

    def _after_cleaning(self, sources: frozenset[str]) -> None:
        if self.prepared.spec.moving and self.hand.waits(self.prepared, self.pictures):
            return
        self._show()
        if not self.prepared.spec.moving:
            self._tidy()
            if not self._alone:
                self._show_prints(sources)

    def _finish_quietly(self) -> bool:
        jobs: list[Future[Any]] = [
            j for j in (self.surveyed.busy, self.noise.busy) if j is not None
        ]
        if jobs:
            wait(jobs, timeout=_PATIENCE_S, return_when=FIRST_COMPLETED)
            return True
        moving = self.prepared.spec.moving
        if self._prints_dirty and not moving:
            self._show_prints()
            return True
        if not self._settled and not moving:
            self._show(settled=True)
            # Nothing is computed until somebody does something.
            self._tidy(resting=True)
            return True
        return False

    def _tidy(self, resting: bool = False) -> None:
        """Give memory back that was used for a moment: that of the denoiser is more than a film's."""
        large = math.prod(self.prepared.size(1)) > LARGE_PX
        if large:
            self.shared.workshop.denoise.rest()
        if large or resting:
            give_back()

    def _has_light(self) -> bool:
        """Whether there is a picture to show: black is not one, nor is a new view without some of its sources."""
        p = self.prepared
        if not p.counting or (
            self.hand.draft is not None and not self.hand.waits(p, self.pictures)
        ):
            return True
        there = [self.pictures.best(p, s, self.hand.moved) is not None for s in p.counting]
        if all(there):
            self._complete_of = p.guide_of
        return any(there) and self._complete_of == p.guide_of

    def _show(self, settled: bool = False) -> None:
        """Send the present picture, unless it has no light yet: then the last one stays on screen."""
        # Also after the last word something may come in: films are shared with other tabs.
        self._settled, self._unseen = settled, False
        if self.prepared.assembled is not None and not self._has_light():
            return
        # Asked before the picture is made: on a slow machine that takes longer than a hand pauses.
        mixes = time.monotonic() < self._mixed_until
        hand = self.moving or mixes
        begun = time.perf_counter()
        d = self.drawing(settled, quickly=True)
        shown = read(d)
        # On plain walls a JPEG is as far off as what noise is left; under a hand its quickness counts for more.
        exact = settled or (d.scale == 1 and not hand)
        body = encoded(shown, exact)
        took_s = time.perf_counter() - begun
        if hand and d.scale == 1:
            # Only what a hand is sent tells how quick pictures are for it: at rest a PNG takes as long as the rest.
            self._slow = took_s > TOO_SLOW_S
        clock = Clock(time.monotonic() - self._started, took_s * 1e3)
        self._send(head_of(d, shown, clock, self._doubt_of(d), exact), body)
        if mixes:
            # The page goes on once it has seen this.
            self._mixed_until = max(self._mixed_until, time.monotonic() + self._rests_s)

    def _doubt_of(self, d: Drawing) -> str | None:
        """What is wrong with the view, found once for each."""
        key = d.p.guide_key(d.scale)
        if d.pictures.guide(d.p, d.scale) is not None and self._doubt[0] != key:
            self._doubt = (key, doubt_of_view(d))
        return self._doubt[1] if self._doubt[0] == key else None

    def _show_prints(self, only: frozenset[str] | None = None) -> None:
        """Send the little picture of sources: what each alone adds at this exposure."""
        p = self.prepared
        if only is None:
            self._prints_dirty, self._prints_at = False, time.monotonic()
            self._touched.clear()
            # A page that was just opened waits for its picture, not for black prints.
            if not any(self.pictures.best(p, s, self.hand.moved) for s in p.spec.sources):
                return
        if p.assembled is not None:
            for head, body in prints(self.drawing(quickly=True), only):
                self._send(head, body)

    def _say(self, text: str) -> None:
        self._send({"kind": "note", "text": text}, b"")
