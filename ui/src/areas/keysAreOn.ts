export const keysStore = "vereda-keys";

/** keysAreOn: single keys can be turned off, for those who speak to their machine. */
export function keysAreOn(): boolean {
  return localStorage.getItem(keysStore) !== "off";
}
