import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { answered, type Built, type Schemas, useDeployment, useMe, wire } from "../../api/client";
import { send } from "../../api/outbox";
import type { Asked } from "../../parts/AskFields";
import { showTrouble, useFormDraft, useLater, useSteady } from "../../parts/draft";
import { useComputed } from "../../parts/useComputed";
import { empty, type Form, rename, toBuilt, toForm } from "./asBuilt";

/** The form of an antenna as it stands, filled from the newest revision, or the recipe that it is laid out from, or the plan. */
export function useAsBuilt(tag?: Schemas["Tag"], at?: string) {
  const me = useMe();
  const detail = useDeployment(tag?.id);
  const imperial = me.data?.imperial ?? false;
  const d = detail.data;
  const last = d?.revisions[d.revisions.length - 1];
  // It stands on the ground of the revision, before there is one on that of the outing.
  // With the wires that the plan has more, once that was asked for.
  const [growing, grow] = useState("");
  const grown = last && growing === last.id ? d?.grown : undefined;
  const base = useMemo<Built | undefined>(() => {
    if (grown && last) return { ...grown.built, ground: last.built.ground || d?.deployment.plan.ground || at };
    if (last) return { ...last.built, ground: last.built.ground || d?.deployment.plan.ground || at };
    const first: Built | undefined = d?.afresh ?? (d && { ...d.planned.shape });
    return first && { ...first, ground: at };
  }, [last, d, at, grown]);
  const from = useMemo(
    () => (base && me.data && d ? toForm(base, grown?.texts ?? d.built_texts ?? {}, imperial, me.data.power_w) : undefined),
    [base, d, grown, imperial, me.data],
  );
  const form = useForm<Form>({ defaultValues: empty });
  const { forget } = useFormDraft(form, `raised:${tag?.id}:${last?.id ?? "plan"}${grown ? ":grown" : ""}`, from);
  return { me, detail, d, last, base, grown, onGrow: () => grow(last?.id ?? ""), form, forget, imperial, unit: imperial ? "ft" : "m" };
}

type AsBuilt = ReturnType<typeof useAsBuilt>;

/** What core says of the figures as they are typed: faults at their fields, the drawing, the dangers. */
export function useChecked({ form, base, d, unit }: AsBuilt, tag?: Schemas["Tag"]) {
  const v = form.watch();
  const list = useRef<Asked[]>([]);
  const now = useSteady({ v, unit, of: tag?.id });
  const typed = useLater(now, 100);
  const checked = useQuery<Schemas["Checked"], Error>({
    queryKey: ["check", typed, base],
    queryFn: () =>
      answered(
        wire.POST("/api/check", {
          body: {
            built: toBuilt(typed.v, base as Built, typed.unit, list.current),
            planned: d?.planned.shape,
            revisions: d?.revisions.length ?? 0,
          },
        }),
      ),
    // Not before the form holds the figures of this antenna.
    enabled: base !== undefined && typed.v.variant !== "" && typed.of === tag?.id,
    placeholderData: (before, query) => ((query?.queryKey[1] as typeof typed | undefined)?.of === tag?.id ? before : undefined),
    staleTime: 60000,
  });
  list.current = checked.data?.fields ?? d?.built_fields ?? [];
  useEffect(() => {
    form.clearErrors();
    for (const f of checked.data?.faults ?? []) form.setError(rename(f.path) as keyof Form, { message: f.text });
  }, [checked.data, form]);
  const faults = checked.data?.faults ?? [];
  const wrong = faults.some((f) => f.severity === "error");
  // What was kept last stays on the model until the changed figures are sound.
  const sound = checked.data !== undefined && !checked.isPlaceholderData && !wrong;
  const [ready, setReady] = useState<Built>();
  useEffect(() => {
    if (!sound || !base || typed.of !== tag?.id) return;
    const built = toBuilt(typed.v, base, typed.unit, list.current);
    // What the solver does not ask for does not begin it again.
    const texts = { ...built.texts, setup_minutes: "" };
    setReady({ ...built, texts, confirmed: undefined, notes: undefined, wind: undefined });
  }, [sound, typed, base, tag?.id]);
  // Without the link nothing is checked, and the figures stand all the same.
  const told = (typed === now && checked.isSuccess && !checked.isPlaceholderData) || checked.isError || checked.fetchStatus === "paused";
  const [begun, setBegun] = useState(false);
  useEffect(() => {
    if (told) setBegun(true);
  }, [told]);
  return { checked: checked.data, begun, faults, wrong, fields: list.current, ready };
}

/** What the solver says of it as it stands, and what this place does to a recipe. */
export function useExpected(outing: string, { d }: AsBuilt, ready?: Built) {
  const ground = ready?.ground ?? d?.deployment.plan.ground;
  const computed = useComputed("raise", "forecast", ready && { built: ready, outing_id: outing, ground }, true);
  const moved = useComputed(
    "moved",
    "move",
    d?.recipe && ready ? { deployment_id: d.deployment.id, built: ready, outing_id: outing, ground } : undefined,
  );
  return { computed, moved };
}

/** Keeps what is typed as the next revision, and goes on to Sweep. */
export function useKeep(
  outing: Schemas["Outing"],
  { form, base, d, unit, forget }: AsBuilt,
  fields: Asked[],
  tag?: Schemas["Tag"],
): { save: () => Promise<void>; told: string } {
  const go = useNavigate();
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const save = async () => {
    if (!tag || !base) return;
    setTold("");
    const f = form.getValues();
    const next = (d?.revisions.length ?? 0) + 1;
    try {
      const done = await send(
        "put",
        "/api/revisions/{id}",
        { id: fresh.current },
        {
          deployment_id: tag.id,
          reason: f.reason.trim() || (next === 1 ? "as put up" : "changed"),
          built: toBuilt(f, base, unit, fields),
          at: f.at ? `${outing.date}T${f.at}:00Z` : undefined,
        },
        `r${next} of ${tag.name}`,
      );
      forget();
      fresh.current = uuid();
      if (done) void go(`/o/${outing.id}/sweep`);
      else setTold("No connection: saved on this device, synced later.");
    } catch (e) {
      setTold(showTrouble(form, e, rename));
    }
  };
  return { save, told };
}
