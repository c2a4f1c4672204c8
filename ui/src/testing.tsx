import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { createMemoryRouter, type RouteObject, RouterProvider, useLocation } from "react-router";
import { vi } from "vitest";
import { MeProvider, ToastProvider } from "./api/actions";
import type { S } from "./api/client";
import { Toast } from "./areas/Shell";

/** Asked is a request as the server got it. */
export type Asked = { method: string; path: string; query: URLSearchParams; body: unknown };

type Answer = unknown | ((asked: Asked) => unknown);

/** refuse answers with a problem as the server writes one: a sentence, and one for each field. */
export function refuse(status: number, detail: string, fields: Record<string, string> = {}): Response {
  const errors = Object.entries(fields).map(([at, message]) => ({ location: `body.${at}`, message }));
  return Response.json({ status, detail, errors }, { status });
}

/** offline answers like a network that is not there. */
export const offline = () => {
  throw new TypeError("Failed to fetch");
};

/** server answers from a table of "GET /api/week" to what comes back, and keeps what it was asked. What is not in the table fails the test. */
export function server(answers: Record<string, Answer>) {
  const asked: Asked[] = [];
  const serve = async (input: RequestInfo | URL, init?: RequestInit): Promise<Response> => {
    const request = input instanceof Request ? input : new Request(new URL(String(input), location.origin), { ...init, signal: undefined });
    const url = new URL(request.url);
    const text = await request.text();
    const a: Asked = {
      method: request.method,
      path: decodeURIComponent(url.pathname),
      query: url.searchParams,
      body: text ? JSON.parse(text) : undefined,
    };
    asked.push(a);
    const key = `${a.method} ${a.path}`;
    if (!(key in answers)) throw new Error(`the test has no answer to ${key}`);
    const answer = answers[key];
    const out = typeof answer === "function" ? await answer(a) : answer;
    if (out instanceof Response) return out;
    return out === undefined ? new Response(null, { status: 204 }) : Response.json(out);
  };
  vi.stubGlobal("fetch", vi.fn(serve));
  return {
    asked,
    /** sent is the last request of a method and path. */
    sent: (method: string, path: string): Asked => {
      const found = asked.filter((a) => a.method === method && a.path === path).pop();
      if (!found) throw new Error(`${method} ${path} was not sent; there were ${asked.map((a) => `${a.method} ${a.path}`).join(", ")}`);
      return found;
    },
  };
}

/** me is somebody who is signed in. */
export const me = (more: Partial<S["Me"]> = {}): S["Me"] => ({
  person: "hana",
  account: "hana",
  name: "Hana Vell",
  academy: "Lantern Street Grappling Hall",
  roles: ["head instructor"],
  areas: [],
  home: "/today",
  may: [],
  wards: [],
  ...more,
});

function Where() {
  const { pathname, search } = useLocation();
  return <output data-testid="where">{pathname + search}</output>;
}

type Page = { at?: string; path?: string; may?: string[]; as?: Partial<S["Me"]> };

/** page shows an element as the application does: routed, with somebody signed in, what was done said at the foot. */
export function page(element: ReactNode, { at = "/", path = "*", may = [], as = {} }: Page = {}) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false, staleTime: 10_000 } } });
  const routes: RouteObject[] = [
    {
      path,
      element: (
        <>
          {element}
          <Toast />
          <Where />
        </>
      ),
    },
  ];
  if (path !== "*") routes.push({ path: "*", element: <Where /> });
  const router = createMemoryRouter(routes, { initialEntries: [at] });
  const user = userEvent.setup();
  const shown = render(
    <QueryClientProvider client={queries}>
      <ToastProvider>
        <MeProvider value={me({ may, ...as })}>
          <RouterProvider router={router} />
        </MeProvider>
      </ToastProvider>
    </QueryClientProvider>,
  );
  return { ...shown, user, router, queries, where: () => shown.getByTestId("where").textContent };
}

/** fileOf is a file as a person chooses it. */
export function fileOf(name: string, content: string | Uint8Array<ArrayBuffer>): File {
  const bytes = typeof content === "string" ? new TextEncoder().encode(content) : content;
  return Object.assign(new File([bytes], name), { arrayBuffer: async () => bytes.buffer });
}

/** high gives lists a height: they draw the rows one can see, and jsdom has no heights of its own. */
export function high(px: number) {
  vi.spyOn(Element.prototype, "clientHeight", "get").mockReturnValue(px);
}

/** tidy takes everything of a test away. */
export function tidy() {
  cleanup();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
  localStorage.clear();
  sessionStorage.clear();
}
