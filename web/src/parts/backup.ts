import { call } from "../api/client";
import { store } from "./device";

const LIFE = "life";
const COVERED = "covered";

/** Until when a backup of the server has what it took, as this device heard last; null: not known. */
export const coveredUntil = () => store.keptAs<string>(COVERED);

/**
 * Ask how far backups reach. True if the server was put back from one since this device asked last: then everything that
 * it took before waits again, and is sent once more; what it has is known there by its id.
 */
export async function putBackSince(): Promise<boolean> {
  const reply = await call("get", "/api/site/backup");
  if (!reply.ok) return false;
  const { life, covered } = reply.data;
  const before = await store.keptAs<string>(LIFE);
  const other = before !== null && before !== life;
  if (other) {
    await store.entries.where("state").equals(1).modify({ state: 0 });
    await store.photos.where("state").equals(1).modify({ state: 0 });
  }
  await store.kept.put({ key: COVERED, value: covered });
  // Last: whoever is cut off before this asks again, and sends twice at worst.
  await store.kept.put({ key: LIFE, value: life });
  return other;
}
