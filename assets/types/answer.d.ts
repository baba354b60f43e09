// What the server tells a page of a scene: see docs/display-list.md.
import type { Edit, Question } from "./models";

export type { Question };
export type { Edit };
/** A channel by the hash of its content. */
export type Key = string;
export interface Channel { rows: number; each: number; width: number; data: Float32Array }

export interface DisplayNode {
  kind: "shape" | "picture" | "texture" | "trace" | "group" | "array";
  id: string;
  channels: Record<string, Key>;
  nodes: DisplayNode[];
  verbs?: string[];
  fill?: "none" | "solid" | "linear" | "radial" | "conic";
  line_verbs?: string[];
  ribbon?: boolean;
  shells?: number;
  filters?: ("blur" | "matrix" | "shadow")[];
  matte?: DisplayNode;
  matte_depth?: number;
  stops?: number;
  picture?: string;
  size?: [number, number];
  copies?: number;
  grid?: [number, number];
  lines?: [number, number][];
}

/** A frame at the moments of its exposure. */
export interface Exposure { frame: number; samples: number; background: Key; nodes: DisplayNode[] }

/** What a station tells of itself; `at`: where that comes from, if from elsewhere. */
export interface Note { text: string; warn: boolean; mends: [string, Edit[]][]; at?: string }
export interface Fault { parameter: string; modifier: string; message: string; label: string; frame: number; text?: boolean; through?: string[] }

/** How the copies of the chosen parameter are told: some as a fan, or all as a map. */
export interface Spread { array: string; name: string; word: string; count: number; shown: number; spread: "fan" | "map"; numbers: number[]; step: number; outputs: Key[] }

/** What lies in depth, seen from above: x, depth and height of each, px. */
export interface Plan {
  things: { id: string; name: string; free: boolean; spots: Key }[];
  sparks: { id: string; spots: Key; counts: Key }[];
  zones: { id: string; name: string; array: string; disc: boolean; spots: Key; reach: Key }[];
  camera: { id: string; name: string; free: boolean; eye: Key; aim: Key; perspective: Key } | null;
  light: { id: string; name: string; free: boolean; spots: Key } | null;
}

export interface Answer {
  revision: number;
  width: number;
  height: number;
  fps: number;
  length: number;
  start: number;
  stop: number;
  background: Key;
  nodes: DisplayNode[];
  curves: Record<"result" | "source" | "awake" | "turning" | "each", Record<string, Key>>;
  chosen: { parameter: string; outputs: Key[]; notes: Note[][]; beyond: Note | null; texts: [number, string][] | null; copies: Spread | null } | null;
  flight: { array: string; points: Key } | null;
  dots: { array: string; values: Key; places: Key; counts: Key; count: number } | null;
  path: Key | null;
  ghost: DisplayNode | null;
  plan: Plan | null;
  planes: Record<string, Key>;
  motion_blur: boolean;
  exposure: Exposure | null;
  faults: Fault[];
  token: string;
  channels: Record<Key, [number, number, Uint8Array]> | null;
}

/** One line of a menu: a title, a line, something to press, or a field to fill in. */
export interface MenuLine {
  title?: string;
  line?: boolean;
  words?: string;
  help?: string;
  ticked?: boolean;
  danger?: boolean;
  disabled?: boolean;
  hint?: string;
  title2?: string;
  field?: string;
  value?: string;
  button?: string;
  run?: (text?: string) => any;
}
