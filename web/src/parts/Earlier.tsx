import Button from "@mui/material/Button";
import { useState } from "react";
import { type Schemas, useGet } from "../api/client";
import { many } from "../draw/numbers";
import { Opening } from "./Opening";
import { failed, say, setVersion } from "./Undo";

type Kind = Schemas["VersionInput"]["kind"];

/** The earlier versions of a kept thing, other notebooks' too: what each has that the current one has not, and the way back to it. */
export function Earlier({ kind, id, onBack }: { kind: Kind; id: string; onBack?: () => void }) {
  const [open, setOpen] = useState(false);
  return (
    <details className="fold" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Earlier versions</summary>
      {open && <Versions kind={kind} id={id} onBack={onBack} />}
    </details>
  );
}

function Versions({ kind, id, onBack }: { kind: Kind; id: string; onBack?: () => void }) {
  const asked = useGet("/api/versions/{kind}/{id}", { path: { kind, id } });
  if (!asked.data) return <Opening of={[asked]} />;
  const { current, list } = asked.data;
  const bring = (version: number) =>
    setVersion(kind, id, version, current).then((done) => {
      if (done) say(`Version ${version} is back.`, () => setVersion(kind, id, current, done.version));
      onBack?.();
    }, failed);
  if (list.length === 0) return <p className="soft">There is none: it was never changed.</p>;
  return (
    <ul className="plain stack tight" aria-label="Earlier versions">
      {list.map((v) => (
        <li key={v.version} className="row both">
          <span>
            {v.at ? `${v.at.slice(0, 10)} ${v.at.slice(11, 16)} UTC` : "the first"}:{" "}
            <span className="mono small">{v.deleted ? "deleted" : what(v.fields)}</span>
          </span>
          <Button variant="outlined" size="small" aria-label={`Bring back version ${v.version}`} onClick={() => void bring(v.version)}>
            Bring back
          </Button>
        </li>
      ))}
    </ul>
  );
}

const shown = 4;

/** What an earlier version has in the fields that are different now. */
function what(fields: Schemas["EarlierField"][]) {
  if (fields.length === 0) return "the same as now";
  const rest = fields.length - shown;
  return (
    fields
      .slice(0, shown)
      .map((f) => `${f.label}: ${f.was}`)
      .join("; ") + (rest > 0 ? `; and ${many(rest, "more field")}` : "")
  );
}
