import { isOpen, store, type Kept, type KeptPen, type KeptPhoto, type EncryptedEntry } from "./device";
import { base64url, fromBase64url } from "./base64url";

/**
 * What stays on a device of somebody who signed out is encrypted: by a key of that person, which the server gives when they
 * sign in and this device forgets when they leave. It is sent encrypted, whoever is signed in then; the server opens it.
 * Where the page came without TLS the browser encrypts nothing.
 */
const TABLET_KEY = "tablet_key";
const NONCE = 12;
/** What is no one person's: it stays as it is. */
const EVERYBODYS = /^(site-key|life|covered|left|language\/.*|texts\/.*|drawing\/.*)$/;

interface TabletKey {
  person: string;
  key: CryptoKey;
}

const subtle = () => (window.isSecureContext ? window.crypto.subtle : undefined);

/** Keep the key of whoever signs in, so that no script can read it. */
export async function keepTabletKey(person: string, tablet_key: string): Promise<void> {
  const key = await subtle()?.importKey("raw", fromBase64url(tablet_key), "AES-GCM", false, ["encrypt", "decrypt"]);
  if (key) await store.kept.put({ key: TABLET_KEY, value: { person, key } satisfies TabletKey });
  else await store.kept.delete(TABLET_KEY);
}

async function encrypted(key: CryptoKey, data: Uint8Array<ArrayBuffer>, bound: string): Promise<Uint8Array<ArrayBuffer>> {
  const iv = crypto.getRandomValues(new Uint8Array(NONCE));
  const made = await subtle()!.encrypt({ name: "AES-GCM", iv, additionalData: new TextEncoder().encode(bound) }, key, data);
  const all = new Uint8Array(NONCE + made.byteLength);
  all.set(iv);
  all.set(new Uint8Array(made), NONCE);
  return all;
}

/** Something encrypted, in its form as text. */
async function encryptedText(by: TabletKey, text: string, bound: string): Promise<string> {
  return `encrypted.${by.person}.${base64url(await encrypted(by.key, new TextEncoder().encode(text), bound))}`;
}

/** Encrypt what is on this device of whoever was signed in last, and forget their key. Cut off within, it is done again. */
export async function encryptAll(): Promise<void> {
  const by = await store.keptAs<TabletKey>(TABLET_KEY);
  if (!by) return;
  const entries = (await store.entries.filter((e) => e.by === by.person).toArray()).filter(isOpen);
  for (const e of entries) await encryptEntry(by, e);
  for (const p of await store.photos.filter((x) => x.by === by.person && !x.encrypted).toArray()) await encryptPhoto(by, p);
  for (const p of await store.pens.where("person").equals(by.person).toArray()) await encryptPen(by, p);
  await store.kept.filter((k) => !EVERYBODYS.test(k.key) && k.key !== TABLET_KEY && k.key !== "session").delete();
  await store.kept.delete(TABLET_KEY);
}

async function encryptEntry(by: TabletKey, e: Kept) {
  const { by: author, at, what, replaces, offset_ms, seal } = e;
  const text = JSON.stringify(seal ? { seal } : { by: author, at, what, replaces, offset_ms });
  const made = await encryptedText(by, text, e.id);
  // How it stands with the server may have changed meanwhile: that stays as it is then.
  await store.entries
    .where("id")
    .equals(e.id)
    .modify((row) => {
      const { id, inspection, machine, by, at, state, says, took } = row;
      Object.keys(row).forEach((k) => delete (row as unknown as Record<string, unknown>)[k]);
      Object.assign(row, { id, inspection, machine, by, at, state, says, took, encrypted: made });
    });
}

async function encryptPhoto(by: TabletKey, photo: KeptPhoto) {
  const made = await encrypted(by.key, new Uint8Array(await photo.blob.arrayBuffer()), photo.id);
  await store.photos.update(photo.id, { blob: new Blob([made]), encrypted: true });
}

/** Its secret opens nothing on this device any more, and its key signs nothing. */
async function encryptPen(by: TabletKey, pen: KeptPen) {
  const secret = pen.secret.startsWith("encrypted.") ? pen.secret : await encryptedText(by, pen.secret, "pen");
  await store.pens.update(pen.id, { secret, sealing: undefined });
}

/** Open what was encrypted of whoever signed in: what is still to be sent, and what was turned down, is theirs again. */
export async function openUp(): Promise<void> {
  const by = await store.keptAs<TabletKey>(TABLET_KEY);
  if (!by) return;
  for (const e of await store.entries.filter((x) => x.by === by.person && "encrypted" in x).toArray()) {
    if (isOpen(e)) continue;
    const data = fromBase64url(e.encrypted.split(".")[2] ?? "");
    const additionalData = new TextEncoder().encode(e.id);
    // One that cannot be opened stays encrypted: the server says what is wrong with it.
    const text = await subtle()!
      .decrypt({ name: "AES-GCM", iv: data.slice(0, NONCE), additionalData }, by.key, data.slice(NONCE))
      .then((found) => new TextDecoder().decode(found))
      .catch(() => null);
    if (text === null) continue;
    await store.entries
      .where("id")
      .equals(e.id)
      .modify((row) => {
        delete (row as Partial<EncryptedEntry>).encrypted;
        Object.assign(row, opened(text));
      });
  }
}

/** The parts of an entry that were encrypted; of a sealed one they stand in its seal. */
function opened(text: string): Partial<Kept> {
  const found = JSON.parse(text) as Partial<Kept>;
  if (!found.seal) return found;
  const { what, replaces, offset_ms } = JSON.parse(new TextDecoder().decode(fromBase64url(found.seal.split(".")[1]!))) as Kept;
  return { what, replaces, offset_ms, seal: found.seal };
}
