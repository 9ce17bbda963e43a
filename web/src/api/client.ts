import { QueryClient, useQuery } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import { useSyncExternalStore } from "react";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Length = Schemas["Length"];
export type Built = Schemas["Built"];
export type Tag = Schemas["Tag"];

/** Trouble is an answer that says what went wrong, and at which field. */
export class Trouble extends Error {
  constructor(
    readonly status: number,
    title: string,
    readonly fields: Schemas["FieldError"][] = [],
    readonly conflict?: Schemas["Conflict"],
  ) {
    super(title);
  }

  /** All of it in one line, for places without fields. */
  get whole(): string {
    return [this.message, ...this.fields.map((f) => f.detail)].join(": ");
  }
}

/** What went wrong as it is said of no field: what is wrong with each, or all of it. */
export const wrong = (e: Error): string =>
  e instanceof Trouble && e.fields.length > 0 ? e.fields.map((f) => f.detail).join("; ") : e.message;

/** NoLink says that the server was not reached, or could not answer just now; nothing is known of what it did. */
export class NoLink extends Error {}

const away = "The notebook's server was not reached.";
export const elsewhere = "Something else answers at the notebook's address, perhaps a network that wants a login first.";
/** How long an answer is waited for, in milliseconds: a file takes longer on its way. */
const patience = (size: number) => (size > 100_000 ? 180_000 : 25_000);
/** Answers that say nothing of the request: later it may be answered. */
const passing = (status: number) => status >= 500 || status === 408 || status === 425 || status === 429;

/** This page's name, so that its own changes are not announced to it. */
export const page = Math.random().toString(36).slice(2);

/** By how many milliseconds the notebook's clock is ahead of this device's, from its last answer. */
let clockAhead = 0;
const clockListeners = new Set<() => void>();
function noteClock(answer: Response) {
  const at = Date.parse(answer.headers.get("Date") ?? "");
  if (Number.isNaN(at)) return;
  const before = Math.abs(clockAhead) > mostOff;
  clockAhead = at - Date.now();
  if (Math.abs(clockAhead) > mostOff !== before) for (const l of clockListeners) l();
}
/** How far two clocks may be apart, in milliseconds: an answer takes a while, and its time has whole seconds. */
const mostOff = 90_000;

/** By how many minutes this device's clock is off the notebook's, 0 while it is near enough. */
export const useClockOff = () =>
  useSyncExternalStore(
    (l) => {
      clockListeners.add(l);
      return () => clockListeners.delete(l);
    },
    () => (Math.abs(clockAhead) > mostOff ? Math.round(-clockAhead / 60_000) : 0),
  );

/** Fetches, and gives up when no answer comes. */
async function patient(request: Request): Promise<Response> {
  request.headers.set("X-Page", page);
  const late = new AbortController();
  const size = request.body ? (await request.clone().blob()).size : 0;
  const timer = setTimeout(() => late.abort(), patience(size));
  try {
    const answer = await fetch(request, { signal: late.signal });
    // What was read may come from the browser's own store, with the time of then.
    if (request.method !== "GET") noteClock(answer);
    // Its body may still not come: it is waited for here.
    return new Response(answer.status === 204 ? null : await answer.arrayBuffer(), answer);
  } catch {
    throw new NoLink(away);
  } finally {
    clearTimeout(timer);
  }
}

/** The contract's paths, typed. */
export const wire = createClient<paths>({ fetch: patient });

/** The answer of a call through the wire; a refusal is thrown as Trouble, a lost link as NoLink. */
export async function answered<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got: { data?: T; error?: unknown; response: Response };
  try {
    got = await call;
  } catch (e) {
    // Another page answers in the notebook's place, as where a network wants a login first.
    if (e instanceof SyntaxError) throw new NoLink(elsewhere);
    throw e;
  }
  const { data, error, response } = got;
  if (response.ok) return data as T;
  const p: Schemas["Problem"] =
    typeof error === "object" && error !== null && "title" in error
      ? (error as Schemas["Problem"])
      : { title: response.statusText, status: response.status }; // a proxy's page: its status is all that it says
  const title = p.detail ? `${p.title}. ${p.detail}` : p.title;
  if (passing(response.status) && !response.url.endsWith("/api/access"))
    throw new NoLink(response.status >= 502 && response.status <= 504 ? away : title);
  if (response.status === 401) dispatchEvent(new Event("locked-out"));
  throw new Trouble(response.status, title, p.errors ?? [], p.conflict);
}

type Method = "get" | "put" | "post" | "delete";
/** The paths of the contract that have a method. */
export type With<M extends Method> = { [P in keyof paths]: paths[P][M] extends object ? P : never }[keyof paths];
type Op<P extends keyof paths, M extends Method> = NonNullable<paths[P][M]>;
/** What a path answers. */
export type Answer<P extends keyof paths, M extends Method> =
  Op<P, M> extends { responses: { 200: { content: { "application/json": infer T } } } } ? T : undefined;
/** What a path is sent. */
export type Body<P extends keyof paths, M extends Method> =
  Op<P, M> extends { requestBody: { content: { "application/json": infer T } } } ? T : undefined;
/** What stands in a path, and behind it. */
export interface At {
  path?: Record<string, string>;
  query?: Record<string, string | number | undefined>;
}

/** A path with what stands in it filled in. */
export function filled(path: string, at: At = {}) {
  const query = new URLSearchParams();
  for (const [k, v] of Object.entries(at.query ?? {})) if (v !== undefined) query.set(k, String(v));
  const tail = query.size > 0 ? `?${query}` : "";
  return path.replace(/\{(\w+)\}/g, (_, k: string) => encodeURIComponent(at.path?.[k] ?? "")) + tail;
}

export const queries = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 2000, refetchOnWindowFocus: false, networkMode: "always", retry: (n, e) => e instanceof NoLink && n < 3 },
    mutations: { networkMode: "always" },
  },
});

/** The query of what a path answers. */
const queryOf = <P extends With<"get">>(path: P, at: At | null) => ({
  queryKey: [path, at],
  queryFn: () => answered(wire.GET(path as never, { params: at } as never)) as Promise<Answer<P, "get">>,
});

/** Fetches what a page will ask for, before it does; what goes wrong is told to the page that asks. */
export const ahead = <P extends With<"get">>(path: P, at: At = {}): Promise<Answer<P, "get"> | undefined> =>
  queries.fetchQuery(queryOf(path, at)).catch(() => undefined);

/** What a path answers, kept and fetched anew; null does not ask. */
export const useGet = <P extends With<"get">>(path: P, at: At | null = {}, options: { keep?: boolean } = {}) =>
  useQuery<Answer<P, "get">, Error>({
    ...queryOf(path, at),
    enabled: at !== null,
    placeholderData: options.keep ? (before: Answer<P, "get"> | undefined) => before as never : undefined,
  });

export const useMe = () => useGet("/api/me");
export const useReference = (region = 1) => useGet("/api/reference", { query: { region } });
export const useOuting = (id: string | undefined) => useGet("/api/outings/{id}", id ? { path: { id } } : null);
export const useDeployment = (id: string | undefined) => useGet("/api/deployments/{id}", id ? { path: { id } } : null);

/** Fetch again whatever a write may have changed. */
export const refresh = () => queries.invalidateQueries();
