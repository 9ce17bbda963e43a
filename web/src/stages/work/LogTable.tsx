import Button from "@mui/material/Button";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useForm } from "react-hook-form";
import { call, type Schemas, useGet } from "../../api/client";
import { send, useOutbox } from "../../api/outbox";
import { showTrouble, useLater } from "../../parts/draft";
import { Choose, Field } from "../../parts/fields";
import { remove, say, setVersion } from "../../parts/Undo";

type Contact = Schemas["Contact"];
type Log = Schemas["Log"];

export const clock = (at: string, seconds: boolean) => new Date(at).toISOString().slice(11, seconds ? 19 : 16);

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
  deployment: string;
};

/** Correct one contact in place. */
function Correct({ contact: c, outing, onDone }: { contact: Contact; outing: Schemas["OutingDetail"]; onDone: () => void }) {
  const form = useForm<Fix>({
    defaultValues: {
      call: c.call,
      at: new Date(c.at)
        .toISOString()
        .slice(0, c.seconds ? 19 : 16)
        .replace("T", " "),
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
      deployment: c.deployment_id ?? "",
    },
  });
  const [told, setTold] = useState("");
  // The form stands on the contact as it was opened, also when it is read anew meanwhile.
  const base = useRef(c.version);
  const save = form.handleSubmit(async (v) => {
    const at = v.at.trim().replace(" ", "T");
    const seconds = at.length > 16;
    const when = new Date(`${at}${seconds ? "" : ":00"}Z`);
    if (Number.isNaN(when.getTime())) {
      form.setError("at", { message: `"${v.at}" is not a time; write it like 2026-05-16 14:05` });
      return;
    }
    const same = v.mode === (c.submode || c.mode);
    try {
      const done = await send<Contact>(
        "PUT",
        `/api/contacts/${c.id}`,
        {
          outing_id: c.outing_id,
          call: v.call.trim().toUpperCase(),
          at: when.toISOString(),
          seconds,
          band: v.band.trim(),
          freq_hz: v.freq ? Math.round(Number(v.freq.replace(",", ".")) * 1e6) : undefined,
          mode: same ? c.mode : v.mode.trim().toUpperCase(),
          submode: same ? c.submode : undefined,
          sent: v.sent,
          received: v.received,
          power_w: v.power ? Number(v.power.replace(",", ".")) : undefined,
          locator: v.locator.trim(),
          other_ref: v.other_ref.trim().toUpperCase(),
          own_ref: v.own_ref.trim().toUpperCase(),
          name: v.name,
          comment: v.comment,
          deployment_id: v.deployment || undefined,
        },
        `Correction of ${c.call}`,
        base.current,
      );
      if (done) say(`${done.call} corrected.`, () => setVersion("contact", c.id, base.current, base.current + 1));
      onDone();
    } catch (e) {
      setTold(showTrouble(form, e, (p) => ({ freq_hz: "freq", power_w: "power" })[p] ?? p));
    }
  });
  return (
    <form onSubmit={save} className="stack" noValidate style={{ padding: "12px 0" }} aria-label={`Correct ${c.call}`}>
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
        <Choose
          form={form}
          name="deployment"
          label="Antenna"
          options={[["", "not noted"], ...outing.tags.map((t) => [t.id, `${t.letter} ${t.name}`] as [string, string])]}
        />
      </div>
      <div className="row">
        <Button type="submit" variant="contained">
          Keep the correction
        </Button>
        <Button variant="outlined" onClick={onDone}>
          Leave it
        </Button>
        <button
          type="button"
          className="linkbtn"
          onClick={async () => {
            await remove("contact", c.id, c.version, `${c.call} is taken out.`);
            onDone();
          }}
        >
          Take it out of the log
        </button>
        <span role="status">{told}</span>
      </div>
      {c.marks?.map((m) => (
        <p key={m} className="note small">
          {m}
        </p>
      ))}
    </form>
  );
}

/** The contacts of an outing, newest first, down to its first one: the newest page, and older ones as one scrolls. */
function usePages(outing: string, newest: Log) {
  const [typed, find] = useState("");
  const words = useLater(typed.trim(), 200);
  const path = `/api/outings/${outing}/log?words=${encodeURIComponent(words)}`;
  const found = useGet<Log>(words === "" ? null : `${path}&most=100`, { keep: true });
  const first = words === "" ? newest : found.data;
  const [wanted, setWanted] = useState("");
  const from = first?.next ?? "";
  const older = useInfiniteQuery({
    queryKey: ["older", outing, words, from],
    queryFn: ({ pageParam }) => call<Log>("GET", `${path}&most=500&before=${pageParam}`),
    initialPageParam: from,
    getNextPageParam: (last: Log) => last.next || undefined,
    enabled: from !== "" && wanted === from,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const open = wanted === from ? older.data?.pages : undefined;
  return {
    typed,
    find,
    rows: [...(first?.rows ?? []), ...(open ?? []).flatMap((p) => p.rows)],
    more: from !== "" && (open === undefined || older.hasNextPage),
    busy: older.isFetching,
    onMore: () => (open === undefined ? setWanted(from) : void older.fetchNextPage()),
  };
}

/** The log: what waits here, then what is kept; each can be corrected in place. */
export function LogTable({ outing, log: l }: { outing: Schemas["OutingDetail"]; log: Log }) {
  const { waiting } = useOutbox();
  const [fixing, setFixing] = useState("");
  const lines = waiting.filter((w) => !w.refused && w.path.endsWith("/line"));
  const { rows, more, busy, onMore, typed, find } = usePages(outing.outing.id, l);
  const end = useRef<HTMLDivElement>(null);
  // Older ones come by themselves as one scrolls to the end of what is shown.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another page moves the end
  useEffect(() => {
    if (!end.current || !more || busy) return;
    const watch = new IntersectionObserver((seen) => seen.some((x) => x.isIntersecting) && onMore());
    watch.observe(end.current);
    return () => watch.disconnect();
  }, [more, busy, rows.length]);
  return (
    <section className="stack tight ruled" aria-label="The log">
      {(l.total > 12 || typed !== "") && (
        <input
          type="search"
          className="find mono"
          aria-label="Find in the log"
          placeholder="find a call, reference or locator"
          value={typed}
          onChange={(e) => find(e.target.value)}
        />
      )}
      <div className="scroll" tabIndex={0} role="region" aria-label="Contacts, newest first">
        <table>
          <thead>
            <tr>
              <th>UTC</th>
              <th>Call</th>
              <th>Band</th>
              <th className="hide-phone">Mode</th>
              <th>Sent</th>
              <th>Rcvd</th>
              <th>With</th>
              <th className="hide-phone">km</th>
              <th className="hide-phone">Site</th>
              <th className="hide-phone">Comment</th>
              <th>
                <span className="skip">Correct</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {lines.map((w) => (
              <tr key={w.key}>
                <td className="mono">{clock(w.at, false)}</td>
                <td className="mono" colSpan={9}>
                  {w.label}
                </td>
                <td className="small clay">kept here</td>
              </tr>
            ))}
            {rows.map((r) => {
              const c = r.contact;
              if (c.id === fixing)
                return (
                  <tr key={c.id}>
                    <td colSpan={11}>
                      <Correct contact={c} outing={outing} onDone={() => setFixing("")} />
                    </td>
                  </tr>
                );
              return (
                <tr key={c.id}>
                  <td className="mono">{clock(c.at, false)}</td>
                  <td className={`mono ${r.duplicate ? "dup" : ""}`}>
                    <b>{c.call}</b>
                    {r.duplicate && <span className="skip"> counts nothing new</span>}
                  </td>
                  <td className="mono">{c.band?.replace("m", " m")}</td>
                  <td className="hide-phone">{r.mode}</td>
                  <td className="mono">{c.sent}</td>
                  <td className="mono">{c.received}</td>
                  <td className="mono copper">{r.letter}</td>
                  <td className="mono hide-phone">{r.km ? `${r.km.toFixed(0)} @ ${r.bearing?.toFixed(0)}°` : ""}</td>
                  <td className="mono hide-phone">{c.other_ref}</td>
                  <td className="hide-phone">{[c.comment, ...(c.marks ?? [])].filter(Boolean).join("; ")}</td>
                  <td>
                    <button
                      type="button"
                      className="linkbtn small"
                      style={{ padding: 0, minHeight: 30 }}
                      onClick={() => setFixing(c.id)}
                      aria-label={`Correct ${c.call} at ${clock(c.at, false)}`}
                    >
                      correct
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {l.total === 0 && lines.length === 0 && (
          <p className="soft" style={{ paddingTop: 10 }}>
            Nobody yet. Type for example <span className="mono">Q2TAV 59 57 40m SSB</span> and press Enter; band and mode then stay.
          </p>
        )}
      </div>
      {typed.trim() !== "" && rows.length === 0 && <p className="soft">None of {l.total} holds that.</p>}
      {more && (
        <div className="row" ref={end}>
          <Button variant="outlined" disabled={busy} onClick={onMore}>
            {busy ? "Opening older ones" : "Older contacts"}
          </Button>
          <span className="small soft">
            {rows.length} of {l.total}
          </span>
        </div>
      )}
    </section>
  );
}
