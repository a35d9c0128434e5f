import Dexie, { type Table } from "dexie";

import type { Schemas } from "../api/client";
import { offsetMs } from "./clock";

export type What = NonNullable<Schemas["EntryIn"]["what"]>;

/** What of an entry on this device stands open. `state`: 0 waits to be sent, 1 the server has it, 2 the server said a final no. */
interface Row {
  id: string;
  inspection: string;
  machine: string;
  by: string;
  at: string;
  state: 0 | 1 | 2;
  says?: string;
  /** When the server took it, by the server's clock. */
  took?: string;
}

/** An entry on this device. */
export interface Kept extends Row {
  what: What;
  replaces: string[];
  offset_ms: number | null;
  /** The same as its author's pen sealed it, where that can. */
  seal?: string;
}

/** One whose author signed out: it can be sent, and read by the server alone. */
export interface EncryptedEntry extends Row {
  encrypted: string;
}

export const isOpen = (e: Kept | EncryptedEntry): e is Kept => "what" in e && e.what !== undefined;

export interface KeptPhoto {
  id: string;
  inspection: string;
  by: string;
  at: string;
  blob: Blob;
  /** Its author signed out: the server alone can read it. */
  encrypted?: boolean;
  state: 0 | 1 | 2;
  says?: string;
  took?: string;
}

/** What lets entries of a person be sent by whoever is signed in later: they are sealed by it, or its secret is shown. */
export interface KeptPen {
  id: string;
  person: string;
  secret: string;
  ends_at: string;
  /** When it was given, by this device's clock: pens of one shift all end with it. */
  since?: string;
  /** The private half of its key pair, which no script can read, and the site's word for it. */
  sealing?: CryptoKey;
  certificate?: string;
}

class DeviceStore extends Dexie {
  entries!: Table<Kept | EncryptedEntry, string>;
  photos!: Table<KeptPhoto, string>;
  pens!: Table<KeptPen, string>;
  kept!: Table<{ key: string; value: unknown }, string>;

  /** What was kept under a key, as it was put there. */
  async keptAs<T>(key: string): Promise<T | null> {
    return ((await this.kept.get(key))?.value as T | undefined) ?? null;
  }

  constructor() {
    super("jutrel");
    this.version(1).stores({ entries: "id, inspection, state", photos: "id, inspection, state", kept: "key" });
    this.version(2)
      .stores({ entries: "id, inspection, state", photos: "id, inspection, state", pens: "id, person", kept: "key" })
      .upgrade(async (tx) => {
        await tx
          .table("entries")
          .toCollection()
          .modify((e: Kept) => Object.assign(e, { replaces: e.replaces ?? [], offset_ms: e.offset_ms ?? null }));
        await tx
          .table("photos")
          .toCollection()
          .modify((p: KeptPhoto) => Object.assign(p, { by: p.by ?? "", at: p.at ?? new Date().toISOString() }));
      });
  }
}

/** Everything a person taps is written here before anything else happens. */
export const store = new DeviceStore();

/** After a shift what the server has, and a backup of it too, is on the device no longer. */
const SHIFT_MS = 14 * 3600 * 1000;
const PEN_MS = 30 * 24 * 3600 * 1000;

/**
 * Take away what the server took and the shift no longer needs. `covered`: until when a backup has it; what came later
 * stays for thirty days, so that it can be sent again to a server that was put back. What waits stays, however old.
 */
export async function purge(covered: string | null, now = Date.now()) {
  const [shift, old] = [SHIFT_MS, PEN_MS].map((ms) => new Date(now - ms).toISOString()) as [string, string];
  const done = (x: Pick<Row, "at" | "took">) => x.at < old || (x.at < shift && covered !== null && (x.took ?? x.at) <= covered);
  await store.entries.where("state").equals(1).and(done).delete();
  await store.photos.where("state").equals(1).and(done).delete();
  const waiting = new Set((await store.entries.where("state").notEqual(1).toArray()).map((e) => e.by));
  await store.pens.filter((p) => Date.parse(p.ends_at) < now - PEN_MS && !waiting.has(p.person)).delete();
  await store.kept.filter((k) => /^(walk|inspection|way)\//.test(k.key) && idTime(k.key.split("/")[1]!) < now - 3 * SHIFT_MS).delete();
}

/** The time that a UUIDv7 carries, ms. */
const idTime = (id: string) => parseInt(id.replaceAll("-", "").slice(0, 12), 16);

/** The share of the device's room that is used, or null where it does not say. */
export async function roomUsed(): Promise<number | null> {
  const told = await navigator.storage?.estimate?.().catch(() => null);
  return told?.quota ? (told.usage ?? 0) / told.quota : null;
}

/** A label for this device that lasts; it is a name, nothing more. */
export function deviceName(): string {
  let name = localStorage.getItem("jutrel-device");
  if (!name) {
    name = "tablet-" + crypto.getRandomValues(new Uint32Array(1))[0]!.toString(36);
    localStorage.setItem("jutrel-device", name);
  }
  return name;
}

/** A copy without Vue's proxies, which IndexedDB cannot take. */
export const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** A new entry of a person in a look, made now. */
export function newEntry(machine: string, inspection: string, by: string, what: What, replaces: string[] = []): Kept {
  const now = Date.now();
  return {
    id: uuid7(now),
    inspection,
    machine,
    by,
    at: new Date(now).toISOString(),
    what: plain(what),
    replaces: plain(replaces),
    offset_ms: offsetMs(),
    state: 0,
  };
}

let lastMs = 0;
let counter = 0;

/** A UUID version 7 (RFC 9562), strictly increasing on this device. */
export function uuid7(now = Date.now()): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  if (now <= lastMs) {
    counter += 1;
    if (counter > 0xfff) {
      lastMs += 1;
      counter = 0;
    }
  } else {
    lastMs = now;
    counter = bytes[7]! & 0x7f;
  }
  for (let i = 0, ms = lastMs; i < 6; i++, ms = Math.floor(ms / 256)) bytes[5 - i] = ms % 256;
  bytes[6] = 0x70 | (counter >> 8);
  bytes[7] = counter & 0xff;
  bytes[8] = 0x80 | (bytes[8]! & 0x3f);
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

/** An id for something that is no entry. Works without a secure context, unlike randomUUID. */
export const freshId = (): string => uuid7();

/** A random id. */
export function uuid4(): string {
  const b = crypto.getRandomValues(new Uint8Array(16));
  b[6] = 0x40 | (b[6]! & 0x0f);
  b[8] = 0x80 | (b[8]! & 0x3f);
  const h = [...b].map((x) => x.toString(16).padStart(2, "0")).join("");
  return [h.slice(0, 8), h.slice(8, 12), h.slice(12, 16), h.slice(16, 20), h.slice(20)].join("-");
}
