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
  ) {
    super(title);
  }

  /** All of it in one line, for places without fields. */
  get whole(): string {
    return [this.message, ...this.fields.map((f) => f.detail)].join(": ");
  }
}

/** NoLink says that the server was not reached; nothing is known of what it did. */
export class NoLink extends Error {}

export async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(path, {
      method,
      headers: body === undefined ? {} : { "Content-Type": "application/json" },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    throw new NoLink("The notebook's server was not reached.");
  }
  if (answer.ok) return (await answer.json()) as T;
  if (answer.status >= 502 && answer.status <= 504) throw new NoLink("The notebook's server was not reached.");
  const p = (await answer.json().catch(() => ({ title: answer.statusText, status: answer.status }))) as Schemas["Problem"];
  throw new Trouble(answer.status, p.detail ? `${p.title}. ${p.detail}` : p.title, p.errors ?? []);
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
