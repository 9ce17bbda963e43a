import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useRef, useState } from "react";
import { v7 as uuid } from "uuid";
import { type Schemas, Trouble, useGet } from "../../api/client";
import { send } from "../../api/outbox";
import { many } from "../../draw/numbers";
import { FileButton, PreviewNotes, useImport } from "../../parts/Import";
import { say } from "../../parts/Undo";

/** A log from elsewhere: looked at first, then added. */
export function ImportLog({ outing }: { outing: Schemas["OutingDetail"] }) {
  const id = outing.outing.id;
  const file = useImport(id);
  const fresh = useRef(uuid());
  const [told, setTold] = useState("");
  const p = file.preview;
  const keep = async () => {
    const batch = fresh.current;
    if (!file.input) return;
    try {
      const done = await send("put", "/api/imports/{id}", { id: batch }, { ...file.input, outing_id: id }, `Import of ${p?.name}`);
      fresh.current = uuid();
      file.close();
      say(
        done
          ? `${many(done.added, p?.kind === "reports" ? "report" : "contact")} added.`
          : "No connection: the import is saved on this device.",
        () => send("delete", "/api/imports/{id}", { id: batch }, undefined, "undo of an import"),
      );
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <div className="stack">
      <div className="row">
        <FileButton
          label="Import a log, or reports"
          name="log-file"
          accept=".adi,.adif,.adx,.csv,.tsv,.txt,text/*"
          onFile={(f) => void file.open(f)}
        />
        <Export outing={outing} />
        {file.busy && <span role="status">Reading…</span>}
      </div>
      {(file.trouble || told) && (
        <div className="note error" role="alert">
          {file.trouble || told}
        </div>
      )}
      {p?.sweep && (
        <div className="note error" role="alert">
          This is a sweep, not a log. Attach it in Sweep.
        </div>
      )}
      {p?.records && <Preview of={p} file={file} onKeep={() => void keep()} />}
      {p?.kind === "reports" && <HeardPreview of={p} file={file} onKeep={() => void keep()} />}
    </div>
  );
}

/** The log as files: all of it, what counts by a rule, or what counts for one reference. */
function Export({ outing }: { outing: Schemas["OutingDetail"] }) {
  const [of, setOf] = useState("");
  const rules = useGet("/api/schemes");
  const { id, name, date, own_ref } = outing.outing;
  const refs = (own_ref ?? "").split(",").filter(Boolean);
  return (
    <>
      {(["adi", "adx", "csv", "geojson"] as const).map((form) => (
        <a key={form} className="linkbtn" href={`/api/outings/${id}/log.${form}${of}`} download={`${name}-${date}.${form}`}>
          {{ adi: "Export as ADIF", adx: "ADX", csv: "CSV", geojson: "GeoJSON" }[form]}
        </a>
      ))}
      <TextField
        select
        label="of it"
        value={of}
        onChange={(e) => setOf(e.target.value)}
        slotProps={{ select: { native: true }, inputLabel: { shrink: true }, htmlInput: { "aria-label": "Export" } }}
      >
        <option value="">all contacts</option>
        {refs.map((r) => (
          <option key={r} value={`?ref=${encodeURIComponent(r)}`}>
            for {r}
          </option>
        ))}
        {rules.data?.map(({ scheme: s }) => (
          <option key={s.id} value={`?scheme=${s.id}`}>
            what counts: {s.name}
          </option>
        ))}
        {refs.length > 1 &&
          refs.map((r) => (
            <option key={r} value={`?ref=${encodeURIComponent(r)}&scheme=${outing.outing.scheme || rules.data?.[0]?.scheme.id}`}>
              what counts for {r}
            </option>
          ))}
      </TextField>
    </>
  );
}

/** Reception reports as they would be taken. */
function HeardPreview({ of: p, file, onKeep }: { of: Schemas["Preview"]; file: ReturnType<typeof useImport>; onKeep: () => void }) {
  const shown = (p.reports ?? []).slice(0, 8);
  return (
    <section className="stack ruled" aria-label="Preview of the reports">
      <h2>
        {p.counts.added} of {many(p.counts.records, "report")} would be added
      </h2>
      <PreviewNotes of={p} choose={(c, v) => void file.choose(c, v)} />
      <div className="scroll">
        <table className="small">
          <tbody>
            {shown.map((r) => (
              <tr key={r.number} className={r.taken && !r.known ? "" : "dup"}>
                <td className="mono">{r.line}</td>
                <td className="mono">{r.at.slice(0, 19).replace("T", " ")}</td>
                <td className="mono">
                  {r.receiver} heard {r.sender}
                </td>
                <td className="mono">{r.band}</td>
                <td className="mono">{r.snr_db === null ? "" : `${r.snr_db} dB`}</td>
                <td className="mono">{r.power_w === null ? "" : `${Number(r.power_w.toPrecision(3))} W`}</td>
                <td>{r.known ? "known" : r.taken ? "" : "skipped"}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {p.counts.records > shown.length && <p className="small soft">and {p.counts.records - shown.length} more</p>}
      </div>
      <div className="row">
        <Button variant="contained" disabled={p.counts.added === 0} onClick={onKeep}>
          Add {many(p.counts.added, "report")}
        </Button>
        <Button variant="outlined" onClick={file.close}>
          Cancel
        </Button>
      </div>
    </section>
  );
}

/** What would be added, before anything is written. */
function Preview({ of: p, file, onKeep }: { of: Schemas["Preview"]; file: ReturnType<typeof useImport>; onKeep: () => void }) {
  const added = p.counts.added ?? 0;
  const records = p.records ?? [];
  return (
    <section className="stack ruled" aria-label="Preview of the log">
      <h2>
        {added} of {many(p.counts.records, "contact")} would be added
      </h2>
      <p>
        {p.kind}, {p.encoding}. Fields that are not known here are carried along. Nothing is stored yet.
      </p>
      <PreviewNotes of={p} choose={(c, v) => void file.choose(c, v)} />
      <div className="scroll">
        <table>
          <tbody>
            {records.slice(0, 8).map((r) => (
              <tr key={r.number} className={r.taken && !r.known ? "" : "dup"}>
                <td className="mono small">{r.line}</td>
                <td className="mono">{r.contact.call || "no call"}</td>
                <td className="mono">{r.taken ? r.contact.at.slice(0, 16).replace("T", " ") : ""}</td>
                <td className="mono">{r.contact.band}</td>
                <td>{r.contact.submode || r.contact.mode}</td>
                <td className="small">{r.known ? "known" : r.taken ? "" : "skipped"}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {p.counts.records > 8 && <p className="small soft">and {p.counts.records - 8} more</p>}
      </div>
      <div className="row">
        <Button variant="contained" disabled={added === 0} onClick={onKeep}>
          Add {many(added, "contact")}
        </Button>
        <Button variant="outlined" onClick={file.close}>
          Cancel
        </Button>
      </div>
    </section>
  );
}
