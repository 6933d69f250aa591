import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Look, Project } from "../api/types";
import { edit, inTurn, importModel, stepBack } from "./edits";
import { hold, holdAddition, release } from "./held";
import { groupKey, sourceList, showView } from "./look";
import { openProject } from "./project";
import { queries } from "./queries";
import { set, useStudio } from "./store";

/** The server of these tests; the client takes hold of `fetch` when it is made. */
const server = vi.hoisted(() => {
  const made: { answer: (asked: Request) => Promise<Response> } = {
    answer: () => Promise.reject(new Error("no server")),
  };
  // Addresses are those of the page, and jsdom's signals are strange to Node's requests.
  class Here extends Request {
    constructor(to: string, more?: RequestInit) {
      super(new URL(to, "http://localhost"), { ...more, signal: null });
    }
  }
  globalThis.Request = Here as typeof Request;
  globalThis.fetch = (asked) => made.answer(asked as Request);
  return made;
});

queries.setQueryData(["vocabulary"], {
  skies: [
    { id: "clear", label: "Clear", name: "Clear sky" },
    { id: "hdri", label: "Picture", name: "Sky picture" },
  ],
});

const now = useStudio.getState;
const empty = now();

/** A project with a sun, a sky and lamps, as far as the state of the page reads it. */
function project(lamps: Record<string, string> = {}, rest: object = {}): Project {
  const sources = Object.entries(lamps).map(([id, group]) => ({
    id,
    name: `Lamp ${id}`,
    settings: { kind: "fixture", group },
  }));
  const look = { id: "l1", name: "Late sun", settings: { sun: { size: 1 }, mix: {} } };
  const view = { id: "v1", name: "Benches", settings: { position: [0, 0, 1] } };
  const model = { id: "m1", settings: { edits: { additions: [] } } };
  return {
    id: "p",
    name: "Saltmarsh Pottery",
    looks: [look, { ...look, id: "l2", name: "Blue hour" }],
    views: [view, { ...view, id: "v2", name: "Quay" }],
    models: [model],
    sources,
    ...rest,
  } as unknown as Project;
}

const look = (mix: Look["mix"], sky: object = { model: "clear", moon: null }) =>
  ({ mix, sky }) as Pick<Look, "mix" | "sky">;
const loud = { level: 0, muted: false, solo: false };

describe("the strip of sources", () => {
  const silent = (mix: Look["mix"]) =>
    sourceList(project({ a: "Pendants", b: "Pendants", c: "" }), look(mix))
      .filter((s) => s.silent)
      .map((s) => s.id);

  it("begins with sun and sky under the sky's own name, the moon where there is one", () => {
    const names = (sky: object) => sourceList(project(), look({}, sky)).map((s) => s.name);
    expect(names({ model: "clear" })).toEqual(["Sun", "Clear sky"]);
    expect(names({ model: "hdri", hdri: { name: "Estuary" }, moon: {} })).toEqual([
      "Sun",
      "Estuary",
      "Moon",
    ]);
    expect(names({ model: "hdri", hdri: { name: "" } })).toEqual(["Sun", "Sky picture"]);
  });
  it("is silent where a source is muted, or its group", () => {
    expect(silent({})).toEqual([]);
    expect(silent({ c: { ...loud, muted: true } })).toEqual(["c"]);
    expect(silent({ [groupKey("Pendants")]: { ...loud, muted: true } })).toEqual(["a", "b"]);
  });
  it("lets only what is solo through, muted or not", () => {
    expect(silent({ sun: { ...loud, solo: true } })).toEqual(["sky", "a", "b", "c"]);
    expect(silent({ [groupKey("Pendants")]: { ...loud, solo: true } })).toEqual([
      "sun",
      "sky",
      "c",
    ]);
    expect(silent({ c: { level: 0, muted: true, solo: true } })).not.toContain("c");
  });
});

/** What went to the server: method, path and body, in order. */
interface Sent {
  method: string;
  path: string;
  body: { patch?: object; label?: string; gesture?: string };
}
let sent: Sent[];
let answers: ((sent: Sent) => Promise<Response> | Response)[];

const json = (body: object, status = 200) =>
  new Response(JSON.stringify(body), {
    status,
    headers: { "content-type": "application/json" },
  });

/** An answer that comes when it is told to. */
function later(body: object) {
  let come = () => {};
  const waited = new Promise<void>((resolve) => (come = resolve));
  answers.push(() => waited.then(() => json(body)));
  return () => come();
}

beforeEach(() => {
  sent = [];
  answers = [];
  set({ ...empty, project: project({ a: "" }), lookId: "l1", viewId: "v1" }, true);
  server.answer = async (asked) => {
    const type = asked.headers.get("content-type") ?? "";
    const body = type.includes("json") ? ((await asked.json()) as Sent["body"]) : {};
    const one = { method: asked.method, path: new URL(asked.url).pathname, body };
    sent.push(one);
    return await (answers.shift() ?? (() => json(project({ a: "" }))))(one);
  };
});

describe("edits", () => {
  it("go out one after another, whatever the server takes for each", async () => {
    const first = later(project());
    const done = [
      edit("look", "l1", { settings: { sun: { size: 2 } } }, "Size"),
      edit("look", "l1", { settings: { sun: { size: 3 } } }, "Size"),
    ];
    await vi.waitFor(() => expect(sent.length).toBe(1));
    await new Promise((r) => setTimeout(r, 20));
    expect(sent.length).toBe(1);
    first();
    await Promise.all(done);
    expect(sent.map((s) => s.body.patch)).toEqual([
      { settings: { sun: { size: 2 } } },
      { settings: { sun: { size: 3 } } },
    ]);
  });
  it("are saved before one is taken back", async () => {
    const first = later(project());
    void edit("look", "l1", {}, "Size");
    const undone = stepBack("undo");
    await vi.waitFor(() => expect(sent.length).toBe(1));
    answers.push(() => json({ label: "Size", project: project() }));
    first();
    await undone;
    expect(sent.map((s) => s.path)).toEqual([
      "/api/projects/p/rows/look/l1",
      "/api/projects/p/undo",
    ]);
  });
  it("that are refused leave the project as it is and say the words", async () => {
    const before = now().project;
    answers.push(() => json({ detail: "A sun of 400× is no sun; 60× is the most." }, 422));
    await edit("look", "l1", {}, "Size");
    expect(now().problem).toBe("A sun of 400× is no sun; 60× is the most.");
    expect(now().project).toBe(before);
    // The next one is not held up by it.
    await edit("look", "l1", {}, "Size");
    expect(sent.length).toBe(2);
  });
  it("belong to the project they were made in, whatever is shown when their turn comes", async () => {
    const first = later(project());
    const done = [
      edit("look", "l1", {}, "Size"),
      inTurn(() => Promise.resolve(project({}, { name: "Late" }))),
    ];
    set({ project: project({}, { id: "q", name: "Boat shed" }) });
    const after = edit("look", "l1", {}, "Size");
    answers.push(() => json(project({}, { id: "q", name: "Boat shed" })));
    first();
    await Promise.all([...done, after]);
    expect(sent.map((s) => s.path.split("/")[3])).toEqual(["p", "q"]);
    expect(now().project?.name).toBe("Boat shed");
  });
  it("that do not reach the server are kept, and saved in their order when it is back", async () => {
    vi.useFakeTimers();
    answers.push(() => Promise.reject(new TypeError("failed to fetch")));
    answers.push(() => Promise.reject(new TypeError("failed to fetch")));
    hold({ look: { sun: { size: 2 } } }, false);
    const released = release("Size");
    const next = edit("look", "l1", { settings: { sun: { size: 3 } } }, "Size");
    await vi.advanceTimersByTimeAsync(500);
    expect(now().unsaved).toBe(true);
    expect(now().held).not.toBeNull();
    // Whoever leaves the page meanwhile is asked first.
    const leaving = new Event("beforeunload", { cancelable: true });
    window.dispatchEvent(leaving);
    expect(leaving.defaultPrevented).toBe(true);
    await vi.advanceTimersByTimeAsync(3000);
    vi.useRealTimers();
    await Promise.all([released, next]);
    expect(sent.map((s) => s.body.patch)).toEqual(
      [2, 2, 2, 3].map((size) => ({ settings: { sun: { size } } })),
    );
    expect(now()).toMatchObject({ unsaved: false, problem: "", held: null });
    const later = new Event("beforeunload", { cancelable: true });
    window.dispatchEvent(later);
    expect(later.defaultPrevented).toBe(false);
  });
});

describe("what the hand holds", () => {
  it("is gathered and becomes one step of undo", async () => {
    hold({ look: { sun: { size: 2 } } }, true);
    hold({ look: { sun: { azimuth_deg: 200 } } } as never, false);
    hold({ sources: { a: { kelvin: 3000 } } }, false);
    expect(now().moving).toBe(true);
    await release("Turn the sun");
    expect(sent.map((s) => s.path)).toEqual([
      "/api/projects/p/rows/look/l1",
      "/api/projects/p/rows/source/a",
    ]);
    expect(sent[0]?.body.patch).toEqual({ settings: { sun: { size: 2, azimuth_deg: 200 } } });
    expect(new Set(sent.map((s) => s.body.gesture)).size).toBe(1);
    expect(now().held).toBeNull();
    expect(now().moving).toBe(false);
  });
  it("stays if the hand takes hold again while the last place is saved", async () => {
    hold({ look: { sun: { size: 2 } } }, true);
    const first = later(project());
    const saved = release("Size");
    await vi.waitFor(() => expect(sent.length).toBe(1));
    hold({ look: { sun: { size: 5 } } }, true);
    first();
    await saved;
    expect(now().held?.look?.sun?.size).toBe(5);
    expect(now().moving).toBe(true);
  });
  it("costs nothing when the hand let go without having moved", async () => {
    await release("Size");
    expect(sent).toEqual([]);
  });
  it("moves one addition and leaves the others where they stand", () => {
    const additions = ["b1", "b2"].map((id) => ({ id, position: [0, 0, 0] }));
    const models = [{ id: "m1", settings: { edits: { additions } } }];
    set({ project: project({}, { models }) });
    holdAddition("b2", { position: [1, 0, 0] });
    holdAddition("b2", { position: [2, 0, 0] });
    expect(now().held?.model?.edits.additions?.map((a) => a.position[0])).toEqual([0, 2]);
    expect(now().project?.models[0]?.settings.edits.additions[1]?.position[0]).toBe(0);
  });
  it("is let go of when another view is shown, and readings with it", () => {
    hold({ view: { position: [1, 1, 1] } }, true);
    set({ readings: [{ x: 0.5, y: 0.5 }] as never });
    showView("v2");
    expect(now().held).toBeNull();
    expect(now().readings).toEqual([]);
  });
});

describe("a project", () => {
  it("opens on looks and views of its own, and on Site while it has no building", async () => {
    set({ lookId: "of another", viewId: "of another" });
    answers.push(() => json(project({}, { models: [] })));
    await openProject("p");
    expect([now().lookId, now().viewId, now().stage]).toEqual(["l1", "v1", "Site"]);
    answers.push(() => json({ detail: "This project is no longer there." }, 404));
    await openProject("gone");
    expect(now().problem).toBe("This project is no longer there.");
    expect(now().project?.id).toBe("p");
  });
  it("takes in a model or says why not; one that is stopped says nothing", async () => {
    const file = new File(["x"], "barn.glb");
    answers.push(() => json({ detail: "This is no glTF file." }, 422));
    await importModel(file, "y");
    expect([now().problem, now().note, now().stop]).toEqual(["This is no glTF file.", "", null]);

    let given: (reason: Error) => void = () => {};
    answers.push(() => new Promise((_, reject) => (given = reject)));
    const reading = importModel(file, "y");
    await vi.waitFor(() => expect(sent.length).toBe(2));
    expect(now().note).toBe("Reading barn.glb …");
    now().stop?.();
    given(new DOMException("stopped", "AbortError"));
    await reading;
    expect([now().problem, now().note, now().stop]).toEqual(["", "", null]);
  });
});
