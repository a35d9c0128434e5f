import type { Schemas } from "../api/client";

/** One step of the way on the plan: a station, the line to it, and how it stands. */
export interface Step {
  station: Schemas["StationOut"];
  line: number[][];
  metres: number;
  seconds: number;
  walked: boolean;
  blocked: boolean;
}

/** The way as it was planned, with nothing walked yet. */
export const plannedWay = (walk: Schemas["WalkOut"], walked = false): Step[] =>
  walk.stations.map((s) => ({ station: s, line: s.line, metres: s.metres, seconds: s.seconds - s.look_s, walked, blocked: false }));
