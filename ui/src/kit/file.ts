import type { S } from "../api/client";

/** textFile reads a chosen file as the server takes files: its name, and its bytes in base 64. */
export async function textFile(file: File): Promise<S["ExchangeTextFile"]> {
  let bytes = "";
  for (const b of new Uint8Array(await file.arrayBuffer())) bytes += String.fromCharCode(b);
  return { name: file.name, text: btoa(bytes) };
}
