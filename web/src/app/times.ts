import { locale } from "./language";

/** Times are UTC on the wire and shown in the site's zone. */
function format(at: string, zone: string, options: Intl.DateTimeFormatOptions): string {
  const date = new Date(at);
  return Number.isNaN(date.getTime()) ? "" : new Intl.DateTimeFormat(locale.value, { timeZone: zone, ...options }).format(date);
}

export const dayAndTime = (at: string, zone: string) =>
  format(at, zone, { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
/** A day, with its year where that is another one. */
export const day = (at: string, zone: string) =>
  format(at, zone, {
    day: "numeric",
    month: "short",
    ...(format(at, zone, { year: "numeric" }) === format(new Date().toISOString(), zone, { year: "numeric" }) ? {} : { year: "numeric" }),
  });
export const clock = (at: string, zone: string) => format(at, zone, { hour: "2-digit", minute: "2-digit" });

/** Minutes and seconds, as on a stop watch. */
export function stopwatch(seconds: number): string {
  const s = Math.max(0, Math.round(seconds));
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}
