/** A browser that went to the company's page: by what it is known when it comes back, what for, and the page after that. */
interface Gone {
  state: string;
  adds: boolean;
  to: string;
}
const KEPT = "jutrel-company";

/** Go there. */
export function goToCompany(asked: { address: string; state: string }, adds: boolean, to: string) {
  sessionStorage.setItem(KEPT, JSON.stringify({ state: asked.state, adds, to } satisfies Gone));
  window.location.assign(asked.address);
}
/** Who went, if it is this browser that comes back with that state; once. */
export function cameBack(state: string): Gone | null {
  const kept = sessionStorage.getItem(KEPT);
  sessionStorage.removeItem(KEPT);
  const gone = kept ? (JSON.parse(kept) as Gone) : null;
  return gone?.state === state ? gone : null;
}
