/** Ground is what the pages stand on: as the device wants it, or paper or dark as was chosen on this device. */
export type Ground = "device" | "light" | "dark";

const store = "vereda-ground";
const wantsDark = () => window.matchMedia("(prefers-color-scheme: dark)");

export function groundNow(): Ground {
  const kept = localStorage.getItem(store);
  return kept === "light" || kept === "dark" ? kept : "device";
}

export function setGround(ground: Ground) {
  if (ground === "device") localStorage.removeItem(store);
  else localStorage.setItem(store, ground);
  show();
}

/** startGround puts the ground where the style sheet reads it, and follows the device when it changes its mind. */
export function startGround() {
  show();
  wantsDark().addEventListener("change", show);
}

function show() {
  const ground = groundNow();
  document.documentElement.dataset.ground = ground === "device" ? (wantsDark().matches ? "dark" : "light") : ground;
}
