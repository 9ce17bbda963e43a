import Button from "@mui/material/Button";
import { Fragment, useEffect, useMemo, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { type Schemas, useMe, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { showTrouble, useFormDraft } from "../../parts/draft";
import { Choose, Field, Picks } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { say, setVersion } from "../../parts/Undo";
import { type Light, lights, setLight, useLight } from "../../theme/theme";
import { Devices } from "./Devices";

type Row = { band: string; use: string; lo: string; hi: string; on: boolean };
type Form = { call: string; region: string; imperial: string; power_w: string; good_swr: string; analyser: string; segments: Row[] };

const mhz = (hz: number) => String(Number((hz / 1e6).toFixed(6)));
const rows = (list: Schemas["Segment"][]): Row[] => list.map((s) => ({ band: s.band, use: s.use, lo: mhz(s.lo), hi: mhz(s.hi), on: s.on }));

export default function Settings() {
  const me = useMe();
  const light = useLight();
  const go = useNavigate();
  const form = useForm<Form>({
    defaultValues: { call: "", region: "1", imperial: "no", power_w: "10", good_swr: "2", analyser: "", segments: [] },
  });
  const from = useMemo<Form | undefined>(
    () =>
      me.data && {
        call: me.data.call,
        region: String(me.data.region),
        imperial: me.data.imperial ? "yes" : "no",
        power_w: String(me.data.power_w),
        good_swr: String(me.data.good_swr),
        analyser: me.data.analyser ?? "",
        segments: rows(me.data.segments),
      },
    [me.data],
  );
  const { forget, base } = useFormDraft(form, "me", from, me.data?.version);
  const region = form.watch("region");
  const reference = useReference(Number(region));
  const [told, setTold] = useState("");
  const segments = form.watch("segments") ?? [];
  const bands = [...new Set(segments.map((s) => s.band))];

  useEffect(() => {
    // Another region has other bands: its defaults are offered at once.
    if (reference.data && me.data && Number(region) !== me.data.region && form.formState.dirtyFields.region)
      form.setValue("segments", rows(reference.data.segments));
  }, [reference.data, region, me.data, form]);

  const save = form.handleSubmit(async (v) => {
    setTold("");
    const number = (text: string) => Number(text.replace(",", "."));
    try {
      const first = me.data?.call === "";
      const done = await send<Schemas["Me"]>(
        "PUT",
        "/api/me",
        {
          call: v.call,
          region: Number(v.region),
          imperial: v.imperial === "yes",
          power_w: number(v.power_w),
          good_swr: number(v.good_swr),
          analyser: v.analyser.trim() || undefined,
          segments: v.segments.map((s) => ({ ...s, lo: Math.round(number(s.lo) * 1e6), hi: Math.round(number(s.hi) * 1e6) })),
        },
        "Settings",
        base(),
      );
      forget(done?.version);
      // What counts can be brought back like everything else.
      const now = done?.version ?? 0;
      if (!first && now > 1) say("Your settings are stored.", () => setVersion("operator", "me", now - 1, now));
      setTold(done ? "Kept." : "The link is down: kept here, and sent when it is back.");
      if (first && done) void go("/");
    } catch (e) {
      setTold(showTrouble(form, e, (p) => p.replace(/^(segments\.\d+)$/, "$1.lo")));
    }
  });

  if (!me.data || !reference.data) return <Opening of={[me, reference]} />;
  return (
    <form onSubmit={save} noValidate className="stack">
      <div className="say">
        <h1>{me.data.call ? `${me.data.call}: what counts for you.` : "Who writes in this notebook?"}</h1>
        <p>SWR is judged where you may and want to transmit. These tables are customs to start from: verify with your licence.</p>
      </div>
      <div className="fields">
        <Field form={form} name="call" label="Your call" autoComplete="off" autoFocus={me.data.call === ""} />
        <Choose
          form={form}
          name="region"
          label="Region"
          options={[
            ["1", "1: Europe, Africa"],
            ["2", "2: Americas"],
            ["3", "3: Asia, Pacific"],
          ]}
        />
        <Choose
          form={form}
          name="imperial"
          label="Units"
          options={[
            ["no", "metres"],
            ["yes", "feet and inches"],
          ]}
        />
        <Field form={form} name="power_w" label="Usual power, W" inputMode="decimal" />
        <Choose
          form={form}
          name="good_swr"
          label="Good enough"
          options={[
            ["1.5", "SWR under 1.5"],
            ["2", "SWR under 2"],
            ["3", "SWR under 3, tuner follows"],
          ]}
        />
        <Field
          form={form}
          name="analyser"
          label="Analyser on the network"
          help="empty without one; host and port, like 192.168.4.1:7390, if it speaks the line protocol (docs/analyser-protocol.md)"
          autoComplete="off"
          className="full"
        />
      </div>
      <Picks
        legend="Light (key t)"
        name="light"
        value={light}
        onChange={(v) => setLight(v as Light)}
        options={lights.map((l) => ({ id: l, label: { paper: "Paper", sun: "Sun, for glare", dusk: "Dusk" }[l] }))}
      />
      <div>
        <Button type="submit" variant="contained">
          Keep these
        </Button>{" "}
        <span role="status">{told}</span>
      </div>
      <h2>Your segments, MHz</h2>
      <div className="segments">
        {bands.map((b) => (
          <Fragment key={b}>
            <b className="mono">{b.replace("m", " m")}</b>
            {["cw", "digital", "phone"].map((use) => {
              const i = segments.findIndex((s) => s.band === b && s.use === use);
              if (i < 0) return <span key={use} />;
              return (
                <span className="seg" key={use}>
                  <label>
                    <input type="checkbox" {...form.register(`segments.${i}.on`)} aria-label={`${b} ${use} counts`} />
                    {use === "cw" ? "CW" : use}
                  </label>
                  {(["lo", "hi"] as const).map((end) => (
                    <Field
                      key={end}
                      form={form}
                      name={`segments.${i}.${end}`}
                      label=""
                      inputMode="decimal"
                      slotProps={{ htmlInput: { "aria-label": `${b} ${use} ${end === "lo" ? "from" : "to"}, MHz`, className: "mono" } }}
                    />
                  ))}
                </span>
              );
            })}
          </Fragment>
        ))}
      </div>
      <div>
        <Button
          variant="outlined"
          onClick={() => reference.data && form.setValue("segments", rows(reference.data.segments), { shouldDirty: true })}
        >
          Back to the customs of region {region}
        </Button>
      </div>
      <Devices />
    </form>
  );
}
