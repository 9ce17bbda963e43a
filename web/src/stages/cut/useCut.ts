import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { type UseFormReturn, useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { answered, NoLink, type Schemas, useDeployment, useMe, useReference, wire } from "../../api/client";
import { send } from "../../api/outbox";
import { showTrouble, useFormDraft, useLater, useSteady } from "../../parts/draft";
import { keepDeployment, lastDeployment } from "../../parts/place";
import { useComputed } from "../../parts/useComputed";
import { blank, empty, type Form, rename, solvedFor, toForm, toRequest } from "./plan";
import { measuredFields } from "./Sheet";

/** What is looked at: a plan that is kept, a new one, or the cut lists beside each other. */
export function usePicked(outing: Schemas["OutingDetail"]) {
  const id = outing.outing.id;
  const [at, setAt] = useState(() => {
    const last = lastDeployment(id);
    return outing.tags.find((t) => t.id === last)?.id ?? "new";
  });
  const pick = (next: string) => {
    setAt(next);
    if (next !== "new" && next !== "beside") keepDeployment(id, next);
  };
  return { at, pick };
}

/** The form of the plan that is looked at. */
export function usePlanForm(outing: string, at: string) {
  const me = useMe();
  const reference = useReference();
  const imperial = me.data?.imperial ?? false;
  const chosen = useDeployment(at === "new" || at === "beside" ? undefined : at);
  const families = reference.data?.families;
  const from = useMemo(
    () => (at === "new" ? families && blank(families) : chosen.data && toForm(chosen.data)),
    [at, chosen.data, families],
  );
  const form = useForm<Form>({ defaultValues: empty });
  const draft = `cut:${outing}:${at}`;
  const { forget, base } = useFormDraft(form, draft, me.data ? from : undefined, chosen.data?.deployment.version);
  return { me, reference, chosen, form, draft, forget, base, imperial, unit: imperial ? "ft" : "m" };
}

type Lengths = { of: string; solved: Form["solved"] };

/** One length is cut: the solver's as soon as it is known, unless the closed form's was chosen. A plan that is kept stays
 * as it was kept. */
export function useSolver(form: UseFormReturn<Form>, kept?: Schemas["DeploymentDetail"]) {
  const [found, setFound] = useState<Lengths>();
  const [closed, setClosed] = useState("");
  const asKept = useMemo(() => kept && solvedFor(toForm(kept)), [kept]);
  const taken = (v: Form): Form => {
    const of = solvedFor(v);
    if (v.solved?.length && v.solvedFor === of) return v;
    return found?.of === of && closed !== of && asKept !== of ? { ...v, solved: found.solved, solvedFor: of } : v;
  };
  const choose = (solved: Form["solved"]) => {
    const of = solvedFor(form.getValues());
    setClosed(solved.length === 0 ? of : "");
    form.setValue("solved", solved, { shouldDirty: true });
    form.setValue("solvedFor", of, { shouldDirty: true });
  };
  // Whether the lengths stay as they are, whatever the solver finds.
  const stays = (v: Form) => [closed, asKept].includes(solvedFor(v));
  return { taken, choose, setFound, stays };
}

/** The lengths that the solver finds for what is asked of the plan. */
export function useLengths(
  outing: string,
  { ready }: { ready?: { of: string; bare: Schemas["PlanRequest"] } },
  { setFound }: { setFound: (l: Lengths) => void },
) {
  const c = useComputed("refine", "lengths", ready && { plan: ready.bare, outing_id: outing });
  useEffect(() => {
    if (!c.current || !c.result || !ready) return;
    setFound({ of: ready.of, solved: c.result.solved });
  }, [c.current, c.result, ready, setFound]);
  return c;
}

/** What core makes of the plan as it is typed. */
export function usePlan(
  form: UseFormReturn<Form>,
  at: string,
  unit: string,
  taken: (v: Form) => Form,
  ground?: string,
  kept?: Schemas["DeploymentDetail"],
) {
  const v = taken(form.watch());
  const fields = useRef<Schemas["FormField"][]>([]);
  const typed = useLater(useSteady({ v, unit, ground }), 60);
  const plan = useQuery<Schemas["Plan"], Error>({
    queryKey: ["plan", typed],
    queryFn: () => answered(wire.POST("/api/plan", { body: toRequest(typed.v, typed.unit, typed.ground, fields.current) })),
    enabled: at !== "beside" && v.family !== "" && typed.v.family !== "",
    placeholderData: (before) => before,
    staleTime: 60000,
  });
  // Until it is answered, and without the link, what is kept is shown as it was kept.
  const down = plan.error instanceof NoLink || plan.fetchStatus === "paused";
  const p = plan.data ?? kept?.planned;
  if (p) fields.current = [...(p.fields ?? []), ...measuredFields(p.measure)];
  useEffect(() => {
    // What the server says of a field stands at that field, also before anything is kept.
    form.clearErrors();
    for (const f of plan.data?.faults ?? []) form.setError(rename(f.path) as "name", { message: f.text });
  }, [plan.data, form]);
  const drawn = p !== undefined && (p.pieces ?? []).length > 0;
  const wrong = (p?.faults ?? []).some((f) => f.severity === "error");
  // The solver is asked for what the drawing shows, and for the lengths of the closed form it stands beside.
  const sound = drawn && !wrong && at !== "beside" && !plan.isPlaceholderData;
  const [ready, setReady] = useState<{ of: string; request: Schemas["PlanRequest"]; bare: Schemas["PlanRequest"] }>();
  useEffect(() => {
    if (!sound) return;
    const request = toRequest({ ...typed.v, name: "" }, typed.unit, typed.ground, fields.current);
    for (const k of Object.keys(request.texts)) if (k.startsWith("measured")) delete request.texts[k];
    setReady({ of: solvedFor(typed.v), request, bare: { ...request, solved: undefined } });
  }, [sound, typed]);
  return { plan: drawn ? p : undefined, asked: p?.fields ?? [], faults: p?.faults ?? [], waits: !p, down, wrong, fields, ready };
}

/** What the solver says of the plan. */
export const useForecast = (outing: string, at: string, ready?: { request: Schemas["PlanRequest"] }) =>
  useComputed("cut", "forecast", ready && at !== "beside" ? { plan: ready.request, outing_id: outing } : undefined, true);

/** Keeps the plan, and goes on to Raise. */
export function useKeep(
  outing: Schemas["Outing"],
  at: string,
  { form, chosen, base, forget, unit }: ReturnType<typeof usePlanForm>,
  fields: { current: Schemas["FormField"][] },
  taken: (v: Form) => Form,
) {
  const go = useNavigate();
  const fresh = useRef(uuid());
  // What is told is of the plan that it was told at.
  const [told, setTold] = useState({ at, text: "" });
  const say = (text: string) => setTold({ at, text });
  const save = async () => {
    say("");
    const deployment = at === "new" ? fresh.current : at;
    try {
      const f = taken(form.getValues());
      const done = await send(
        "put",
        "/api/deployments/{id}",
        { id: deployment },
        {
          outing_id: outing.id,
          name: f.name,
          plan: toRequest(f, unit, outing.ground, fields.current),
          lesson: chosen.data?.deployment.lesson,
        },
        `Plan ${f.name}`,
        at === "new" ? 0 : base(),
      );
      forget(done?.deployment.version);
      keepDeployment(outing.id, deployment);
      fresh.current = uuid();
      if (done) void go(`/o/${outing.id}/raise`);
      else say("No connection: saved on this device, synced later.");
    } catch (e) {
      say(showTrouble(form, e, rename));
    }
  };
  return { save, told: told.at === at ? told.text : "" };
}
