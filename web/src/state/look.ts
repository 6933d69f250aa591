// The look and the view as they are shown: saved settings with what the hand holds, and the strip of sources.

import { useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Look, Mix, Project, View } from "../api/types";
import { merge } from "./merge";
import { vocabulary } from "./vocabulary";
import { set, type State, useStudio } from "./store";

/** A row by its id, or the first one. */
export const byId = <T extends { id: string }>(rows: T[], id: string) =>
  rows.find((row) => row.id === id) ?? rows[0];

export function lookRow(s: State) {
  return s.project ? byId(s.project.looks, s.lookId) : undefined;
}

export function viewRow(s: State) {
  return s.project ? byId(s.project.views, s.viewId) : undefined;
}

/** One part of the look as it is shown; changes only when that part does. */
export function useLookPart<K extends keyof Look>(key: K): Look[K] | undefined {
  const saved = useStudio((s) => lookRow(s)?.settings[key]);
  const held = useStudio((s) => s.held?.look?.[key]);
  return useMemo(
    () => (saved === undefined || held === undefined ? saved : merge(saved, held)),
    [saved, held],
  );
}

/** Some parts of the look as they are shown; changes only when one of them does. */
export function useLookOf<K extends keyof Look>(...keys: K[]): Pick<Look, K> | undefined {
  const shown = useStudio(useShallow((s) => keys.map((key) => lookRow(s)?.settings[key])));
  const held = useStudio(useShallow((s) => keys.map((key) => s.held?.look?.[key])));
  return useMemo(() => {
    if (shown.some((part) => part === undefined)) return undefined;
    const parts = keys.map((key, n) => [
      key,
      held[n] === undefined ? shown[n] : merge(shown[n], held[n]),
    ]);
    return Object.fromEntries(parts) as Pick<Look, K>;
    // The keys of a component are always the same.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shown, held]);
}

export function useView(): View | undefined {
  const row = useStudio(viewRow);
  const held = useStudio((s) => s.held?.view);
  return row && (held ? merge(row.settings, held) : row.settings);
}

export const NO_MIX: Mix = { level: 0, muted: false, solo: false };

/** Under which key of the mix a group of sources is kept. */
export const groupKey = (group: string) => `group: ${group}`;

function skyName({ model, hdri }: Look["sky"]) {
  const picture = model === "hdri" ? hdri.name : "";
  return picture || (vocabulary().skies.find((s) => s.id === model)?.name ?? "Sky");
}

/** Every source of the project in strip order: sun, sky, then fixtures and glowing materials. */
export function sourceList(project: Project, look: Pick<Look, "mix" | "sky">) {
  const all = [
    { id: "sun", name: "Sun", kind: "sun" },
    {
      id: "sky",
      name: skyName(look.sky),
      kind: "sky",
    },
    ...(look.sky.moon ? [{ id: "moon", name: "Moon", kind: "sun" }] : []),
    ...project.sources.map((s) => ({
      id: s.id,
      name: s.name,
      kind: s.settings.kind as string,
      group: s.settings.group,
    })),
  ].map((s) => {
    const group = "group" in s ? s.group : "";
    const whole = { ...NO_MIX, ...(group ? look.mix[groupKey(group)] : undefined) };
    const mix = { ...NO_MIX, ...look.mix[s.id] };
    return { ...s, group, mix, solo: mix.solo || whole.solo, muted: mix.muted || whole.muted };
  });
  const solo = all.some((s) => s.solo);
  return all.map((s) => ({ ...s, silent: solo ? !s.solo : s.muted }));
}

export type SourceLine = ReturnType<typeof sourceList>[number];

/** Look from another view; readings belong to the picture they were taken in. */
export function showView(viewId: string) {
  set({ viewId, held: null, readings: [], framed: null });
}
