import type { Schemas } from "../api/client";
import { siteKey } from "../parts/pens";

/** The seals of a record, checked here: who wrote an entry does not rest on the server's word. */
export interface CheckedSeals {
  sealed: number;
  bare: number;
  wrong: Schemas["RecordEntry"][];
  /** The record goes by another key than the one this device knows its site by. */
  strange: boolean;
}

const CURVE = { name: "ECDSA", namedCurve: "P-256" } as const;
const HASH = { name: "ECDSA", hash: "SHA-256" } as const;
const TIMES = new Set(["at"]);

const bytes = (text: string) => Uint8Array.from(atob(text.replace(/-/g, "+").replace(/_/g, "/")), (c) => c.charCodeAt(0));
const said = (jws: string) => JSON.parse(new TextDecoder().decode(bytes(jws.split(".")[1] ?? ""))) as Record<string, unknown>;
const importKey = (key: string) => window.crypto.subtle.importKey("spki", bytes(key), CURVE, false, ["verify"]);

async function holds(jws: string, key: CryptoKey): Promise<boolean> {
  const cut = jws.lastIndexOf(".");
  return window.crypto.subtle.verify(HASH, key, bytes(jws.slice(cut + 1)), new TextEncoder().encode(jws.slice(0, cut)));
}

/** Nothing said: what the server writes down for a field that the device left out. */
const nothing = (x: unknown): boolean =>
  x === null || x === undefined || x === "" || x === false || (typeof x === "object" && Object.values(x as object).every(nothing));

function same(sealed: unknown, recorded: unknown, field = ""): boolean {
  if (nothing(sealed) && nothing(recorded)) return true;
  if (Array.isArray(sealed) && Array.isArray(recorded)) {
    const [a, b] = field === "replaces" ? [[...sealed].sort(), [...recorded].sort()] : [sealed, recorded];
    return a.length === b.length && a.every((x, i) => same(x, b[i]));
  }
  if (sealed && recorded && typeof sealed === "object" && typeof recorded === "object") {
    const [a, b] = [sealed as Record<string, unknown>, recorded as Record<string, unknown>];
    return [...new Set([...Object.keys(a), ...Object.keys(b)])].every((k) => same(a[k], b[k], k));
  }
  if (TIMES.has(field)) return Date.parse(String(sealed)) === Date.parse(String(recorded));
  return sealed === recorded;
}

async function right(e: Schemas["RecordEntry"], machine: string, certificate: string | undefined, site: CryptoKey): Promise<boolean> {
  try {
    if (!certificate || !(await holds(certificate, site))) return false;
    const pen = said(certificate);
    if (pen.pen !== e.pen || pen.person !== e.by || pen.role !== e.role) return false;
    if (!(await holds(e.seal ?? "", await importKey(String(pen.key))))) return false;
    const { kind, ...what } = said(e.seal ?? "").what as Record<string, unknown>;
    const meant = said(e.seal ?? "");
    if (kind !== e.kind || meant.machine !== machine || meant.stream !== e.stream) return false;
    return (["id", "by", "at", "replaces", "offset_ms"] as const).every((k) => same(meant[k], e[k], k)) && same(what, e.what);
  } catch {
    return false; // no key, no letters, no JSON: whatever it is, nobody sealed it
  }
}

/** Null: this browser cannot, because the page came without TLS. */
export async function checkSeals(record: Schemas["Record"]): Promise<CheckedSeals | null> {
  if (!window.isSecureContext) return null;
  const entries = [...record.entries, ...record.others];
  const sealed = entries.filter((e) => e.seal);
  const known = await siteKey();
  const strange = sealed.length > 0 && known !== record.site.key;
  const out: CheckedSeals = { sealed: 0, bare: record.entries.filter((e) => !e.seal).length, wrong: [], strange };
  const site = known ? await importKey(known) : null;
  for (const e of sealed) {
    if (site && (await right(e, record.machine.id, record.pens?.[e.pen], site))) out.sealed += record.entries.includes(e) ? 1 : 0;
    else out.wrong.push(e);
  }
  return out;
}
