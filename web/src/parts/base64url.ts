/** Bytes as base64url without padding (RFC 4648). */
export function base64url(data: ArrayBuffer | Uint8Array): string {
  let text = "";
  for (const byte of new Uint8Array(data)) text += String.fromCharCode(byte);
  return btoa(text).replace(/\+/g, "-").replace(/\//g, "_").replace(/=+$/, "");
}

/** The bytes that base64url stands for. */
export const fromBase64url = (text: string): Uint8Array<ArrayBuffer> =>
  Uint8Array.from(atob(text.replace(/-/g, "+").replace(/_/g, "/")), (c) => c.charCodeAt(0));
