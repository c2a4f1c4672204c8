import createClient from "openapi-fetch";
import { language, tr } from "../kit/tr";
import type { components, paths } from "./schema";

export type S = components["schemas"];

/** client speaks to the server that served this page; its types are generated from the server's own description. */
export const client = createClient<paths>({
  baseUrl: location.origin,
  headers: { "Accept-Language": language() },
  fetch: (request) => fetch(request),
});

/** Trouble is what the server said was wrong: a sentence, and a sentence for each field it names. */
export class Trouble extends Error {
  readonly status: number;
  readonly fields: Record<string, string>;
  constructor(status: number, detail: string, fields: Record<string, string>) {
    super(detail);
    this.status = status;
    this.fields = fields;
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** unwrap returns what came, or throws the Trouble. */
export async function unwrap<T>(answer: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await answer;
  } catch {
    throw new Trouble(0, tr("The server does not answer. What you wrote is still here; try again in a moment."), {});
  }
  if (got.response.ok) return got.data as T;
  const problem = (got.error ?? {}) as S["ErrorModel"];
  const fields: Record<string, string> = {};
  for (const e of problem.errors ?? []) {
    if (e.location) fields[e.location.replace(/^body\./, "")] = e.message ?? "";
  }
  throw new Trouble(got.response.status, problem.detail ?? tr("The server refused this."), fields);
}
