// Light on a plane of a room, drawn on the plan: which light, how high, where the room is.

import { create } from "zustand";
import type { Questions } from "../api/types";

export type LightKind = Questions["light on plan"]["of"]["of"];
export type LightOnPlan = Questions["light on plan"]["answer"];

interface LightPlan {
  of: LightKind | null;
  height: number;
  /** A place in the room, in metres; the camera's without one. */
  at: [number, number, number] | null;
}

export const useLightPlan = create<LightPlan>(() => ({ of: null, height: 0.75, at: null }));
export const set = useLightPlan.setState;
