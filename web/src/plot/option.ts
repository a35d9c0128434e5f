import type { EChartsOption, SeriesOption } from "echarts";

import { roundUp } from "../readings/useDragged";
import { toldOf, unbroken, type PlotEvent, type PlotRow } from "./rows";

export interface Palette {
  ink: string;
  soft: string;
  grid: string;
  card: string;
  deep: string;
  sound: string;
  mend: string;
  hold: string;
  limit: string;
}
export const COLOURS = ["hold", "ink", "sound", "soft", "mend", "grid", "limit", "card", "deep"] as const;

interface Ways {
  palette: Palette;
  events: PlotEvent[];
  /** From and to [ms]; without them what there is. */
  span?: [number, number] | undefined;
  time: (at: number) => string;
  figure: (value: number) => string;
  words: { limit: string };
  height: number;
  narrow: boolean;
}
const TOP = 36,
  BELOW = 34,
  FONT = "Archivo Variable, sans-serif";
/** Grades by letterless shapes that differ in black and white, too. */
const SHAPES: Record<string, string> = { "in-band": "circle", act: "triangle", stop: "rect" };

/** Rows one under the other over one axis of time: each with its unit, limit, usual band and what happened. */
export function optionOf(rows: PlotRow[], ways: Ways): EChartsOption {
  const { palette: c, events } = ways;
  const text = { color: c.soft, fontFamily: FONT, fontSize: 14 };
  const ends = spanOf(rows, ways.span);
  const each = ways.height + TOP;
  const series: SeriesOption[] = rows.flatMap((row, n) => seriesOf(row, n, ways));
  return {
    animation: false,
    textStyle: { fontFamily: FONT },
    grid: rows.map((_, n) => ({ left: 64, right: ways.narrow ? 12 : 24, top: TOP + n * each, height: ways.height })),
    title:
      rows.length > 1
        ? rows.map((r, n) => ({
            text: r.title ?? `${r.name} [${r.unit}]`,
            left: 0,
            top: n * each + 4,
            textStyle: { ...text, color: c.ink, fontSize: 15, fontWeight: 600 },
          }))
        : [],
    xAxis: rows.map((_, n) => ({
      type: "time",
      gridIndex: n,
      min: ends[0],
      max: ends[1],
      axisLine: { onZero: false, lineStyle: { color: c.ink } },
      axisTick: { show: n === rows.length - 1 },
      splitNumber: ways.narrow ? 2 : 4,
      axisLabel: { ...text, show: n === rows.length - 1, hideOverlap: true, formatter: ways.time },
    })),
    yAxis: rows.map((r, n) => {
      const { min, max, interval } = scaleOf(r);
      return {
        type: "value",
        gridIndex: n,
        min,
        max,
        interval,
        name: rows.length > 1 ? "" : r.unit,
        nameGap: 10,
        nameTextStyle: { ...text, align: "right" },
        axisLabel: { ...text, formatter: ways.figure },
        splitLine: { lineStyle: { color: c.grid } },
      };
    }),
    tooltip: {
      trigger: "axis",
      confine: true,
      backgroundColor: c.card,
      borderColor: c.ink,
      textStyle: { color: c.ink, fontFamily: FONT, fontSize: 15 },
      formatter: (all) => told(all, rows, events, ways),
    },
    axisPointer: { link: [{ xAxisIndex: "all" }], lineStyle: { color: c.ink } },
    dataZoom: [
      {
        type: "inside",
        xAxisIndex: rows.map((_, n) => n),
        zoomOnMouseWheel: "shift",
        moveOnMouseMove: false,
        moveOnMouseWheel: false,
        preventDefaultMouseMove: false,
        filterMode: "none",
      },
    ],
    series,
  };
}

export const heightOf = (rows: number, each: number) => rows * (each + TOP) + BELOW + (rows > 1 ? 0 : 4);

export function spanOf(rows: PlotRow[], given?: [number, number]): [number, number] {
  if (given) return given;
  const times = rows.flatMap((r) => r.points.map((p) => p.at));
  const first = Math.min(...times),
    last = Math.max(...times, ...rows.map((r) => r.ahead ?? -Infinity));
  return first === last ? [first - 43_200_000, last + 43_200_000] : [first, last];
}

/** The ends of a scale and its step: from round figure to round figure around all that is drawn. */
function scaleOf(row: PlotRow): { min: number; max: number; interval: number } {
  if (row.scale) return { min: row.scale[0], max: row.scale[1], interval: (row.scale[1] - row.scale[0]) / 2 };
  const values = row.points.flatMap((p) => [p.low ?? p.value, p.high ?? p.value]);
  const floor = Math.min(...values) >= 0 ? 0 : -Infinity;
  if (row.usual) values.push(Math.max(floor, row.usual[0]), row.usual[1]);
  if (row.limit !== undefined) values.push(row.limit);
  const low = Math.min(...values),
    high = Math.max(...values);
  const pad = Math.max((high - low) * 0.06, Math.abs(high) * 0.02, 1e-6);
  const interval = roundUp((high - low + 2 * pad) / 4);
  return {
    min: Math.max(floor, Math.floor((low - pad) / interval) * interval),
    max: Math.ceil((high + pad) / interval) * interval,
    interval,
  };
}

function seriesOf(row: PlotRow, n: number, ways: Ways): SeriesOption[] {
  const { palette: c, events, words } = ways;
  const at = { xAxisIndex: n, yAxisIndex: n };
  const parts = unbroken(row.points, row.gap);
  const broken = (of: (p: PlotRow["points"][number]) => number) =>
    parts.flatMap((part) => [...part.map((p) => [p.at, of(p)] as [number, number | null]), [part.at(-1)!.at + 1, null] as [number, null]]);
  /** What nothing was told before or after: it has no line, so it gets a dot. */
  const alone = new Set(parts.filter((part) => part.length === 1).map((part) => part[0]!.at));
  /** What stands at each place of a line, with nothing between two parts. */
  const drawn = parts.flatMap((part) => [...part, undefined]);
  const out: SeriesOption[] = [];
  if (row.points.some((p) => p.low !== undefined)) {
    const band = {
      type: "line",
      ...at,
      symbol: "none",
      stack: `band-${n}`,
      stackStrategy: "all",
      silent: true,
      lineStyle: { opacity: 0 },
    } as const;
    out.push({ ...band, data: broken((p) => p.low!) });
    out.push({ ...band, data: broken((p) => p.high! - p.low!), areaStyle: { color: c.deep, opacity: 0.28 } });
  }
  out.push({
    id: row.key,
    name: row.name,
    type: "line",
    ...at,
    data: broken((p) => p.value).map((point, i) => {
      const p = drawn[i];
      const colour = { "in-band": c.sound, act: c.mend, stop: c.hold, refused: c.limit }[p?.band ?? ""] ?? c.deep;
      return {
        value: point,
        symbol: SHAPES[p?.band ?? "in-band"] ?? "diamond",
        symbolSize: p?.band ? 12 : alone.has(p?.at ?? 0) ? 5 : 0,
        itemStyle: { color: colour, borderColor: c.card, borderWidth: 1.5 },
      };
    }),
    showSymbol: true,
    showAllSymbol: true,
    connectNulls: false,
    lineStyle: { color: c.deep, width: 2.2 },
    itemStyle: { color: c.deep },
    markLine: {
      silent: true,
      symbol: "none",
      animation: false,
      data: [
        ...(row.limit === undefined
          ? []
          : [
              {
                yAxis: row.limit,
                lineStyle: { color: c.hold, type: "solid" as const, width: 2 },
                label: { position: "insideEndTop" as const, formatter: words.limit, color: c.hold, fontFamily: FONT, fontSize: 14 },
              },
            ]),
        ...events.map((e) => ({
          xAxis: e.at,
          lineStyle: { color: e.colour === "red" ? c.hold : e.colour === "amber" ? c.mend : c.ink, type: "dashed" as const, width: 1.6 },
          label: { show: false },
        })),
        ...(row.ahead !== undefined && row.limit !== undefined
          ? [
              [
                {
                  coord: [row.points.at(-1)!.at, row.points.at(-1)!.value],
                  lineStyle: { color: c.deep, type: "dotted" as const, width: 2 },
                },
                { coord: [row.ahead, row.limit] },
              ] as never,
            ]
          : []),
      ],
    },
    markArea: {
      silent: true,
      data: [
        ...(row.usual ? [[{ yAxis: row.usual[0], itemStyle: { color: c.sound, opacity: 0.14 } }, { yAxis: row.usual[1] }] as never] : []),
        ...(row.bands ?? []).map(
          (b) => [{ yAxis: b.low, itemStyle: { color: b.colour === "red" ? c.hold : c.mend, opacity: 0.17 } }, { yAxis: b.high }] as never,
        ),
      ],
    },
  });
  return out;
}

const safe = (s: string) => s.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/** What stands at a place: the time, each row's value there, and what happened near it. */
function told(all: unknown, rows: PlotRow[], events: PlotEvent[], ways: Ways): string {
  const list = (Array.isArray(all) ? all : [all]) as { seriesId?: string; axisValue?: number; value?: [number, number | null] }[];
  const at = Number(list[0]?.axisValue ?? list[0]?.value?.[0]);
  const lines = rows.flatMap((r) => {
    const hit = list.find((p) => p.seriesId === r.key)?.value;
    const point = hit && r.points.find((p) => p.at === hit[0]);
    if (!point) return [];
    return [
      `${rows.length > 1 ? `${safe(r.name)}: ` : ""}<b>${toldOf(point, ways.figure)} ${safe(r.unit)}</b>${point.by ? ` (${safe(point.by)})` : ""}`,
    ];
  });
  const span = spanOf(rows, ways.span);
  const near = events.filter((e) => Math.abs(e.at - at) < (span[1] - span[0]) / 60).map((e) => safe(e.says));
  return [safe(ways.time(at)), ...lines, ...near].join("<br>");
}
