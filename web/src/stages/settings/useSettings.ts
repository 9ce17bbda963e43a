import { useEffect, useMemo, useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { type Schemas, useMe, useReference } from "../../api/client";
import { send } from "../../api/outbox";
import { showTrouble, useFormDraft } from "../../parts/draft";
import { say, setVersion } from "../../parts/Undo";

type Row = { band: string; use: string; lo: string; hi: string; on: boolean };
export type Form = {
  call: string;
  region: string;
  imperial: string;
  power_w: string;
  good_swr: string;
  analyser: string;
  radio: string;
  segments: Row[];
};

const mhz = (hz: number) => String(Number((hz / 1e6).toFixed(6)));
export const rows = (list: Schemas["Segment"][]): Row[] =>
  list.map((s) => ({ band: s.band, use: s.use, lo: mhz(s.lo), hi: mhz(s.hi), on: s.on }));

const toForm = (me: Schemas["Me"]): Form => ({
  call: me.call,
  region: String(me.region),
  imperial: me.imperial ? "yes" : "no",
  power_w: String(me.power_w),
  good_swr: String(me.good_swr),
  analyser: me.analyser ?? "",
  radio: me.radio ?? "",
  segments: rows(me.segments),
});

/** The operator as the form says; the server reads what was typed. */
const toMe = (v: Form) => ({
  call: v.call,
  region: Number(v.region),
  imperial: v.imperial === "yes",
  power_w: v.power_w,
  good_swr: Number(v.good_swr),
  analyser: v.analyser.trim() || undefined,
  radio: v.radio.trim() || undefined,
  segments: v.segments,
});

/** The operator's settings: the form, what the region offers, and how they are kept. */
export function useSettings() {
  const me = useMe();
  const go = useNavigate();
  const form = useForm<Form>({
    defaultValues: { call: "", region: "1", imperial: "no", power_w: "10", good_swr: "2", analyser: "", radio: "", segments: [] },
  });
  const from = useMemo(() => me.data && toForm(me.data), [me.data]);
  const { forget, base } = useFormDraft(form, "me", from, me.data?.version);
  const region = form.watch("region");
  const reference = useReference(Number(region));
  const [told, setTold] = useState("");
  useEffect(() => {
    // Another region has other bands: its defaults are offered at once.
    if (reference.data && me.data && Number(region) !== me.data.region && form.formState.dirtyFields.region)
      form.setValue("segments", rows(reference.data.segments));
  }, [reference.data, region, me.data, form]);
  const save = form.handleSubmit(async (v) => {
    setTold("");
    try {
      const first = me.data?.call === "";
      const done = await send("put", "/api/me", {}, toMe(v), "Settings", base());
      forget(done?.version);
      // What counts can be brought back like everything else.
      const now = done?.version ?? 0;
      if (!first && now > 1) say("Settings saved.", () => setVersion("operator", "me", now - 1, now));
      setTold(done ? "Saved." : "No connection: saved on this device, synced later.");
      if (first && done) void go(`/o/${uuid()}/scout?new=1`);
    } catch (e) {
      setTold(showTrouble(form, e, (p) => p.replace(/^(segments\.\d+)$/, "$1.lo")));
    }
  });
  return { me, reference, form, save, told };
}
