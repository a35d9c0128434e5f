/**
 * Keys of one's own (WebAuthn): what the server asks and what a key answers go as JSON, by the browser's own reading of
 * it where it has one. A browser that has none of it offers no keys.
 */
type Json = Record<string, unknown>;
interface Reads {
  parseCreationOptionsFromJSON?: (options: unknown) => PublicKeyCredentialCreationOptions;
  parseRequestOptionsFromJSON?: (options: unknown) => PublicKeyCredentialRequestOptions;
}
const reads = () => (typeof PublicKeyCredential === "undefined" ? null : (PublicKeyCredential as unknown as Reads));

/** Whether this browser can be asked for a key. */
export const canUseKeys = () => Boolean(reads()?.parseRequestOptionsFromJSON) && window.isSecureContext;

const told = (found: Credential | null) => (found as unknown as { toJSON: () => Json } | null)?.toJSON() ?? null;

/** A new key's answer; null: nobody gave one. */
export async function newKey(options: Json): Promise<Json | null> {
  const publicKey = reads()!.parseCreationOptionsFromJSON!(options);
  return told(await navigator.credentials.create({ publicKey }).catch(() => null));
}
/** A key's answer when somebody signs in; null: nobody gave one. */
export async function askKey(options: Json): Promise<Json | null> {
  const publicKey = reads()!.parseRequestOptionsFromJSON!(options);
  return told(await navigator.credentials.get({ publicKey }).catch(() => null));
}
