// The picture as it comes from the server, and what is read from it.

import type { Facts, FrameHead, Project, Reading, Schemas } from "../../api/types";

export interface Contribution {
  url: string;
  /** What the source is and how it is set, in words. */
  described: string;
  burnt: number;
  colour: string;
  /** Stops the source may rise before it burns; null for one that adds nothing. */
  headroom: number | null;
  /** Stops that bring it just below burning. */
  just_below: number | null;
  /** It burns out more of the picture than the lamp itself. */
  burns: boolean;
  /** Part of the light of the picture; null before its first light. */
  share: number | null;
  /** Stops by which the print is brighter than the picture; null for one exposed like it. */
  lifted_ev: number | null;
  /** Some of its light was in this picture once; `of` says which one. A few samples more or less do not move its card. */
  lit: boolean;
  of: string;
}

export interface PictureState {
  /** How this page's picture is called at the server. */
  session: string;
  /** The picture's connection is lost. */
  away: boolean;
  paused: boolean;
  /** How the picture is read: as it is, burnt and black striped, luminance in false colour. */
  reading: Schemas["ReadingChoice"]["id"];
  /** Share of the width, from the left, that is shown before denoising; null for none of it. */
  split: number | null;
  /** Single bright samples of bounced light are limited. */
  clamp: boolean;
  /** What is refined before the rest: left, top, right, bottom, 0…1. */
  region: [number, number, number, number] | null;
  frame: FrameHead | null;
  /** The picture this view had when it was last looked at: it stands until a better one is there. */
  last: { of: string; url: string; project: Project } | null;
  facts: Facts | null;
  contributions: Record<string, Contribution>;
  readings: Reading[];
  /** What the meter reads under the cursor. */
  under: Reading | null;
  /** The picture could not be computed: what is said of it. The last good one stays. */
  failure: { text: string; again_s: number } | null;
}

export const picture: PictureState = {
  session: "",
  away: false,
  paused: false,
  reading: "plain",
  split: null,
  clamp: false,
  region: null,
  frame: null,
  last: null,
  facts: null,
  contributions: {},
  readings: [],
  under: null,
  failure: null,
};
