import Button from "@mui/material/Button";
import { useMemo, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate, useParams } from "react-router";
import { type Schemas, useGet, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { showTrouble, useFormDraft } from "../../parts/draft";
import { Earlier } from "../../parts/Earlier";
import { Choose, Field, LengthField } from "../../parts/fields";
import { WhereIAm } from "./WhereIAm";

type Form = { name: string; date: string; place: string; ground: string; scheme: string; own_ref: string; until: string; notes: string };

export function OutingForm({ outing }: { outing?: Schemas["OutingDetail"] }) {
  const { outing: id = "" } = useParams();
  const go = useNavigate();
  const reference = useReference();
  const schemes = useGet("/api/schemes");
  const o = outing?.outing;
  const from = useMemo<Form>(
    () => ({
      name: o?.name ?? "",
      date: o?.date ?? new Date().toISOString().slice(0, 10),
      place: o?.place ?? "",
      ground: o?.ground ?? "average",
      scheme: o?.scheme ?? "ten-a-day",
      own_ref: o?.own_ref ?? "",
      until: o?.until ?? "",
      notes: o?.notes ?? "",
    }),
    [o],
  );
  const form = useForm<Form>({ defaultValues: from });
  const { forget, base } = useFormDraft(form, o ? `outing:${id}` : "outing:new", from, o?.version);
  const [told, setTold] = useState("");
  const save = form.handleSubmit(async (v) => {
    setTold("");
    try {
      const done = await send(
        "put",
        "/api/outings/{id}",
        { id: id },
        { site: o?.site, purpose: o?.purpose, packed: o?.packed, missing: o?.missing, unused: o?.unused, ...v, name: v.name.trim() },
        `Outing ${v.name}`,
        base(),
      );
      forget(done?.outing.version);
      setTold(done ? "Saved." : "No connection: saved on this device, synced later.");
      if (!o && done) void go(`/o/${id}/cut`);
    } catch (e) {
      setTold(showTrouble(form, e));
    }
  });
  return (
    <form onSubmit={save} noValidate className="stack">
      <div className="fields">
        <Field form={form} name="name" label="Name" autoFocus={!o} help="the place or the day" />
        <Field form={form} name="date" label="Date, UTC" help="like 2026-05-16" inputMode="numeric" />
        <LengthField form={form} name="place" label="Place" className="full" unit="" kind="place" help="IN36ab, or 46.5 N 12.0 W" />
        <Choose form={form} name="ground" label="Ground" options={(reference.data?.grounds ?? []).map((g) => [g.id, g.name])} />
        <Choose
          form={form}
          name="scheme"
          label="Activation rule"
          help="which contacts count"
          options={(schemes.data ?? []).map(({ scheme: s }) => [s.id, s.name])}
        />
        <Field form={form} name="own_ref" label="Your site reference" help="if it has one" autoComplete="off" />
        <Field form={form} name="until" label="Leave by, UTC" help="gate, tide or curfew, like 19:30" inputMode="numeric" />
      </div>
      <WhereIAm take={(place) => form.setValue("place", place, { shouldDirty: true })} />
      <Field
        form={form}
        name="notes"
        label="Site notes"
        multiline
        minRows={3}
        help="supports, stakes allowed, metal, where people walk, power lines"
      />
      <div>
        <Button type="submit" variant="contained">
          {o ? "Save outing" : "Save and plan an antenna"}
        </Button>{" "}
        <span role="status">{told}</span>
      </div>
      {o && <Earlier kind="outing" id={o.id} />}
    </form>
  );
}
