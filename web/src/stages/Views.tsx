import { Switch } from "../ui/Switch";
import { Row } from "../ui/Row";
import type { View } from "../api/types";
import { DialLine } from "../parts/DialLine";
import { Amount } from "../ui/Amount";
import { Choice } from "../ui/Choice";
import { Section } from "../ui/Section";
import { setFlying } from "../state/fly";
import { addRow, edit, removeRow } from "../state/edits";
import { hold, release } from "../state/held";
import { useView, viewRow, showView } from "../state/look";
import { set, useStudio } from "../state/store";
import { Tick } from "../ui/Tick";
import { Select } from "../ui/Select";
import { Tip } from "../ui/Tip";

const GUIDES: Record<string, string> = {
  none: "None",
  thirds: "Thirds",
  golden: "Golden ratio",
  spiral0: "Golden spiral, from below left",
  spiral1: "Golden spiral, from below right",
  spiral2: "Golden spiral, from above right",
  spiral3: "Golden spiral, from above left",
  diagonals: "Diagonals",
  centre: "Centre",
  safe: "Margins of 5 and 10 %",
};

/** The view as it was last seen; empty paper until it has been. */
function Thumbnail({ view }: { view: string }) {
  useStudio((s) => `${s.frame?.passes} ${s.frame?.settled}`);
  const picture = localStorage.getItem(`chip-${view}`);
  const size = "h-[30px] w-[52px] shrink-0 border border-rule";
  return picture ? (
    <img src={picture} alt="" className={`${size} object-cover`} />
  ) : (
    <i className={`${size} bg-mount-2/20`} />
  );
}

/** Cameras of the project and the lens of the current one. */
export function Views() {
  const project = useStudio((s) => s.project);
  const row = useStudio(viewRow);
  const view = useView();
  const flying = useStudio((s) => s.flying);
  if (!project || !row || !view) return null;
  const coordinate = (key: "position" | "target", i: number, label: string) => (
    <Amount
      key={`${key}${i}`}
      label={label}
      value={view[key][i] ?? 0}
      min={(row.settings[key][i] ?? 0) - 8}
      max={(row.settings[key][i] ?? 0) + 8}
      anywhere
      step={0.05}
      normal={row.settings[key][i] ?? 0}
      write={(v) => `${v.toFixed(2).replace("-", "−")} m`}
      onHold={(v) => {
        const point: [number, number, number] = [...view[key]];
        point[i] = v;
        hold({ view: { [key]: point } as Partial<View> }, false);
      }}
      onRelease={() => void release(`Move ${row.name}`)}
    />
  );
  return (
    <>
      <Section
        title="Views"
        aside={
          <button
            className="quiet underline"
            onClick={() =>
              void addRow("view", `${row.name} 2`, row.settings).then((id) => id && showView(id))
            }
          >
            Copy
          </button>
        }
      >
        {project.views.map((v) => (
          <div key={v.id} className="flex items-center justify-between gap-2 py-[2px]">
            <button
              className={`flex min-w-0 items-center gap-2 border-l-2 pl-2 text-left ${v.id === row.id ? "border-blue font-[650]" : "border-transparent text-ink-2"}`}
              aria-pressed={v.id === row.id}
              onClick={() => showView(v.id)}
            >
              <Thumbnail view={v.id} />
              <span className="min-w-0 truncate">{v.name}</span>
            </button>
            {project.views.length > 1 && v.id === row.id && (
              <button className="quiet underline" onClick={() => void removeRow("view", v.id)}>
                Remove
              </button>
            )}
          </div>
        ))}
        <Row label="Name" className="mt-1">
          <input
            key={row.id}
            className="entry"
            defaultValue={row.name}
            onBlur={(e) =>
              e.target.value.trim() &&
              e.target.value !== row.name &&
              void edit("view", row.id, { name: e.target.value.trim() }, "Rename")
            }
          />
        </Row>
      </Section>
      <Tip text="Drag the picture to look around, arrows to walk">
        <button
          className="button mt-3"
          aria-pressed={flying}
          onClick={() => {
            set({ placing: null, picking: null, metering: false });
            setFlying(!flying);
          }}
        >
          Walk in the picture <kbd>W</kbd>
        </button>
      </Tip>
      <Section title="Lens" aside="36 mm film">
        <DialLine
          of="view"
          name="focal_length_mm"
          value={view.focal_length_mm}
          onHold={(focal_length_mm) => hold({ view: { focal_length_mm } }, false)}
          onRelease={() => void release("Lens")}
        />
        <label className="flex items-center gap-2 py-[3px]">
          <Tick
            checked={view.upright}
            onChange={(on) => void edit("view", row.id, { settings: { upright: on } }, "Verticals")}
          />
          Verticals stay vertical (lens shift)
        </label>
        {(["right", "up"] as const).map((way, i) => (
          <DialLine
            key={way}
            of="view"
            name="shift"
            label={`Shift ${way}`}
            value={view.shift[i] ?? 0}
            onHold={(v) => {
              const shift: [number, number] = [...view.shift];
              shift[i] = v;
              hold({ view: { shift } as Partial<View> }, false);
            }}
            onRelease={() => void release("Shift the lens")}
          />
        ))}
        <DialLine
          of="view"
          name="roll_deg"
          value={view.roll_deg}
          onHold={(v) => hold({ view: { roll_deg: v } }, false)}
          onRelease={() => void release("Roll the camera")}
        />
        <DialLine
          of="view"
          name="near_m"
          value={view.near_m}
          write={(v) => (v > 0 ? `nearer than ${v.toFixed(2)} m` : "nothing")}
          onHold={(v) => hold({ view: { near_m: v } }, false)}
          onRelease={() => void release("Cut away what is near")}
        />
        <Choice
          label="Aspect"
          value={String(Math.round(view.aspect * 1000))}
          options={[
            { value: "1778", label: "16 : 9" },
            { value: "1500", label: "3 : 2" },
            { value: "1333", label: "4 : 3" },
            { value: "1000", label: "1 : 1" },
            { value: "800", label: "4 : 5" },
            { value: "2350", label: "2.35" },
          ]}
          onChoose={(v) =>
            void edit(
              "view",
              row.id,
              {
                settings: {
                  aspect: v === "1778" ? 16 / 9 : v === "1333" ? 4 / 3 : Number(v) / 1000,
                },
              },
              "Aspect",
            )
          }
        />
        <DialLine
          of="view"
          name="aspect"
          value={view.aspect}
          write={(v) => `${v.toFixed(2)} : 1`}
          onHold={(v) => hold({ view: { aspect: v } }, false)}
          onRelease={() => void release("Aspect")}
        />
      </Section>
      <Section title="Guides" aside={<kbd>G</kbd>}>
        <Select
          className="w-full"
          label="Composition guides"
          value={`${view.guides}${view.guides === "spiral" ? view.guides_turn : ""}`}
          options={Object.entries(GUIDES).map(([value, label]) => ({ value, label }))}
          onPick={(picked) => {
            const turn = Number.parseInt(picked.slice(-1), 10);
            const guides = picked.replace(/\d$/, "") as View["guides"];
            const settings = { guides, guides_turn: Number.isNaN(turn) ? 0 : turn };
            void edit("view", row.id, { settings }, "Guides");
          }}
        />
      </Section>
      <Section
        title="Depth of field"
        aside={
          <button className="quiet underline" onClick={() => set({ picking: "focus" })}>
            Pick the focus
          </button>
        }
      >
        <label className="flex items-center gap-2 py-[3px]">
          <Switch
            on={view.depth_of_field}
            onChange={(on) =>
              void edit("view", row.id, { settings: { depth_of_field: on } }, "Depth of field")
            }
          />
          As the f-number of the look gives it
        </label>
        {view.depth_of_field && (
          <>
            <DialLine
              of="view"
              name="focus_m"
              value={view.focus_m}
              onHold={(focus_m) => hold({ view: { focus_m } }, false)}
              onRelease={() => void release("Focus")}
            />
            <DialLine
              of="view"
              name="blades"
              value={view.blades}
              write={(v) => (v < 3 ? "round" : v.toFixed(0))}
              onHold={(v) => hold({ view: { blades: v < 3 ? 0 : v } }, false)}
              onRelease={() => void release("Blades")}
            />
          </>
        )}
      </Section>
      <Section title="Camera">
        {["East", "North", "Eye height"].map((l, i) => coordinate("position", i, l))}
      </Section>
      <Section title="Target">
        {["East", "North", "Height"].map((l, i) => coordinate("target", i, l))}
      </Section>
    </>
  );
}
