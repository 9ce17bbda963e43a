import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { call, type Schemas, useDeployment, useGet, useMe, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { type Handle, Layout } from "../../draw/Layout";
import { Sketch } from "../../draw/Sketch";
import { AskFields, slot } from "../../parts/AskFields";
import { showTrouble, useFormDraft, useLater } from "../../parts/draft";
import { Figures, Schools, Strips, Tables } from "../../parts/Figures";
import { Forecast } from "../../parts/Forecast";
import { Choose, Field, Picks } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { keepDeployment, lastDeployment } from "../../parts/place";
import { Tag } from "../../parts/Tag";
import { remove } from "../../parts/Undo";
import { useComputed } from "../../parts/useComputed";
import { LayOut } from "../raise/Recipe";
import { Beside } from "./Beside";
import { CutList, MeasureTwice, measuredFields } from "./Sheet";
import { Questions, SolvedLengths } from "./Solved";

type Form = {
  name: string;
  family: string;
  variant: string;
  wire: string;
  parts: Record<string, string>;
  t: Record<string, string>;
  // Lengths by the solver, and what they were solved for: they hold for nothing else.
  solved: Schemas["Solved"][];
  solvedFor: string;
};

/** What solved lengths hold for: everything but the name and what was measured afterwards. */
const solvedFor = (v: Form) =>
  JSON.stringify([
    v.family,
    v.variant,
    v.wire,
    v.parts,
    Object.entries(v.t)
      .filter(([k, t]) => t?.trim() && !k.startsWith("measured") && !["knot", "trim_percent"].includes(k))
      .sort(),
  ]);

const empty: Form = {
  name: "",
  family: "end-fed",
  variant: "sloper",
  wire: "pvc",
  parts: {},
  t: { for: "7.1", trim_percent: "2" },
  solved: [],
  solvedFor: "",
};

/** The request that a form stands for; the server reads every text. */
function toRequest(v: Form, unit: string, ground: string | undefined, fields: Schemas["FormField"][]) {
  const bag = v.wire.startsWith("bag:") ? v.wire.slice(4) : "";
  const parts = Object.fromEntries(Object.entries({ ...v.parts, wire: bag }).filter(([, id]) => id));
  const texts: Record<string, string> = { ...v.t };
  for (const f of fields) texts[f.id] = v.t[slot(f.id).slice(2)] ?? "";
  return {
    family: v.family,
    variant: v.variant,
    frequency_hz: 0,
    wire: bag ? undefined : v.wire,
    parts,
    texts: Object.fromEntries(Object.entries(texts).filter(([k, t]) => t?.trim() || !k.startsWith("measured"))),
    unit: unit as "m" | "ft",
    ground: ground || undefined,
    solved: v.solved?.length && v.solvedFor === solvedFor(v) ? v.solved : undefined,
  };
}

/** The server's field paths in the form's names. */
const rename = (path: string) => {
  const p = path.replace(/^plan\./, "");
  if (["family", "variant", "wire", "name"].includes(p)) return p;
  if (p.startsWith("parts.")) return p === "parts.wire" ? "wire" : p;
  return slot(p === "frequency_hz" ? "for" : p);
};

function toForm(d: Schemas["DeploymentDetail"]): Form {
  const plan = d.deployment.plan;
  const t: Record<string, string> = {};
  for (const [k, text] of Object.entries(d.plan_texts ?? {})) t[slot(k).slice(2)] = text;
  const form: Form = {
    name: d.deployment.name,
    family: plan.family,
    variant: plan.variant,
    wire: plan.parts?.wire ? `bag:${plan.parts.wire}` : (plan.wire ?? "pvc"),
    parts: { ...empty.parts, ...plan.parts },
    t,
    solved: plan.solved ?? [],
    solvedFor: "",
  };
  return { ...form, solvedFor: solvedFor(form) };
}

const groups = [
  ["balanced", "fed in the middle"],
  ["end-fed", "fed at the end"],
  ["upright", "upright"],
  ["directive", "directive"],
];

export default function Cut({ outing }: { outing: Schemas["OutingDetail"] }) {
  const go = useNavigate();
  const me = useMe();
  const reference = useReference();
  const bag = useGet<Schemas["BagList"]>("/api/bag");
  const imperial = me.data?.imperial ?? false;
  const unit = imperial ? "ft" : "m";
  const id = outing.outing.id;
  const [at, setAt] = useState(() => {
    const last = lastDeployment(id);
    return outing.tags.find((t) => t.id === last)?.id ?? "new";
  });
  const fresh = useRef(uuid());
  const chosen = useDeployment(at === "new" || at === "beside" ? undefined : at);
  const from = useMemo(() => (at === "new" ? empty : chosen.data && toForm(chosen.data)), [at, chosen.data]);
  const form = useForm<Form>({ defaultValues: empty });
  const { forget, base } = useFormDraft(form, `cut:${id}:${at}`, me.data ? from : undefined, chosen.data?.deployment.version);
  const v = form.watch();
  const [told, setTold] = useState("");

  const row = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the row follows the tag that is picked
  useEffect(() => {
    const on = row.current?.querySelector<HTMLElement>('[aria-pressed="true"]');
    if (row.current && on) row.current.scrollLeft = on.offsetLeft - row.current.offsetLeft - 3;
  }, [at, me.data, reference.data]);
  const fields = useRef<Schemas["FormField"][]>([]);
  const typed = useLater(JSON.stringify([v, unit, outing.outing.ground]), 60);
  const plan = useQuery<Schemas["Plan"], Error>({
    queryKey: ["plan", typed],
    queryFn: () => {
      const [f, u, ground] = JSON.parse(typed) as [Form, string, string | undefined];
      return call<Schemas["Plan"]>("POST", "/api/plan", toRequest(f, u, ground, fields.current));
    },
    enabled: at !== "beside",
    placeholderData: (before) => before,
    staleTime: 60000,
  });
  const p = plan.data;
  if (p) fields.current = [...(p.fields ?? []), ...measuredFields(p.measure)];
  useEffect(() => {
    // What the server says of a field stands at that field, also before anything is kept.
    form.clearErrors();
    for (const f of plan.data?.faults ?? []) form.setError(rename(f.path) as "name", { message: f.text });
  }, [plan.data, form]);

  const ok = p !== undefined && (p.pieces ?? []).length > 0;
  // The solver is asked for what the drawing shows, and for the lengths of the closed form it stands beside.
  const sound = ok && !(p.faults ?? []).some((f) => f.severity === "error") && at !== "beside" && !plan.isPlaceholderData;
  const [ready, setReady] = useState<{ request: Schemas["PlanRequest"]; bare: Schemas["PlanRequest"] }>();
  useEffect(() => {
    if (!sound) return;
    const [f, u, ground] = JSON.parse(typed) as [Form, string, string | undefined];
    const request = toRequest({ ...f, name: "" }, u, ground, fields.current);
    for (const k of Object.keys(request.texts)) if (k.startsWith("measured")) delete request.texts[k];
    setReady({ request, bare: { ...request, solved: undefined } });
  }, [sound, typed]);
  const computed = useComputed(
    "cut",
    ready && at !== "beside" ? { kind: "forecast", plan: ready.request, outing_id: id } : undefined,
    true,
  );
  const wrong = (p?.faults ?? []).some((f) => f.severity === "error");
  const family = reference.data?.families.find((f) => f.id === v.family);
  const shown = (p?.fields ?? []).filter((f) => !["knot", "trim_percent"].includes(f.id));
  const things = (kind: string): [string, string][] =>
    (bag.data?.things ?? []).filter((b) => b.part.kind === kind).map((b) => [b.part.id, b.part.name]);
  const used = (reference.data?.kinds ?? []).filter(
    (k) => things(k.id).length > 0 && (k.carried || shown.some((f) => k.fills?.includes(f.id))),
  );
  const cautions = (p?.faults ?? []).filter((f) => f.severity === "caution");
  const handles: Handle[] = [];
  if (p && ok && p.drawing.view !== "top") {
    if (shown.some((f) => f.id === "feed_height"))
      handles.push({ id: "feed_height", at: p.drawing.feed, label: "Drag the feed point up or down" });
    const end = (p.drawing.lines ?? []).filter((l) => l.role === "radiator").at(-1);
    if (end && shown.some((f) => f.id === "far_height") && v.variant !== "upright")
      handles.push({ id: "far_height", at: end.to, label: "Drag the far end up or down" });
  }
  const pick = (next: string) => {
    setAt(next);
    setTold("");
    if (next !== "new" && next !== "beside") keepDeployment(id, next);
  };
  const save = async () => {
    setTold("");
    const deployment = at === "new" ? fresh.current : at;
    try {
      const f = form.getValues();
      const done = await send<Schemas["DeploymentDetail"]>(
        "PUT",
        `/api/deployments/${deployment}`,
        {
          outing_id: id,
          name: f.name,
          plan: toRequest(f, unit, outing.outing.ground, fields.current),
          lesson: chosen.data?.deployment.lesson,
        },
        `Plan ${f.name}`,
        at === "new" ? 0 : base(),
      );
      forget(done?.deployment.version);
      keepDeployment(id, deployment);
      fresh.current = uuid();
      if (done) void go(`/o/${id}/raise`);
      else setTold("The link is down: kept here, and sent when it is back.");
    } catch (e) {
      setTold(showTrouble(form, e, rename));
    }
  };
  if (!reference.data || !me.data) return <Opening of={[reference, me]} />;
  const tags =
    outing.tags.length === 0 ? (
      <LayOut outing={id} />
    ) : (
      <div className="stack tight noprint">
        <div className="tagrow" ref={row}>
          {outing.tags.map((t) => (
            <Tag key={t.id} tag={t} pressed={t.id === at} onClick={() => pick(t.id)} />
          ))}
        </div>
        <div className="row">
          <Button variant="outlined" onClick={() => pick("new")} aria-pressed={at === "new"}>
            Another antenna
          </Button>
          {outing.tags.length > 1 && (
            <Button variant="outlined" onClick={() => pick("beside")} aria-pressed={at === "beside"}>
              Cut lists side by side
            </Button>
          )}
          <LayOut outing={id} />
        </div>
      </div>
    );
  if (at === "beside")
    return (
      <>
        {tags}
        <Beside outing={id} imperial={imperial} onPick={pick} />
      </>
    );
  return (
    <form
      className="stack"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <div className="say">
        <h1>{ok && !wrong ? p.sentence : p ? "This cannot be cut yet: look at the marked entries." : "Working it out."}</h1>
        {ok && (
          <p>
            Expect {p.expect}.
            {p.wire_used_m > 0 && (
              <>
                {" "}
                It takes <span className="mono">{p.wire_says}</span> of wire.
              </>
            )}
          </p>
        )}
        {ok && p.provisional && <p className="note small">{p.provisional}</p>}
        {cautions.map((c) => (
          <p key={c.text} className="note error small">
            {c.text}
          </p>
        ))}
      </div>
      {tags}
      <div className="wide">
        <div className="stack">
          {ok && (
            <Layout
              planned={p.drawing}
              imperial={imperial}
              handles={handles}
              onMove={(field, m) =>
                form.setValue(slot(field) as `t.${string}`, `${m.toFixed(2)} m`, {
                  shouldDirty: true,
                  shouldTouch: true,
                })
              }
            />
          )}
          {ok && <CutList plan={p} imperial={imperial} />}
        </div>
        <div className="stack noprint">
          <div className="families">
            {groups.map(([group, legend]) => (
              <Picks
                key={group}
                legend={legend ?? ""}
                name="family"
                value={v.family}
                onChange={(x) => {
                  form.setValue("family", x, { shouldDirty: true });
                  form.setValue("variant", reference.data?.families.find((f) => f.id === x)?.variants[0]?.id ?? "flat", {
                    shouldDirty: true,
                  });
                  localStorage.setItem(`draft:cut:${id}:${at}`, JSON.stringify(form.getValues()));
                }}
                options={reference.data.families
                  .filter((f) => f.group === group)
                  .map((f) => ({
                    id: f.id,
                    label: (
                      <span className="kind">
                        <Sketch family={f.id} variant={f.variants[0]?.id ?? ""} />
                        {f.short}
                      </span>
                    ),
                  }))}
              />
            ))}
          </div>
          <h2>{family?.name}</h2>
          <div className="fields">
            <AskFields
              form={form}
              fields={shown}
              unit={unit}
              after={(field) =>
                field === "for" && (
                  <>
                    <Choose form={form} name="variant" label="How it hangs" options={(family?.variants ?? []).map((x) => [x.id, x.name])} />
                    <Choose
                      form={form}
                      name="wire"
                      label="Wire"
                      className="full"
                      options={[
                        ...things("wire").map(([i, n]) => [`bag:${i}`, `${n} (bag)`] as [string, string]),
                        ...reference.data.wires.map((w) => [w.id, w.name] as [string, string]),
                      ]}
                    />
                    {used.map((k) => (
                      <Choose
                        key={k.id}
                        form={form}
                        name={`parts.${k.id}`}
                        label={`${k.name} of the bag`}
                        options={[["", "none of the bag"], ...things(k.id)]}
                      />
                    ))}
                  </>
                )
              }
            />
            <AskFields form={form} fields={(p?.fields ?? []).filter((f) => ["knot", "trim_percent"].includes(f.id))} unit={unit} />
          </div>
          <div className="ruled stack">
            <Field form={form} name="name" label="Call it" help="a word that tells it from the others, like Heron" autoComplete="off" />
            <div className="row">
              <Button type="submit" variant="contained">
                {at === "new" ? "Keep this plan, then raise it" : "Keep this plan"}
              </Button>
              <Button variant="outlined" onClick={() => print()}>
                Print the cut list
              </Button>
              {at !== "new" && chosen.data && (
                <button
                  type="button"
                  className="linkbtn"
                  onClick={async () => {
                    const d = chosen.data.deployment;
                    await remove("deployment", d.id, d.version, `${d.name} is removed.`);
                    setAt("new");
                  }}
                >
                  Remove
                </button>
              )}
            </div>
            <span role="status">{told}</span>
          </div>
        </div>
        <div className="stack then">
          {ready && ok && (
            <SolvedLengths
              plan={ready.bare}
              outing={id}
              imperial={imperial}
              used={(ready.request.solved ?? []).length > 0}
              onUse={(solved) => {
                form.setValue("solved", solved, { shouldDirty: true });
                form.setValue("solvedFor", solvedFor(form.getValues()), { shouldDirty: true });
              }}
            />
          )}
          {ready && ok && (
            <div className="noprint">
              <Forecast of={computed} limit={me.data.good_swr} />
            </div>
          )}
          {ok && <Figures of={p.figures ?? []} />}
          {ok && <Tables of={p.tables ?? []} />}
          {ok && <Strips of={p.strips ?? []} />}
          {ok && (
            <details className="fold noprint">
              <summary>Why these lengths, and where people differ</summary>
              <p>
                Factor <span className="mono">{p.factor.value.toFixed(3)}</span> of free space, likely{" "}
                <span className="mono">{p.factor.lo.toFixed(3)}</span> to <span className="mono">{p.factor.hi.toFixed(3)}</span>:{" "}
                {(p.factor.why ?? []).join("; ")}.
              </p>
              <Schools of={p.schools ?? []} />
            </details>
          )}
          {ready && ok && family && <Questions plan={ready.bare} outing={id} family={family} unit={unit} />}
          {ok && p.measure && (
            <details className="fold noprint" open={p.measure.tone !== "none" || undefined}>
              <summary>Measure twice</summary>
              <MeasureTwice measure={p.measure} form={form} unit={unit} imperial={imperial} />
            </details>
          )}
        </div>
      </div>
    </form>
  );
}
