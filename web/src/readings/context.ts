import type { Schemas } from "../api/client";
import type { Listed, Value, Values } from "./useReading";

type Series = Schemas["SeriesOut"][];
export interface Here {
  conditions: Schemas["ConditionsIn"];
  told: boolean;
  hours: number;
  checkpoint: string;
  series: Series;
  instruments: Schemas["InstrumentOut"][];
  say: (key: string, values?: Record<string, unknown>) => string;
}
const DAY = 86_400_000;
/** How old a figure is, whole minutes. */
export const minutesSince = (at: string | null | undefined) => (at ? Math.max(0, Math.round((Date.now() - Date.parse(at)) / 60_000)) : 0);
const Y2000 = Date.UTC(2000, 0, 1);

/** What is known of a reading's inputs before a hand has moved, and where each comes from. */
export function contextOf(listed: Listed, here: Here): { first: Values; from: Record<string, string> } {
  const first: Values = {};
  const from: Record<string, string> = {};
  const put = (key: string, value: Value | undefined, where: string, values: Record<string, unknown> = {}) => {
    if (value === undefined) return;
    first[key] = value;
    from[key] = here.say(`reading.from.${where}`, values);
  };
  const own = here.series.find((s) => s.checkpoint === here.checkpoint && s.key === listed.key);
  // Leak or weather compares with the last pressure that was read at this tyre.
  const other = here.series.find(
    (s) => s.checkpoint === here.checkpoint && s.key === (listed.key === "tyre-loss" ? "tyre-pressure" : listed.key),
  );
  const last = other?.points.at(-1);
  /** What devices know now, over what was told on the approach: it is newer. */
  const devices = new Map(
    here.instruments.flatMap((d) =>
      d.figures.flatMap((f) =>
        f.fills && f.key in d.now
          ? [
              [
                f.fills as string,
                { value: d.now[f.key]!, simulated: d.simulated, name: d.title, minutes: minutesSince(d.at), fact: d.holds_min === null },
              ] as const,
            ]
          : [],
      ),
    ),
  );
  const lastOf: Record<string, string> = { before: "pressure", before_c: "tyre_c" };
  for (const i of listed.inputs) {
    const device = i.known ? devices.get(i.known) : undefined;
    if (device && !i.many) {
      put(i.key, i.low >= 0 ? Math.abs(device.value) : device.value, device.fact ? "fact" : device.simulated ? "standIn" : "device", {
        name: device.name,
        n: device.minutes,
      });
      continue;
    }
    switch (i.known) {
      case "air":
        if (here.told) put(i.key, i.many ? undefined : here.conditions.air_c, "approach");
        break;
      case "pitch":
        if (here.told) put(i.key, i.low < 0 ? here.conditions.pitch_deg : Math.abs(here.conditions.pitch_deg ?? 0), "approach");
        break;
      case "roll":
        if (here.told) put(i.key, here.conditions.roll_deg, "approach");
        break;
      case "shift":
        put(i.key, here.conditions.shift_hours, "approach");
        break;
      case "hours":
        put(i.key, here.hours, "meter");
        break;
      case "time":
        put(i.key, Math.round((Date.now() - Y2000) / 36_000) / 100, "clock");
        break;
      case "last":
        put(i.key, last?.given[lastOf[i.key] ?? i.key], "last");
        break;
      case "since-last":
        if (last) put(i.key, Math.max(0.1, Math.round(((Date.now() - Date.parse(last.at)) / DAY) * 10) / 10), "last");
        break;
      case "series":
        if (own && own.points.length)
          put(
            i.key,
            own.points.slice(-60).map((p) => p.given.left ?? p.given.restriction ?? p.value),
            "series",
          );
        break;
      case "series-hours":
        if (own && own.points.length)
          put(
            i.key,
            own.points.slice(-60).map((p) => p.hours ?? 0),
            "series",
          );
        break;
      default:
        break;
    }
  }
  return { first, from };
}
