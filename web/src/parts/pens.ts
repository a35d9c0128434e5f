import { base64url } from "./base64url";
import { store, type Kept, type KeptPen } from "./device";

/**
 * Pens that are key pairs: made here; the private half stays in the browser and cannot be read, not even by this page.
 * It needs TLS, or the same computer: elsewhere the browser makes none, and the pen is a secret as before.
 */
const crypto = () => (window.isSecureContext ? window.crypto.subtle : undefined);
export const canSeal = () => crypto() !== undefined;
const CURVE = { name: "ECDSA", namedCurve: "P-256" } as const;

const bytes = (text: string) => new TextEncoder().encode(text);

/** A pair for a new pen: its public half as it goes over the wire, and the private one; null where none can be made. */
export async function makePair(): Promise<{ key: string; sealing: CryptoKey } | null> {
  const subtle = crypto();
  if (!subtle) return null;
  const pair = await subtle.generateKey(CURVE, false, ["sign", "verify"]);
  return { key: base64url(await subtle.exportKey("spki", pair.publicKey)), sealing: pair.privateKey };
}

const SITE_KEY = "site-key";
/** The key by which the site vouches for pens, as this device learnt it when somebody signed in here first. */
export const siteKey = () => store.keptAs<string>(SITE_KEY);

/** Keep it, unless one is known already: whoever changes it on the server later is found out. */
export async function learnSiteKey(key: string): Promise<void> {
  if (!(await siteKey())) await store.kept.put({ key: SITE_KEY, value: key });
}

/** The newest pen of a person on this device that can seal. */
async function penOf(person: string): Promise<KeptPen | undefined> {
  const pens = (await store.pens.where("person").equals(person).toArray()).filter((p) => p.sealing);
  return pens.sort((a, b) => ((a.since ?? "") < (b.since ?? "") ? -1 : 1)).pop();
}

/** The entry sealed by its author's pen: compact JWS, ES256. As it was where no pen of theirs on this device can. */
export async function withSeal(entry: Kept): Promise<Kept> {
  const pen = canSeal() ? await penOf(entry.by) : undefined;
  if (!pen?.sealing) return entry;
  const { id, machine, inspection: stream, by, at, what, replaces, offset_ms } = entry;
  const head = base64url(bytes(JSON.stringify({ alg: "ES256", kid: pen.id })));
  const signed = `${head}.${base64url(bytes(JSON.stringify({ id, machine, stream, by, at, what, replaces, offset_ms })))}`;
  const signature = await crypto()!.sign({ name: "ECDSA", hash: "SHA-256" }, pen.sealing, bytes(signed));
  return { ...entry, seal: `${signed}.${base64url(signature)}` };
}
