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
  /** away says that nothing is wrong with what was asked: the network or the server is not there now, and it can be sent again. */
  get away(): boolean {
    return isAway(this.status);
  }
}

/** isAway says whether an answer's status means that asking later may help; 0 is no answer at all. */
export const isAway = (status: number) => status === 0 || status >= 500 || [408, 425, 429].includes(status);

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
