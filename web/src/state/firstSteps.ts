// The first steps of somebody new: three cards, each gone for ever once it is done or put away.

import { create } from "zustand";

const STEPS = ["sun", "level", "proof"] as const;
export type Step = (typeof STEPS)[number];
const KEPT = "first-steps";

function gone(): string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "[]");
    return Array.isArray(kept) ? kept.map(String) : [];
  } catch {
    return [];
  }
}

const left = () => STEPS.filter((s) => !gone().includes(s));

/** Cards that are still to be seen. */
export const useFirstSteps = create<{ left: Step[] }>(() => ({ left: left() }));

function drop(steps: readonly Step[]) {
  if (!useFirstSteps.getState().left.some((s) => steps.includes(s))) return;
  try {
    localStorage.setItem(KEPT, JSON.stringify([...new Set([...gone(), ...steps])]));
  } catch {
    // A full store costs only that the cards come again.
  }
  useFirstSteps.setState((s) => ({ left: s.left.filter((step) => !steps.includes(step)) }));
}

export const stepDone = (step: Step) => drop([step]);
export const noMoreSteps = () => drop(STEPS);
