import Dexie, { type Table } from "dexie";

import type { Schemas } from "../api/client";

export type What = Schemas["EntryIn"]["what"];

/** An entry on this device. `state`: 0 waits to be sent, 1 the server has it, 2 refused. */
export interface Kept {
  id: string;
  inspection: string;
  machine: string;
  by: string;
  at: string;
  what: What;
  state: 0 | 1 | 2;
  says?: string;
}

export interface KeptPhoto {
  id: string;
  inspection: string;
  blob: Blob;
  state: 0 | 1;
}

class DeviceStore extends Dexie {
  entries!: Table<Kept, string>;
  photos!: Table<KeptPhoto, string>;
  kept!: Table<{ key: string; value: unknown }, string>;

  constructor() {
    super("jutrel");
    this.version(1).stores({ entries: "id, inspection, state", photos: "id, inspection, state", kept: "key" });
  }
}

/** Everything a person taps is written here before anything else happens. */
export const store = new DeviceStore();

/** A name for this device that lasts; it is in every session. */
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
