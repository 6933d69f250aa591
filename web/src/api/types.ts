// Names for the shapes the server describes; `schema.ts` is generated from it.

import type { components } from "./schema";

export type Schemas = components["schemas"];

export type Project = Schemas["Project"];
export type Look = Schemas["LookState"];
export type View = Schemas["ViewSettings"];
export type Mix = Schemas["Mix"];
export type Exposure = Schemas["ExposureSettings"];
export type Fixture = Schemas["FixtureSettings"];
export type Shape = Fixture["shape"];
export type Building = Schemas["ModelState"];
export type Still = Schemas["StillRow"];
export type Luminaire = Schemas["Luminaire"];
export type Plan = Schemas["Plan"];
export type Daylight = Schemas["Daylight"];
export type Facts = Schemas["Facts"];
export type Landed = Schemas["Landed"];
export type Mark = Schemas["Mark"];
export type FrameHead = Schemas["FrameHead"];
export type Picked = Schemas["Picked"];
export type Pattern = Schemas["Pattern"];
export type PartRow = Schemas["PartRow"];
export type MaterialRow = Schemas["MaterialRow"];
export type Proof = Schemas["Proof"];
export type Sheet = Schemas["Sheet"];
export type SkyCard = Schemas["SkyCard"];
export type Aim = Schemas["Aim"];
export type Opening = Schemas["Opening"];
export type ModelEdits = Schemas["ModelEdits"];
export type Addition = Schemas["Addition"];
export type Moved = Schemas["Moved"];
export type PartCopy = Schemas["PartCopy"];
export type Planting = Schemas["Planting"];
export type Painted = Schemas["Painted"];
export type Stroke = Schemas["Stroke"];
export type Soil = Schemas["Soil"];
export type PlantKind = Schemas["PlantKind"];
export type Haze = Schemas["HazeSettings"];
export type PartGrade = Schemas["PartGradeSettings"];
export type Track = [number, number][];

/** What comes over the picture's socket. */
export type Head =
  | Schemas["Ready"]
  | FrameHead
  | Schemas["ContributionHead"]
  | Schemas["Said"]
  | Schemas["Failure"]
  | Schemas["FactsHead"]
  | Schemas["Answered"]
  | Schemas["Unanswered"]
  | Schemas["Changed"]
  | Schemas["StillsHead"];

/** What can be asked of the picture: by name, what goes with it and what it is answered with. */
export type Questions = Schemas["Questions"];

/** A reading of the meter that was pinned. */
export interface Reading {
  /** Stops from middle grey that are wished for here. */
  wish?: number;
  x: number;
  y: number;
  luminance: number;
  /** Readings differ by so many stops. */
  log2_luminance: number;
  stops: number;
  lux: number | null;
  rgb: [number, number, number];
  shares: Record<string, number>;
  kelvin: number | null;
  sun_over_sky: number | null;
}
