import { useQuery } from "@tanstack/react-query";
import type { Fixture, Mix } from "../api/types";
import { askDoubts } from "../state/asking";
import { edit, editLook } from "../state/edits";
import { useLookPart } from "../state/look";
import { useStudio } from "../state/store";
import { DialLine } from "./DialLine";
import { metres, percent, signed } from "./words";
import { Tick } from "../ui/Tick";
import { Cheat } from "../ui/Tip";

/** How a fixture is seen, what it shades, and how far it reaches. */
export function Seen({ id, fixture: f }: { id: string; fixture: Fixture }) {
  const save = (patch: Partial<Fixture>, label: string) =>
    void edit("source", id, { settings: patch }, label);
  const tick = (
    key: "visible" | "in_reflections" | "through_glass" | "casts_shadow" | "diffuse" | "glossy",
    label: string,
    free = false,
  ) => (
    <label key={key} className="flex items-center gap-2 py-[3px]">
      <Tick
        checked={f[key]}
        disabled={key !== "visible" && !free && !f.visible}
        onChange={(on) => save({ [key]: on }, label)}
      />
      {label}
    </label>
  );
  return (
    <div className="my-1">
      {tick("visible", "Its body is seen")}
      <div className="grid grid-cols-2 pl-5">
        {tick("in_reflections", "in mirrors")}
        {tick("through_glass", "through glass")}
        {tick("casts_shadow", "casts shadow")}
      </div>
      <div className="grid grid-cols-2">
        {tick("diffuse", "Lights surfaces", true)}
        <span className="flex items-center gap-2">
          {tick("glossy", "makes highlights", true)}
          {!(f.diffuse && f.glossy) && <Cheat why="A cheat: real light does both" />}
        </span>
      </div>
      <div className="flex items-center gap-2">
        <label className="flex items-center gap-2 py-[3px]">
          <Tick
            checked={f.range_m !== null}
            onChange={(on) => save({ range_m: on ? 4 : null }, "Range")}
          />
          Ends at a distance
        </label>
        <Cheat why="A cheat: no real lamp stops shining" />
      </div>
      {f.range_m !== null && (
        <DialLine
          of="fixture"
          name="range_m"
          value={f.range_m}
          write={metres}
          onHold={() => undefined}
          onRelease={(range_m) => save({ range_m }, "Range")}
        />
      )}
    </div>
  );
}

/** What a source burns out by itself, with a step to just below. */
export function Burns({ id, name }: { id: string; name: string }) {
  const print = useStudio((s) => s.contributions[id]);
  const mix = useLookPart("mix");
  if (!print?.burns || !mix || print.just_below === null) return null;
  const level = mix[id]?.level ?? 0;
  const just = level + print.just_below;
  return (
    <p className="my-1 text-sun-ink" role="note">
      It clips {percent(print.burnt)} of this picture by itself.{" "}
      <button
        className="underline"
        onClick={() =>
          void editLook({ mix: { [id]: { level: just } as Mix } }, `${name} just below clipping`)
        }
      >
        Bring it just below: {signed(just - level)} EV
      </button>
    </p>
  );
}

/** Copies that touch a surface, with the way out of it. */
export function TooNear({ id, name, fixture: f }: { id: string; name: string; fixture: Fixture }) {
  const ready = useStudio((s) => (s.frame ? !s.frame.empty : false));
  const doubts = useQuery({
    queryKey: ["doubts", id, f.places, f.radius, f.shape],
    queryFn: askDoubts,
    enabled: ready,
    // The picture takes a moment to know what was just placed.
    refetchInterval: (q) => (q.state.dataUpdateCount < 3 ? 1500 : false),
  });
  const mine = doubts.data?.filter((d) => d.source === id) ?? [];
  const [first] = mine;
  if (!first) return null;
  const free = () => {
    const places = f.places.map((p, i) => {
      const d = mine.find((m) => m.place === i);
      const [x, y, z] = p.position;
      return d
        ? {
            ...p,
            position: [x + d.move[0], y + d.move[1], z + d.move[2]] as [number, number, number],
          }
        : p;
    });
    void edit("source", id, { settings: { places } }, `Free ${name}`);
  };
  return (
    <p className="my-1 text-sun-ink" role="note">
      {mine.length > 1 ? `${mine.length} copies are` : "It is"}{" "}
      {first.shut_in
        ? "shut in: nearly all its light meets something within 30 cm."
        : `${(first.gap_m * 100).toFixed(0)} cm from a surface and will speckle.`}{" "}
      <button className="underline" onClick={free}>
        Move {mine.length > 1 ? "them" : "it"} {first.shut_in ? "out" : "clear"}
      </button>
    </p>
  );
}
