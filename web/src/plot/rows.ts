/** One thing over time, as a plot draws it. Times in ms since 1970, values in the unit that is shown. */
export interface PlotRow {
  key: string;
  name: string;
  /** What stands over it among several; else its name and unit. */
  title?: string;
  unit: string;
  points: PlotPoint[];
  /** No line over a stretch longer than this [ms]: nothing was told there. */
  gap?: number;
  limit?: number;
  usual?: [number, number];
  bands?: { low: number; high: number; colour: string }[];
  /** When it is at its limit if it goes on as it did. */
  ahead?: number;
  /** The ends of its scale; without them the plot takes what the values need. */
  scale?: [number, number];
}
export interface PlotPoint {
  at: number;
  value: number;
  /** Of a stretch of time: the lowest and highest in it; `value` is their middle. */
  low?: number;
  high?: number;
  band?: string;
  by?: string;
}
/** What happened meanwhile, on all rows or on one. */
export interface PlotEvent {
  at: number;
  says: string;
  colour?: string;
}

/** A point in words: a value, or from the lowest to the highest of its stretch. */
export const toldOf = (p: PlotPoint, figure: (v: number) => string) =>
  p.low === undefined ? figure(p.value) : `${figure(p.low)} … ${figure(p.high!)}`;

/** Stretches of points that belong together: a line over a gap would tell what nobody knows. */
export function unbroken(points: PlotPoint[], gap = Infinity): PlotPoint[][] {
  const out: PlotPoint[][] = [];
  for (const p of points) {
    const last = out.at(-1)?.at(-1);
    if (last && p.at - last.at <= gap) out.at(-1)!.push(p);
    else out.push([p]);
  }
  return out;
}

const cell = (v: string | number) => {
  const text = String(v);
  // A table program takes a cell that begins so for a formula.
  const plain = typeof v === "string" && /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\n]/.test(plain) ? `"${plain.replaceAll('"', '""')}"` : plain;
};

/** The values as a table in a file: times in UTC, one line a value, what happened among them. */
export function csv(rows: PlotRow[], events: PlotEvent[]): string {
  const lines: [number, (string | number)[]][] = [];
  for (const r of rows) for (const p of r.points) lines.push([p.at, [r.name, p.low ?? p.value, p.high ?? p.value, r.unit, p.by ?? "", ""]]);
  for (const e of events) lines.push([e.at, ["", "", "", "", "", e.says]]);
  lines.sort((a, b) => a[0] - b[0]);
  const head = ["time", "what", "low", "high", "unit", "by", "event"];
  return [head, ...lines.map(([at, cells]) => [new Date(at).toISOString(), ...cells])].map((l) => l.map(cell).join(",")).join("\r\n");
}
