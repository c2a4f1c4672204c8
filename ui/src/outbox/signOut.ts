import { client, unwrap } from "../api/client";
import { tr } from "../kit/tr";
import { empty, waiting } from "./outbox";

/** forget takes off the device what was kept there for the mat, and what was read as whoever was signed in. */
async function forget() {
  for (const key of Object.keys(localStorage)) if (key.startsWith("vereda-clock")) localStorage.removeItem(key);
  localStorage.removeItem("vereda-who");
  await empty().catch(() => undefined);
  if ("caches" in window) await caches.delete("mat");
}

/** signOut ends the session and leaves the device empty, whichever page it is pressed on. It asks first where something was not sent yet. */
export async function signOut() {
  const left = (await waiting().catch(() => [])).length;
  if (
    left > 0 &&
    !window.confirm(tr("{{left}} things from the mat were not sent yet. Signing out deletes them from this device.", { left }))
  )
    return;
  await unwrap(client.DELETE("/api/session")).catch(() => undefined);
  await forget();
  location.assign("/"); // a fresh page forgets everything that was shown
}
