import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useForm } from "react-hook-form";
import { answered, type Schemas, useGet, useMe, useReference, wire } from "../../api/client";
import { Layout } from "../../draw/Layout";
import { AskFields, slot, textsOf } from "../../parts/AskFields";
import { Below } from "../../parts/Below";
import { useFormDraft, useLater, useSteady } from "../../parts/draft";
import { Figures, Strips, Tables } from "../../parts/Figures";
import { Picks } from "../../parts/fields";
import { Opening } from "../../parts/Opening";

type Form = { t: Record<string, string> };
const none: Form = { t: {} };

/** One calculation: what core lists as its fields, and what it comes to while one types. */
function Tool({ tool, unit, things }: { tool: Schemas["Tool"]; unit: "m" | "ft"; things: Schemas["BagThing"][] }) {
  const form = useForm<Form>({ defaultValues: none });
  useFormDraft(form, `bench:${tool.id}`, none);
  const v = form.watch();
  const typed = useLater(useSteady({ tool: tool.id, texts: textsOf(tool.fields, v.t ?? {}), unit }), 60);
  const answer = useQuery<Schemas["BenchAnswer"], Error>({
    queryKey: ["bench", typed],
    queryFn: () => answered(wire.POST("/api/bench", { body: typed })),
    placeholderData: (before) => before,
    staleTime: 60000,
  });
  const a = answer.data;
  useEffect(() => {
    form.clearErrors();
    for (const f of a?.faults ?? []) form.setError(slot(f.path) as `t.${string}`, { message: f.text });
  }, [a, form]);
  return (
    <div className="stack">
      <div className="say">
        <h1 aria-live="polite">{a?.sentence || "Working it out."}</h1>
        <p className="soft">{tool.about}</p>
      </div>
      <Below>
        <div className="wide turned">
          <form className="stack noprint" onSubmit={(e) => e.preventDefault()} noValidate>
            {things.length > 0 && (
              <label className="stack tight small">
                From the bag
                <select
                  className="pick"
                  value=""
                  onChange={(e) => {
                    const b = things.find((x) => x.part.id === e.target.value);
                    for (const f of tool.fields) {
                      const text = b?.texts?.[f.id];
                      if (text) form.setValue(slot(f.id) as `t.${string}`, text, { shouldDirty: true });
                    }
                  }}
                >
                  <option value="">Fill in from an item</option>
                  {things.map((b) => (
                    <option key={b.part.id} value={b.part.id}>
                      {b.part.name}
                    </option>
                  ))}
                </select>
              </label>
            )}
            <div className="fields">
              <AskFields form={form} fields={tool.fields} unit={unit} />
            </div>
            <div>
              <button type="button" className="linkbtn" onClick={() => form.reset(none)}>
                Clear
              </button>
            </div>
          </form>
          <div className="stack">
            {a && (
              <>
                <Figures of={a.figures} />
                {a.drawing && (a.drawing.lines ?? []).length > 0 && <Layout planned={a.drawing} imperial={unit === "ft"} />}
                <Tables of={a.tables} />
                <Strips of={a.strips} />
              </>
            )}
          </div>
        </div>
      </Below>
    </div>
  );
}

export default function Bench() {
  const me = useMe();
  const reference = useReference();
  const bag = useGet("/api/bag");
  const [at, setAt] = useState(() => localStorage.getItem("bench") ?? "coil");
  const tool = useMemo(() => reference.data?.tools.find((t) => t.id === at) ?? reference.data?.tools[0], [reference.data, at]);
  if (!me.data || !reference.data || !tool) return <Opening of={[me, reference]} />;
  return (
    <>
      <Picks
        legend="On the bench"
        name="tool"
        value={tool.id}
        onChange={(x) => {
          localStorage.setItem("bench", x);
          setAt(x);
        }}
        options={reference.data.tools.map((t) => ({ id: t.id, label: t.name }))}
      />
      <Tool
        key={tool.id}
        tool={tool}
        unit={me.data.imperial ? "ft" : "m"}
        things={(bag.data?.things ?? []).filter((b) => b.part.kind === tool.from)}
      />
    </>
  );
}
