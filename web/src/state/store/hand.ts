// What the hand holds, and what its next click does.

import type { Addition, Look, ModelEdits, Shape, View } from "../../api/types";

/** What a click in the picture sets, beside fixtures, readings and the sun. */
export type Picking =
  | "focus"
  | "neutral"
  | "metered area"
  | "part"
  | "move part"
  | "copy part"
  | "room"
  | "grade part"
  | "grade material"
  | "opening"
  | "plant"
  | "region"
  | "aim"
  | `add ${Addition["kind"]}`;

export type Partially<T> = { [K in keyof T]?: T[K] extends object ? Partially<T[K]> : T[K] };

/** What a drag is changing, laid over the saved project until it is let go. */
export interface Held {
  look?: Partially<Look>;
  view?: Partially<View>;
  sources?: Record<string, Record<string, unknown>>;
  model?: { edits: Partial<ModelEdits> };
}

export interface HandState {
  held: Held | null;
  moving: boolean;
  /** What the next click in the picture sets. */
  picking: Picking | null;
  placing: Shape | null;
  /** How a lamp lands: so far off the surface that is clicked, and drawn to what is near. */
  landing: { off_m: number; snap: boolean };
  /** What drew the fixture that landed last. */
  landedAt: { id: string; to: string } | null;
  /** Photometric file chosen on the shelf. */
  luminaire: string | null;
  metering: boolean;
  drawingLine: boolean;
  /** A hand on the picture moves the camera. */
  flying: boolean;
  /** Only this source, while a key is held. */
  find: string | null;
  /** The light as it was traced, while a key is held. */
  plain: boolean;
}

export const hand: HandState = {
  held: null,
  moving: false,
  picking: null,
  placing: null,
  landing: { off_m: 0, snap: true },
  landedAt: null,
  luminaire: null,
  metering: false,
  drawingLine: false,
  flying: false,
  find: null,
  plain: false,
};
