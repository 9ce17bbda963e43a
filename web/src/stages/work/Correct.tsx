import Button from "@mui/material/Button";
import { useRef, useState } from "react";
import { useForm } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { send } from "../../api/outbox";
import { showTrouble } from "../../parts/draft";
import { Earlier } from "../../parts/Earlier";
import { Choose, Field } from "../../parts/fields";
import { remove, say, setVersion } from "../../parts/Undo";
import { stamp } from "./clock";

type Contact = Schemas["Contact"];

type Fix = {
  call: string;
  at: string;
  band: string;
  freq: string;
  mode: string;
  sent: string;
  received: string;
  power: string;
  locator: string;
  other_ref: string;
  own_ref: string;
  name: string;
  comment: string;
  operator: string;
  deployment: string;
};

const toForm = (c: Contact): Fix => ({
  call: c.call,
  at: stamp(c.at, c.seconds),
  band: c.band ?? "",
  freq: c.freq_hz ? String(c.freq_hz / 1e6) : "",
  mode: c.submode || (c.mode ?? ""),
  sent: c.sent ?? "",
  received: c.received ?? "",
  power: c.power_w ? String(c.power_w) : "",
  locator: c.locator ?? "",
  other_ref: c.other_ref ?? "",
  own_ref: c.own_ref ?? "",
  name: c.name ?? "",
  comment: c.comment ?? "",
  operator: c.operator ?? "",
  deployment: c.deployment_id ?? "",
});

/** The contact as corrected: what was not touched goes as it came, what was typed is read by the server. */
function toContact(v: Fix, c: Contact): Schemas["ContactInput"] {
  const was = toForm(c);
  return {
    outing_id: c.outing_id,
    call: v.call.trim().toUpperCase(),
    at: v.at === was.at ? c.at : v.at,
    seconds: c.seconds,
    band: v.band.trim(),
    freq_hz: v.freq === was.freq ? c.freq_hz : v.freq,
    mode: v.mode === was.mode ? c.mode : v.mode.trim().toUpperCase(),
    submode: v.mode === was.mode ? c.submode : undefined,
    sent: v.sent,
    received: v.received,
    power_w: v.power === was.power ? c.power_w : v.power,
    locator: v.locator.trim(),
    other_ref: v.other_ref.trim().toUpperCase(),
    own_ref: v.own_ref.trim().toUpperCase(),
    name: v.name,
    comment: v.comment,
    operator: v.operator.trim().toUpperCase() || undefined,
    deployment_id: v.deployment || undefined,
  };
}

/** Correct one contact in place. */
export function Correct({ contact: c, outing, onDone }: { contact: Contact; outing: Schemas["OutingDetail"]; onDone: () => void }) {
  const form = useForm<Fix>({ defaultValues: toForm(c) });
  const [told, setTold] = useState("");
  // The form stands on the contact as it was opened, also when it is read anew meanwhile.
  const base = useRef(c);
  const save = form.handleSubmit(async (v) => {
    const { version } = base.current;
    try {
      const done = await send("put", "/api/contacts/{id}", { id: c.id }, toContact(v, base.current), `Edit of ${c.call}`, version);
      if (done) say(`${done.call} corrected.`, () => setVersion("contact", c.id, version, version + 1));
      onDone();
    } catch (e) {
      setTold(showTrouble(form, e, (p) => ({ freq_hz: "freq", power_w: "power" })[p] ?? p));
    }
  });
  return (
    <form onSubmit={save} className="stack correct" noValidate aria-label={`Edit ${c.call}`}>
      <div className="fields">
        <Field form={form} name="call" label="Call" autoFocus />
        <Field form={form} name="at" label="Time, UTC" />
        <Field form={form} name="band" label="Band" />
        <Field form={form} name="freq" label="MHz" inputMode="decimal" />
        <Field form={form} name="mode" label="Mode" />
        <Field form={form} name="sent" label="Sent" />
        <Field form={form} name="received" label="Received" />
        <Field form={form} name="power" label="Power, W" inputMode="decimal" />
        <Field form={form} name="locator" label="Their locator" />
        <Field form={form} name="other_ref" label="Their reference" />
        <Field form={form} name="own_ref" label="Own reference" />
        <Field form={form} name="name" label="Name" />
        <Field form={form} name="comment" label="Comment" />
        <Field form={form} name="operator" label="Operator, if not you" autoComplete="off" />
        <Choose
          form={form}
          name="deployment"
          label="Antenna"
          options={[["", "not noted"], ...outing.tags.map((t) => [t.id, `${t.letter} ${t.name}`] as [string, string])]}
        />
      </div>
      <div className="row">
        <Button type="submit" variant="contained">
          Save contact
        </Button>
        <Button variant="outlined" onClick={onDone}>
          Cancel
        </Button>
        <button
          type="button"
          className="linkbtn"
          onClick={async () => {
            await remove("contact", c.id, c.version, `${c.call} is deleted.`);
            onDone();
          }}
        >
          Delete
        </button>
        <span role="status">{told}</span>
      </div>
      <Earlier kind="contact" id={c.id} onBack={onDone} />
      {c.marks?.map((m) => (
        <p key={m} className="note small">
          {m}
        </p>
      ))}
    </form>
  );
}
