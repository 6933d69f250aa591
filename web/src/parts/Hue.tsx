import { ColourField } from "../ui/ColourField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import type { Fixture, Schemas } from "../api/types";
import { edit } from "../state/edits";
import { release } from "../state/held";
import { DialLine } from "./DialLine";
import { Select } from "../ui/Select";
import { queries, useChange } from "../state/queries";
import { Tick } from "../ui/Tick";
import { Tip } from "../ui/Tip";

const WARM_TO_COLD = "linear-gradient(to right, #ffb46b, #ffe4c8, #fff, #dbe6ff, #b5ceff)";

/** Usual whites of lamps. */
const WHITES: [string, number][] = [
  ["Candle", 1900],
  ["Warm white", 2700],
  ["Halogen", 3000],
  ["Neutral white", 4000],
  ["Daylight white", 5600],
  ["Skylight", 8000],
];

/** Colour of a lamp: kelvin, one of the usual whites, or any colour. */
export function Hue(p: {
  fixture: Fixture;
  id: string;
  name: string;
  onHold: (kelvin: number) => void;
}) {
  const { fixture: f } = p;
  const save = (settings: Partial<Fixture>, label: string) =>
    void edit("source", p.id, { settings }, label);
  const house = useQuery({
    queryKey: ["whites"],
    queryFn: () => answer(api.GET("/api/whites")),
    staleTime: Infinity,
  });
  const own = house.data ?? [];
  const mine = own.find(
    ({ settings: w }) => w.colour === f.colour && (f.colour !== null || w.kelvin === f.kelvin),
  );
  const usual = f.colour === null && WHITES.find(([, k]) => k === f.kelvin);
  const choose = (value: string) => {
    const kept = own.find((w) => w.id === value);
    if (kept) save(kept.settings as Partial<Fixture>, kept.name);
    else save({ kelvin: Number(value), colour: null }, "White");
  };
  return (
    <>
      <DialLine
        of="fixture"
        name="kelvin"
        value={f.kelvin}
        track={WARM_TO_COLD}
        write={(v) => (f.colour === null ? `${v.toFixed(0)} K` : "a hue")}
        onHold={p.onHold}
        onRelease={() => void release(`Kelvin of ${p.name}`)}
      />
      <div className="grid grid-cols-[var(--label)_1fr_42px] items-center gap-2 py-[3px]">
        <span />
        <Select
          label="Usual whites"
          value={mine ? mine.id : usual ? String(usual[1]) : ""}
          placeholder={f.colour === null ? "another white" : "a hue"}
          options={[
            ...WHITES.map(([label, k]) => ({ value: String(k), label: `${label} ${k} K` })),
            ...(own.length > 0
              ? [
                  {
                    label: "Of the house",
                    options: own.map((w) => ({ value: w.id, label: w.name })),
                  },
                ]
              : []),
          ]}
          onPick={choose}
        />
        <Tip text="Any hue, for coloured light">
          <span className="justify-self-end">
            <ColourField
              aria-label={`Hue of ${p.name}`}
              value={f.colour ?? "#ffffff"}
              onRelease={(colour) => save({ colour }, `Hue of ${p.name}`)}
            />
          </span>
        </Tip>
      </div>
      {f.colour === null && (
        <Tip text="As a filament does: three stops down, 2700 K become 2090 K">
          <label className="flex items-center gap-2 py-[3px]">
            <Tick
              checked={f.warm_dim}
              onChange={(warm_dim) => save({ warm_dim }, `Warm dimming of ${p.name}`)}
            />
            warmer when dimmed
          </label>
        </Tip>
      )}
      <HouseWhite fixture={f} mine={mine} />
    </>
  );
}

/** Keeps the present colour for the house under a name, or lets one go. */
function HouseWhite({ fixture, mine }: { fixture: Fixture; mine: Schemas["Kept"] | undefined }) {
  const [name, setName] = useState<string | null>(null);
  const show = (whites: Schemas["Kept"][]) => queries.setQueryData(["whites"], whites);
  const keep = useChange(
    (name: string) => {
      const { kelvin, colour } = fixture;
      return answer(api.POST("/api/whites", { body: { name, kelvin, colour } }));
    },
    {
      then: (whites) => {
        show(whites);
        setName(null);
      },
    },
  );
  const remove = useChange(
    (white: string) => answer(api.DELETE("/api/whites/{white}", { params: { path: { white } } })),
    { then: show },
  );
  return (
    <div className="grid grid-cols-[var(--label)_minmax(0,1fr)] items-center gap-2">
      <span />
      {mine ? (
        <button className="quiet text-left underline" onClick={() => remove.mutate(mine.id)}>
          Let “{mine.name}” go
        </button>
      ) : name === null ? (
        <button className="quiet text-left underline" onClick={() => setName("")}>
          Keep this colour for the house
        </button>
      ) : (
        <form
          className="flex gap-1"
          onSubmit={(e) => {
            e.preventDefault();
            if (name.trim()) keep.mutate(name);
            else setName(null);
          }}
        >
          <input
            autoFocus
            className="entry min-w-0 flex-1"
            aria-label="Name of the white"
            placeholder="Gallery 3500"
            value={name}
            onChange={(e) => setName(e.target.value)}
            onKeyDown={(e) => e.key === "Escape" && setName(null)}
          />
          <button className="button">Keep</button>
        </form>
      )}
    </div>
  );
}
