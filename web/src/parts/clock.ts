/** How far the server's clock is ahead of this device's, ms, as last measured; null: never. */
const KEY = "jutrel-offset";
let offset: number | null = Number.isFinite(Number(localStorage.getItem(KEY) ?? "x")) ? Number(localStorage.getItem(KEY)) : null;

export const offsetMs = () => offset;

/** Note what the server's clock said in an answer to a call that was sent at `sent`. */
export function measure(sent: number, said: string) {
  const back = Date.now();
  const at = Date.parse(said);
  if (Number.isNaN(at)) return;
  offset = Math.round(at - (sent + back) / 2);
  localStorage.setItem(KEY, String(offset));
}
