// What the server says of a project. The server validates everything; these are its shapes.

export interface Exposure {
  f_number: number;
  shutter_s: number;
  iso: number;
  kelvin: number;
  tint: number;
  tone: "natural" | "linear";
}

export interface Mix {
  level: number;
  muted: boolean;
  solo: boolean;
}

export interface Look {
  day: string;
  minutes: number;
  sun: {
    mode: "time" | "free";
    azimuth_deg: number;
    elevation_deg: number;
    size: number;
    kelvin: number | null;
  };
  sky: {
    model: "clear" | "cie";
    cie_type: number;
    haze: number;
    ground: number;
    portals: boolean;
    closed: boolean;
  };
  exposure: Exposure;
  clay: { on: boolean; reflectance: number };
  mix: Record<string, Mix>;
  note: string;
}

export interface View {
  position: [number, number, number];
  target: [number, number, number];
  focal_length_mm: number;
  upright: boolean;
  aspect: number;
}

export interface Place {
  position: [number, number, number];
  direction: [number, number, number];
  roll_deg: number;
}

export type Shape = "rectangle" | "disc" | "sphere" | "tube" | "spot" | "photometric";

/** A photometric file on the shelf. */
export interface Luminaire {
  asset: string;
  name: string;
  flux_lm: number;
  watts: number | null;
  efficacy: number | null;
  peak_cd: number;
  beam_deg: number;
  field_deg: number;
  remarks: string[];
  cone: { distance_m: number; lux: number; diameter_m: number }[];
  step_deg: number;
  curve: Record<"0" | "90" | "180" | "270", number[]>;
}

/** A reading of the meter. */
export interface Reading {
  x: number;
  y: number;
  luminance: number;
  /** Readings differ by so many stops. */
  log2_luminance: number;
  stops: number;
  lux: number | null;
  rgb: [number, number, number];
  shares: Record<string, number>;
}

export interface Fixture {
  kind: "fixture";
  shape: Shape;
  length: number;
  beam_deg: number;
  field_deg: number;
  narrowing: number;
  photometry: string | null;
  photometry_name: string;
  width: number;
  height: number;
  radius: number;
  lumen: number;
  kelvin: number;
  visible: boolean;
  places: Place[];
}

export interface Glow {
  kind: "glow";
  material: string;
}

export interface Building {
  triangles: number;
  parts: number;
  materials: number;
  size_m: [number, number, number];
  remarks: string[];
  up: "y" | "z";
}

export interface Row<T> {
  id: string;
  name: string;
  settings: T;
}

export interface StillFile {
  kind: "exr" | "png";
  asset: string;
  name: string;
  bytes: number;
}

export interface Still {
  id: string;
  name: string;
  status: "waiting" | "rendering" | "done" | "failed" | "cancelled";
  created_at: string;
  width_px: number;
  files: StillFile[];
  problem: string | null;
  progress: {
    share: number;
    text?: string;
    passes?: number;
    noise?: number;
    left?: number | null;
  } | null;
}

export interface Project {
  id: string;
  name: string;
  latitude_deg: number;
  longitude_deg: number;
  time_zone: string;
  north_deg: number;
  models: Row<Building>[];
  views: Row<View>[];
  looks: Row<Look>[];
  sources: Row<Fixture | Glow>[];
  stills: Still[];
  undo: string | null;
  redo: string | null;
}

export type Track = [number, number][];

export interface Facts {
  azimuth_deg: number;
  elevation_deg: number;
  sun_lx: number;
  sky_lx: number;
}

export interface Daylight {
  chart: {
    day: Track;
    longest: Track;
    shortest: Track;
    hours: Track[];
    band: string[];
    sunrise: number | null;
    sunset: number | null;
  };
  facts: Facts;
  /** When the real sun stands where a free one was put. */
  stands: {
    ever: boolean;
    matches: { day: string; minutes: number; apart_deg: number }[];
  } | null;
}

export interface Plan {
  height_m: number;
  low: [number, number];
  high: [number, number];
  filled: [number, number][][];
  open: [number, number][][];
  below: [number, number][][];
}

export interface FrameHead {
  kind: "frame";
  format: "png" | "jpeg";
  width: number;
  height: number;
  scale: number;
  passes: number;
  noise: number;
  seconds: number;
  settled: boolean;
  moving: boolean;
  ev: number;
  metered_s: number | null;
  burnt: number;
  black: number;
  histogram: number[];
  empty: boolean;
  openings: number;
  noisy: { source: string; noise: number; direct: number; bounced: number; remedy: string }[];
}

export type Head =
  | FrameHead
  | { kind: "contribution"; source: string; burnt: number; colour: string }
  | { kind: "note" | "problem"; text: string }
  | { kind: "ready"; pid: number }
  | ({ kind: "facts" } & Facts)
  | ({
      kind: "picked";
      id: number;
      hit: boolean;
      position?: [number, number, number];
      normal?: [number, number, number];
    } & Partial<Omit<Reading, "x" | "y">>);
