import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Project } from "../api/types";
import { Refusal } from "../api/client";
import { askLeaks, read } from "./asking";
import { drawOn, startPicture, tryAgain } from "./picture";
import * as project from "./project";
import { hold } from "./held";
import { set, useStudio } from "./store";

// Its clocks are wound up when it is imported.
vi.hoisted(() => vi.useFakeTimers());
vi.hoisted(() =>
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
    },
  ),
);

const now = useStudio.getState;

/** A socket that only remembers, and says what it is told to. */
class Wire {
  static readonly OPEN = 1;
  static last: Wire;
  readyState = Wire.OPEN;
  sent: Record<string, unknown>[] = [];
  onopen = () => {};
  onclose = () => {};
  onmessage: (event: { data: ArrayBuffer }) => void = () => {};
  constructor(readonly address: string) {
    Wire.last = this;
  }
  send(text: string) {
    this.sent.push(JSON.parse(text) as Record<string, unknown>);
  }
  shown = () => this.sent.filter((m) => m.kind === "show");
  asked = (kind: string) => this.sent.find((m) => m.kind === kind);
  /** Say a head, and an empty file after it. */
  say(head: object) {
    const text = new TextEncoder().encode(JSON.stringify(head));
    const whole = new Uint8Array(4 + text.length);
    new DataView(whole.buffer).setUint32(0, text.length, true);
    whole.set(text, 4);
    this.onmessage({ data: whole.buffer });
  }
}

const frame = (rest: object = {}) => ({
  kind: "frame", format: "jpeg", passes: 1, waiting: 0, scale: 1, settled: false, moving: false,
  empty: false, of: "p x x", ...rest,
}); // prettier-ignore

const row = { id: "x", name: "x", settings: { sun: {}, edits: {} } };
const canvas = document.createElement("canvas");
let time = 1000;
/** A moment goes by: what was put off to the next frame of the screen is done. */
const pass = async (ms: number) => {
  time += ms;
  await vi.advanceTimersByTimeAsync(ms);
};

vi.stubGlobal("WebSocket", Wire);
const bitmap = () => Promise.resolve({ width: 64, height: 36, close: () => {} });
vi.stubGlobal("createImageBitmap", vi.fn(bitmap));
vi.stubGlobal("requestAnimationFrame", (f: () => void) => setTimeout(f, 16));
vi.spyOn(performance, "now").mockImplementation(() => time);
vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(null);
vi.spyOn(HTMLCanvasElement.prototype, "toDataURL").mockReturnValue("data:,");
startPicture();
drawOn(canvas);

beforeEach(async () => {
  const project = { id: "p", looks: [row], views: [row], models: [row], sources: [] };
  set({ project: project as unknown as Project, lookId: "x", viewId: "x", held: null,
        moving: false, readings: [], note: "", stop: null, problem: "", region: null,
        picking: null }); // prettier-ignore
  await pass(2000);
  Wire.last.sent = [];
});

const turn = (azimuth_deg: number) => hold({ look: { sun: { azimuth_deg } } }, true);

describe("what is told", () => {
  it("is one message for all that changes in a frame of the screen", async () => {
    set({ paused: true });
    set({ reading: "burnt" });
    set({ find: "sun" });
    await pass(16);
    expect(Wire.last.shown().length).toBe(1);
    expect(Wire.last.shown()[0]).toMatchObject({ paused: true, reading: "burnt", find: "sun" });
    set({ paused: false, reading: "plain", find: null });
  });
  it("says that it has no picture until a frame came, and again when a project is opened anew", async () => {
    set({ frame: null, paused: true });
    await pass(16);
    expect(Wire.last.shown().at(-1)).toMatchObject({ blank: true });
    Wire.last.say(frame());
    await pass(0);
    set({ paused: false });
    await pass(16);
    expect(Wire.last.shown().at(-1)).toMatchObject({ blank: false });
  });
  it("under a moving hand is two states at a time, and then the newest one", async () => {
    for (const azimuth of [1, 2, 3, 4, 5]) {
      turn(azimuth);
      await pass(16);
    }
    const azimuths = () =>
      Wire.last
        .shown()
        .map((m) => (m.held as { look: { sun: { azimuth_deg: number } } }).look.sun.azimuth_deg);
    expect(azimuths()).toEqual([1, 2]);
    Wire.last.say(frame({ moving: true }));
    await pass(16);
    await pass(16);
    expect(azimuths()).toEqual([1, 2, 5]);
  });
  it("does not wait for ever for a picture that never comes", async () => {
    for (const azimuth of [1, 2, 3]) {
      turn(azimuth);
      await pass(16);
    }
    expect(Wire.last.shown().length).toBe(2);
    await pass(500);
    expect(Wire.last.shown().length).toBe(3);
  });
  it("waits for pictures under a hand that only mixes, too", async () => {
    await pass(400);
    const before = Wire.last.shown().length;
    for (const level of [1, 2, 3, 4]) {
      hold({ look: { mix: { sky: { level } as never } } }, false);
      await pass(16);
    }
    expect(Wire.last.shown().length).toBe(before + 2);
    await pass(400);
    expect(Wire.last.shown().at(-1)).toMatchObject({
      held: { look: { mix: { sky: { level: 4 } } } },
    });
  });
  it("is told at once when the hand lets go", async () => {
    for (const azimuth of [1, 2, 3]) {
      turn(azimuth);
      await pass(16);
    }
    set({ moving: false });
    await pass(16);
    expect(Wire.last.shown().at(-1)).toMatchObject({ moving: false });
  });
  it("is not told again because a still has gone on", async () => {
    const asIs = now().project as Project;
    set({ project: { ...asIs, stills: [] } });
    await pass(16);
    expect(Wire.last.shown().length).toBe(0);
    set({ project: { ...asIs, looks: [...asIs.looks] } });
    await pass(16);
    expect(Wire.last.shown().length).toBe(1);
  });
  it("leaves out a region that is still being drawn", async () => {
    set({ region: [0, 0, 0.5, 0.5], picking: "region" });
    await pass(16);
    expect(Wire.last.shown().at(-1)?.region).toBeNull();
    set({ picking: null });
    await pass(16);
    expect(Wire.last.shown().at(-1)?.region).toEqual([0, 0, 0.5, 0.5]);
  });
});

describe("what comes back", () => {
  it("is answered for though it cannot be decoded, and not laid over a newer one", async () => {
    const decoded: ((picture: object | null) => void)[] = [];
    vi.mocked(createImageBitmap).mockImplementation(
      () =>
        new Promise((resolve, reject) => {
          decoded.push((p) => (p ? resolve(p as ImageBitmap) : reject(new Error("damaged"))));
        }),
    );
    for (const passes of [2, 3, 4]) Wire.last.say(frame({ passes }));
    const picture = { width: 64, height: 36, close: vi.fn() };
    decoded[1]?.(picture);
    await pass(0);
    decoded[0]?.(picture);
    decoded[2]?.(null);
    await pass(0);
    expect(canvas.dataset.passes).toBe("3");
    expect(now().frame).toMatchObject({ passes: 3 });
    expect(picture.close).toHaveBeenCalledTimes(1);
    expect(Wire.last.sent.filter((m) => m.kind === "drawn").length).toBe(3);
    vi.mocked(createImageBitmap).mockReset();
    vi.mocked(createImageBitmap).mockImplementation(bitmap);
  });
  it("is drawn, answered for, and told on the canvas", async () => {
    Wire.last.say(frame({ passes: 7, scale: 1, settled: true }));
    await pass(0);
    expect(Wire.last.asked("drawn")).toBeTruthy();
    expect(canvas.dataset).toMatchObject({ passes: "7", settled: "true", moving: "false" });
    expect([canvas.width, canvas.height]).toEqual([64, 36]);
    expect(now().frame?.passes).toBe(7);
  });
  it("stands on a canvas that comes anew", async () => {
    Wire.last.say(frame({ passes: 9 }));
    await pass(0);
    const other = document.createElement("canvas");
    drawOn(null);
    drawOn(other);
    expect([other.width, other.height]).toEqual([64, 36]);
    expect(other.dataset.passes).toBe("9");
    drawOn(canvas);
  });
  it("ends a note, but not one of work that can be stopped", async () => {
    Wire.last.say({ kind: "note", text: "Reading the building …" });
    expect(now().note).toBe("Reading the building …");
    Wire.last.say(frame());
    await pass(0);
    expect(now().note).toBe("");
    set({ note: "Reading barn.glb …", stop: () => {} });
    Wire.last.say(frame());
    await pass(0);
    expect(now().note).toBe("Reading barn.glb …");
    set({ note: "", stop: null, home: true });
    Wire.last.say({ kind: "note", text: "Reading the building …" });
    expect(now().note).toBe("");
    set({ home: false });
  });
  it("keeps a chip of look and view only of the picture as it is", async () => {
    localStorage.clear();
    set({ reading: "luminance" });
    Wire.last.say(frame());
    await pass(0);
    expect(localStorage.getItem("chip-x")).toBeNull();
    set({ reading: "plain" });
    // The last frame of the view before is not one of this view.
    Wire.last.say(frame({ of: "p x y" }));
    await pass(0);
    expect(localStorage.getItem("chip-x")).toBeNull();
    Wire.last.say(frame());
    await pass(0);
    expect(localStorage.getItem("chip-x")).toBe("data:,");
  });
  it("says problems in the server's words", () => {
    Wire.last.say({ kind: "problem", text: "The model has no surfaces." });
    expect(now().problem).toBe("The model has no surfaces.");
  });
});

describe("questions", () => {
  it("are about the picture as it is now: what waits is told first", () => {
    turn(9);
    askLeaks().catch(() => {});
    expect(Wire.last.sent.map((m) => m.what ?? m.kind)).toEqual(["show", "leaks"]);
  });
  it("get their own answer, or a refusal in words", async () => {
    const [first, second] = [askLeaks(), askLeaks()];
    const [a, b] = Wire.last.sent.filter((m) => m.what === "leaks").map((m) => m.id);
    Wire.last.say({ kind: "unanswered", id: b, text: "There is no picture yet." });
    Wire.last.say({ kind: "answer", what: "leaks", id: a, answer: { inside: true, found: [] } });
    expect((await first).inside).toBe(true);
    await expect(second).rejects.toThrow(Refusal);
    await expect(second).rejects.toThrow("There is no picture yet.");
  });
  it("of the meter where nothing is lit give no reading", async () => {
    const asked = read(0.5, 0.5);
    const { id } = Wire.last.sent.find((m) => m.what === "meter") ?? {};
    const nothing = { luminance: null, stops: null, shares: null, rgb: null, log2_luminance: null };
    Wire.last.say({ kind: "answer", what: "meter", id, answer: nothing });
    expect(await asked).toBeNull();
  });
  it("are refused when no answer comes", async () => {
    const asked = askLeaks();
    const refused = expect(asked).rejects.toThrow("No answer came");
    await pass(90_000);
    await refused;
  });
});

describe("a failure", () => {
  it("is said, can be tried again, and is over with the next picture", async () => {
    Wire.last.say({ kind: "failure", fault: 4, text: "It failed (fault 4).", again_s: 2 });
    expect(now().failure?.text).toBe("It failed (fault 4).");
    tryAgain();
    expect(Wire.last.asked("again")).toBeTruthy();
    expect(now().failure).toBeNull();
    Wire.last.say({ kind: "failure", fault: 5, text: "It failed (fault 5).", again_s: 2 });
    Wire.last.say(frame());
    await pass(0);
    expect(now().failure).toBeNull();
  });
});

describe("others at the table", () => {
  it("are followed: many of their edits are fetched as one, the hand keeps what it holds", async () => {
    const fetched = vi.spyOn(project, "reload").mockResolvedValue();
    turn(7);
    for (let i = 0; i < 5; i++) Wire.last.say({ kind: "changed", project: "p" });
    Wire.last.say({ kind: "changed", project: "another" });
    await pass(400);
    expect(fetched).toHaveBeenCalledTimes(1);
    expect(now().held).not.toBeNull();
    fetched.mockRestore();
  });
});

describe("stills in the making", () => {
  it("are told as they go, and only those of the project that is shown", () => {
    const asIs = now().project;
    const row = { id: "s1", name: "Hall", status: "rendering", progress: { share: 0.4 } };
    Wire.last.say({ kind: "stills", project: "another", stills: [row] });
    expect(now().project?.stills).toEqual(asIs?.stills);
    Wire.last.say({ kind: "stills", project: "p", stills: [row] });
    expect(now().project?.stills).toEqual([row]);
    expect(now().project?.looks).toBe(asIs?.looks);
    // An answer that was on its way meanwhile knows less.
    const late = { ...asIs, stills: [] } as unknown as Project;
    project.accept(late);
    expect(now().project?.stills).toEqual([row]);
    Wire.last.onclose();
    project.accept(late);
    expect(now().project?.stills).toEqual([]);
    set({ project: asIs, away: false });
  });
});

describe("a page that is not looked at", () => {
  it("says so, and that it is looked at again", async () => {
    const seen = vi.spyOn(document, "visibilityState", "get").mockReturnValue("hidden");
    document.dispatchEvent(new Event("visibilitychange"));
    await pass(16);
    expect(Wire.last.shown().at(-1)).toMatchObject({ visible: false });
    seen.mockRestore();
    document.dispatchEvent(new Event("visibilitychange"));
    await pass(16);
    expect(Wire.last.shown().at(-1)).toMatchObject({ visible: true });
  });
});

describe("a connection that is lost", () => {
  it("is told and sought again; what was asked is refused, what the hand holds is told anew", async () => {
    const lost = Wire.last;
    turn(11);
    const asked = expect(askLeaks()).rejects.toThrow("The connection was lost");
    lost.onclose();
    await asked;
    expect(now().away).toBe(true);
    await pass(800);
    expect(Wire.last).not.toBe(lost);
    Wire.last.onopen();
    await pass(16);
    expect(now().away).toBe(false);
    expect(Wire.last.shown().length).toBe(1);
    expect(Wire.last.shown()[0]?.held).toEqual({ look: { sun: { azimuth_deg: 11 } } });
  });
});
