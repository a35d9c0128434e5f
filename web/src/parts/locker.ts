import { isOpen, store, type Kept, type KeptPen, type KeptPhoto, type LockedEntry } from "./device";
import { base64url, fromBase64url } from "./base64url";

/**
 * What stays on a device of somebody who signed out is locked: by a key of that person, which the server gives when they
 * sign in and this device forgets when they leave. It is sent locked, whoever is signed in then; the server opens it.
 * Where the page came without TLS the browser locks nothing.
 */
const LOCKER = "locker";
const NONCE = 12;
/** What is no one person's: it stays as it is. */
const EVERYBODYS = /^(site-key|life|covered|left|language\/.*|texts\/.*|drawing\/.*)$/;

interface Locker {
  person: string;
  key: CryptoKey;
}

const subtle = () => (window.isSecureContext ? window.crypto.subtle : undefined);

/** Keep the key of whoever signs in, so that no script can read it. */
export async function keepLocker(person: string, locker: string): Promise<void> {
  const key = await subtle()?.importKey("raw", fromBase64url(locker), "AES-GCM", false, ["encrypt", "decrypt"]);
  if (key) await store.kept.put({ key: LOCKER, value: { person, key } satisfies Locker });
  else await store.kept.delete(LOCKER);
}

async function locked(key: CryptoKey, data: Uint8Array<ArrayBuffer>, bound: string): Promise<Uint8Array<ArrayBuffer>> {
  const iv = crypto.getRandomValues(new Uint8Array(NONCE));
  const made = await subtle()!.encrypt({ name: "AES-GCM", iv, additionalData: new TextEncoder().encode(bound) }, key, data);
  const all = new Uint8Array(NONCE + made.byteLength);
  all.set(iv);
  all.set(new Uint8Array(made), NONCE);
  return all;
}

/** Something locked, in its form as text. */
async function lockedText(by: Locker, text: string, bound: string): Promise<string> {
  return `locked.${by.person}.${base64url(await locked(by.key, new TextEncoder().encode(text), bound))}`;
}

/** Lock what is on this device of whoever was signed in last, and forget their key. Cut off within, it is done again. */
export async function lockUp(): Promise<void> {
  const by = await store.keptAs<Locker>(LOCKER);
  if (!by) return;
  const entries = (await store.entries.filter((e) => e.by === by.person).toArray()).filter(isOpen);
  for (const e of entries) await lockEntry(by, e);
  for (const p of await store.photos.filter((x) => x.by === by.person && !x.locked).toArray()) await lockPhoto(by, p);
  for (const p of await store.pens.where("person").equals(by.person).toArray()) await lockPen(by, p);
  await store.kept.filter((k) => !EVERYBODYS.test(k.key) && k.key !== LOCKER && k.key !== "session").delete();
  await store.kept.delete(LOCKER);
}

async function lockEntry(by: Locker, e: Kept) {
  const { by: author, at, what, replaces, offset_ms, seal } = e;
  const text = JSON.stringify(seal ? { seal } : { by: author, at, what, replaces, offset_ms });
  const made = await lockedText(by, text, e.id);
  // How it stands with the server may have changed meanwhile: that stays as it is then.
  await store.entries
    .where("id")
    .equals(e.id)
    .modify((row) => {
      const { id, inspection, machine, by, at, state, says, took } = row;
      Object.keys(row).forEach((k) => delete (row as unknown as Record<string, unknown>)[k]);
      Object.assign(row, { id, inspection, machine, by, at, state, says, took, locked: made });
    });
}

async function lockPhoto(by: Locker, photo: KeptPhoto) {
  const made = await locked(by.key, new Uint8Array(await photo.blob.arrayBuffer()), photo.id);
  await store.photos.update(photo.id, { blob: new Blob([made]), locked: true });
}

/** Its secret opens nothing on this device any more, and its key signs nothing. */
async function lockPen(by: Locker, pen: KeptPen) {
  const secret = pen.secret.startsWith("locked.") ? pen.secret : await lockedText(by, pen.secret, "pen");
  await store.pens.update(pen.id, { secret, sealing: undefined });
}

/** Open what was locked of whoever signed in: what is still to be sent, and what was turned down, is theirs again. */
export async function openUp(): Promise<void> {
  const by = await store.keptAs<Locker>(LOCKER);
  if (!by) return;
  for (const e of await store.entries.filter((x) => x.by === by.person && "locked" in x).toArray()) {
    if (isOpen(e)) continue;
    const data = fromBase64url(e.locked.split(".")[2] ?? "");
    const additionalData = new TextEncoder().encode(e.id);
    // One that cannot be opened stays locked: the server says what is wrong with it.
    const text = await subtle()!
      .decrypt({ name: "AES-GCM", iv: data.slice(0, NONCE), additionalData }, by.key, data.slice(NONCE))
      .then((found) => new TextDecoder().decode(found))
      .catch(() => null);
    if (text === null) continue;
    await store.entries
      .where("id")
      .equals(e.id)
      .modify((row) => {
        delete (row as Partial<LockedEntry>).locked;
        Object.assign(row, opened(text));
      });
  }
}

/** The parts of an entry that were locked; of a sealed one they stand in its seal. */
function opened(text: string): Partial<Kept> {
  const found = JSON.parse(text) as Partial<Kept>;
  if (!found.seal) return found;
  const { what, replaces, offset_ms } = JSON.parse(new TextDecoder().decode(fromBase64url(found.seal.split(".")[1]!))) as Kept;
  return { what, replaces, offset_ms, seal: found.seal };
}
