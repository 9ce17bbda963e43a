import { QueryClient, useQuery } from "@tanstack/react-query";
import type { components } from "./schema.gen";

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

/** NoLink says that the server was not reached, or could not answer just now; nothing is known of what it did. */
export class NoLink extends Error {}

const away = "The notebook's server was not reached.";
/** How long an answer is waited for, in milliseconds: a file takes longer on its way. */
const patience = (body: string | undefined) => (body !== undefined && body.length > 100_000 ? 180_000 : 25_000);
/** Answers that say nothing of the request: later it may be answered. */
const passing = (status: number) => status >= 500 || status === 408 || status === 425 || status === 429;

export async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const text = body === undefined ? undefined : JSON.stringify(body);
  let answer: Response;
  let got: string;
  const late = new AbortController();
  const timer = setTimeout(() => late.abort(), patience(text));
  try {
    answer = await fetch(path, {
      method,
      headers: text === undefined ? {} : { "Content-Type": "application/json" },
      body: text,
      signal: late.signal,
    });
    got = await answer.text();
  } catch {
    throw new NoLink(away);
  } finally {
    clearTimeout(timer);
  }
  if (answer.ok) return (got === "" ? undefined : JSON.parse(got)) as T;
  let p: Schemas["Problem"] = { title: answer.statusText, status: answer.status };
  try {
    p = JSON.parse(got) as Schemas["Problem"];
  } catch {
    // A proxy's page: its status is all that it says.
  }
  const title = p.detail ? `${p.title}. ${p.detail}` : p.title;
  if (passing(answer.status) && path !== "/api/access") throw new NoLink(answer.status >= 502 && answer.status <= 504 ? away : title);
  if (answer.status === 401) dispatchEvent(new Event("locked-out"));
  throw new Trouble(answer.status, title, p.errors ?? [], p.conflict);
}

export const queries = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 2000, refetchOnWindowFocus: false, networkMode: "always", retry: (n, e) => e instanceof NoLink && n < 3 },
    mutations: { networkMode: "always" },
  },
});

export const useGet = <T>(path: string | null, options: { keep?: boolean } = {}) =>
  useQuery<T, Error>({
    queryKey: [path],
    queryFn: () => call<T>("GET", path as string),
    enabled: path !== null,
    placeholderData: options.keep ? (before) => before : undefined,
  });

export const useMe = () => useGet<Schemas["Me"]>("/api/me");
export const useReference = (region = 1) => useGet<Schemas["Reference"]>(`/api/reference?region=${region}`);
export const useOuting = (id: string | undefined) => useGet<Schemas["OutingDetail"]>(id ? `/api/outings/${id}` : null);
export const useDeployment = (id: string | undefined) => useGet<Schemas["DeploymentDetail"]>(id ? `/api/deployments/${id}` : null);

/** Fetch again whatever a write may have changed. */
export const refresh = () => queries.invalidateQueries();
