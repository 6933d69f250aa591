// The picture's socket: says what is shown and held, draws the frames that come back.

import type { FrameHead, Head, Project } from "../api/types";
import { named, Refusal } from "../api/client";
import { answered, answersLost, askBy, read, unanswered } from "./asking";
import { reload, stillsTold, stillsUntold } from "./project";
import { say } from "./queries";
import { get, set, useStudio } from "./store";

let socket: WebSocket | null = null;
let canvas: HTMLCanvasElement | null = null;
/** What was drawn last: a canvas that comes anew, as after the first page, shows it at once. */
let drawn: ImageBitmap | null = null;
let asked = -Infinity;
let onTheWay = 0;
let behind = false;
let toldMoving = false;
let queued = false;

let laidOut = 640;

/** Told of the canvas' size: to ask for it would lay the page out at every word to the server. */
const sized = new ResizeObserver(() => {
  const width = canvas?.clientWidth;
  // A picture that is not laid out has no width of its own: it keeps the one it had.
  if (!width || width === laidOut) return;
  laidOut = width;
  show();
});

/** Pixels the picture has on this screen, in steps, so that a window dragged wider is not a stream. */
function pictureWidth() {
  const shown = laidOut * Math.min(window.devicePixelRatio, 2);
  return Math.min(Math.max(Math.ceil(shown / 64) * 64, 320), 1920);
}

function send(message: object) {
  if (socket?.readyState !== WebSocket.OPEN) return false;
  socket.send(JSON.stringify(message));
  return true;
}

askBy((message) => {
  // The question is about the picture as it is now, not as it was told a moment ago.
  if (queued || behind) tell();
  return send(message);
});

/** How long a state under a moving hand waits for the picture of the one before, in ms. */
const PATIENCE = 250;

/** Tell the server what to show; many changes in one frame become one message. */
function show() {
  if (queued) return;
  queued = true;
  requestAnimationFrame(() => {
    if (!queued) return;
    queued = false;
    const s = get();
    // Under a moving hand two states are on their way at a time: one being traced, one waiting.
    // States nobody will see cost the processor what their pictures would need.
    const now = performance.now();
    const hand = s.moving || s.held !== null;
    if (now - asked >= PATIENCE || !hand || s.moving !== toldMoving) onTheWay = 0;
    if (hand && onTheWay >= 2) {
      behind = true;
      return;
    }
    if (hand) onTheWay += 1;
    tell();
  });
}

/** Say what is shown and held. */
function tell() {
  const s = get();
  if (!s.project || !s.lookId || !s.viewId) return;
  asked = performance.now();
  behind = queued = false;
  toldMoving = s.moving;
  send({
    kind: "show",
    project: s.project.id,
    look: s.lookId,
    view: s.viewId,
    held: s.held,
    moving: s.moving,
    paused: s.paused,
    visible: document.visibilityState !== "hidden" && !s.home && !s.covered,
    blank: s.frame === null,
    plain: s.plain,
    reading: s.reading,
    split: s.split,
    speckles: s.clamp ? "cut" : "left",
    find: s.find,
    prints_by_themselves: s.printsByThemselves,
    region: s.picking === "region" ? null : s.region,
    width: pictureWidth(),
  });
}

/** What is looked at, as its frames say it. */
const shownNow = () => {
  const s = get();
  return `${s.project?.id} ${s.lookId} ${s.viewId}`;
};

/** Put up the picture this view had when it was last looked at, if there is one and light is still to come. */
function recall() {
  const { project, lookId, viewId, frame } = get();
  const of = shownNow();
  set({ last: null });
  if (!project || !lookId || !viewId || frame?.of === of) return;
  const url = `/api/projects/${project.id}/pictures/${lookId}/${viewId}?${Date.now()}`;
  const picture = new Image();
  picture.onload = () => {
    if (shownNow() === of && get().frame?.of !== of) set({ last: { of, url, project } });
  };
  picture.src = url;
}

/** Whether a frame is better than the last picture: sharp with all its light, or what the hand asks for. */
function outdone(head: FrameHead) {
  const s = get();
  if (!s.last || head.of !== s.last.of) return false;
  const asked =
    s.held ||
    s.find ||
    s.plain ||
    s.reading !== "plain" ||
    s.split !== null ||
    s.project !== s.last.project;
  return !!asked || head.moving || head.settled || (head.scale === 1 && head.waiting === 0);
}

function paint(on: HTMLCanvasElement, picture: ImageBitmap) {
  on.width = picture.width;
  on.height = picture.height;
  on.getContext("2d", { alpha: false })?.drawImage(picture, 0, 0);
}

/** Frames that came, and the newest that was drawn: one that took longer to decode is not laid over a newer one. */
let came = 0;
let newest = 0;

async function draw(head: FrameHead, file: Uint8Array<ArrayBuffer>) {
  const turn = ++came;
  const picture = await createImageBitmap(new Blob([file], { type: `image/${head.format}` })).catch(
    () => null,
  );
  // Also one that could not be decoded makes room for the next: the server waits for it.
  send({ kind: "drawn" });
  onTheWay = Math.max(onTheWay - 1, 0);
  if (behind) show();
  if (!picture || turn < newest) {
    picture?.close();
    return;
  }
  newest = turn;
  drawn?.close();
  drawn = picture;
  if (canvas) {
    paint(canvas, picture);
    canvas.dataset.passes = String(head.passes);
    canvas.dataset.waiting = String(head.waiting);
    canvas.dataset.scale = String(head.scale);
    canvas.dataset.settled = String(head.settled);
    canvas.dataset.moving = String(head.moving);
    canvas.dataset.frames = String(Number(canvas.dataset.frames ?? 0) + 1);
    const s = get();
    const asItIs = s.reading === "plain" && s.split === null && !s.find && !s.plain;
    const due = head.settled || head.of !== chipOf || performance.now() - chipAt > CHIP_EVERY;
    const calm = !s.held && !head.moving && due;
    if (calm && asItIs && head.of === shownNow() && !head.empty && head.scale < 4) {
      chipOf = head.of;
      keepChip(canvas);
    }
  }
  // A note of work that can be stopped stays until it is done.
  set((s) => ({
    frame: head,
    failure: null,
    note: s.stop ? s.note : "",
    last: outdone(head) ? null : s.last,
  }));
  if (!head.moving) void readAgain();
}

/** Least time between two small pictures of one thing, in ms; when the last one was made, and of what. */
const CHIP_EVERY = 1000;
let chipAt = -Infinity;
let chipOf = "";

/** A small picture for the chips of look and view, kept between visits. */
function keepChip(from: HTMLCanvasElement) {
  chipAt = performance.now();
  const small = document.createElement("canvas");
  small.width = 96;
  small.height = Math.round((96 * from.height) / from.width);
  small.getContext("2d")?.drawImage(from, 0, 0, small.width, small.height);
  const picture = small.toDataURL("image/jpeg", 0.8);
  try {
    localStorage.setItem(`chip-${get().lookId}`, picture);
    localStorage.setItem(`chip-${get().viewId}`, picture);
  } catch {
    // A full store costs only the chip's picture.
  }
}

function take(message: ArrayBuffer) {
  const length = new DataView(message).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(message, 4, length))) as Head;
  const file = new Uint8Array(message, 4 + length);
  if (head.kind === "frame") void draw(head, file);
  else if (head.kind === "contribution") {
    const url = URL.createObjectURL(new Blob([file], { type: "image/jpeg" }));
    set((s) => {
      const old = s.contributions[head.source];
      if (old) URL.revokeObjectURL(old.url);
      const { described, burnt, colour, headroom, just_below, burns, share, lifted_ev } = head;
      const of = shownNow();
      const lit = headroom !== null || (!!old?.lit && old.of === of);
      const told = { url, described, burnt, colour, headroom, just_below, burns, share };
      const kept = { ...told, lifted_ev, lit, of };
      return { contributions: { ...s.contributions, [head.source]: kept } };
    });
  } else if (head.kind === "facts") set({ facts: head });
  else if (head.kind === "note") set((s) => (s.home ? {} : { note: head.text }));
  else if (head.kind === "problem") set({ problem: head.text });
  else if (head.kind === "failure") set({ failure: head, note: "" });
  else if (head.kind === "answer") answered(head.id, head.answer);
  else if (head.kind === "unanswered") unanswered(head.id, head.text);
  else if (head.kind === "changed") changedElsewhere(head.project);
  else if (head.kind === "stills") stillsTold(head.project, head.stills);
  else if (head.kind === "ready") {
    named(head.session);
    set({ session: head.session });
  }
}

/** Try again what failed. */
export function tryAgain() {
  set({ failure: null });
  send({ kind: "again" });
}

let refetching: ReturnType<typeof setTimeout> | undefined;

/** Somebody else has changed this project: many changes are fetched as one, and the hand keeps what it holds. */
function changedElsewhere(project: string) {
  if (project !== get().project?.id) return;
  clearTimeout(refetching);
  refetching = setTimeout(() => void reload().catch(say), 150);
}

/** A state that waited for a picture which never came is sent all the same. */
setInterval(() => behind && performance.now() - asked >= PATIENCE && show(), 100);

function connect() {
  const scheme = location.protocol === "https:" ? "wss" : "ws";
  socket = new WebSocket(`${scheme}://${location.host}/api/picture`);
  socket.binaryType = "arraybuffer";
  socket.onopen = () => {
    set({ away: false });
    show();
  };
  socket.onmessage = (event) => take(event.data as ArrayBuffer);
  socket.onclose = () => {
    answersLost();
    stillsUntold();
    set({ away: true });
    setTimeout(connect, 800);
  };
}

/** Whether more of a project has changed than how far its stills are, which is told many times a minute. */
function lightChanged(now: Project | null, before: Project | null) {
  if (now === before) return false;
  if (!now || !before) return true;
  const keys = Object.keys(now) as (keyof Project)[];
  return keys.some((key) => key !== "stills" && now[key] !== before[key]);
}

/** Start the connection; every change of what is shown is told to the server. */
export function startPicture() {
  connect();
  // A question that could not be answered is said, wherever it was asked.
  window.addEventListener("unhandledrejection", (event) => {
    if (!(event.reason instanceof Refusal)) return;
    event.preventDefault();
    say(event.reason);
  });
  window.addEventListener("resize", show);
  document.addEventListener("visibilitychange", show);
  useStudio.subscribe((s, before) => {
    if (
      s.project?.id !== before.project?.id ||
      s.lookId !== before.lookId ||
      s.viewId !== before.viewId
    )
      recall();
    if (
      lightChanged(s.project, before.project) ||
      s.lookId !== before.lookId ||
      s.viewId !== before.viewId ||
      s.held !== before.held ||
      s.moving !== before.moving ||
      s.paused !== before.paused ||
      s.plain !== before.plain ||
      s.reading !== before.reading ||
      s.split !== before.split ||
      s.clamp !== before.clamp ||
      s.find !== before.find ||
      s.region !== before.region ||
      s.picking !== before.picking ||
      s.home !== before.home ||
      s.covered !== before.covered ||
      s.printsByThemselves !== before.printsByThemselves
    )
      show();
  });
}

export function drawOn(element: HTMLCanvasElement | null) {
  if (!element || element === canvas) return;
  if (drawn) paint(element, drawn);
  Object.assign(element.dataset, { ...canvas?.dataset });
  if (canvas) sized.unobserve(canvas);
  canvas = element;
  laidOut = canvas.clientWidth || laidOut;
  sized.observe(canvas);
}

/** Time between two rounds of readings while the picture refines, in ms. */
const READ_EVERY = 700;
let reading = false;

/** Pinned readings follow the picture they are read from. */
async function readAgain() {
  const pinned = get().readings;
  if (reading || pinned.length === 0) return;
  reading = true;
  try {
    const fresh = await Promise.all(pinned.map((r) => read(r.x, r.y)));
    // One that was pinned or taken off meanwhile is left as it is.
    if (get().readings === pinned)
      set({ readings: pinned.map((r, i) => ({ ...(fresh[i] ?? r), wish: r.wish })) });
  } finally {
    setTimeout(() => (reading = false), READ_EVERY);
  }
}
