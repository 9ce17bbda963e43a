import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { answered, NoLink, type Schemas, Trouble, useGet, useMe, wire } from "../../api/client";
import { send } from "../../api/outbox";
import { many } from "../../draw/numbers";
import { base64, FileButton } from "../../parts/Import";
import { Opening } from "../../parts/Opening";
import { keepDeployment } from "../../parts/place";
import { Tag } from "../../parts/Tag";
import { remove, say } from "../../parts/Undo";
import { Recipes } from "./Recipes";
import { LookRound } from "./Round";
import "./Shelf.css";

function OutingRow({ item }: { item: Schemas["OutingSummary"] }) {
  const go = useNavigate();
  const o = item.outing;
  return (
    <li className="ruled stack tight">
      <div className="row baseline">
        <Link to={`/o/${o.id}/scout`} className="title">
          {o.name}
        </Link>
        <span className="mono">{o.date}</span>
        <span className="soft">
          {many(item.contacts, "contact")}. {item.sentence}
        </span>
        <a className="linkbtn small end" href={`/api/outings/${o.id}/bundle.zip`} download={`${o.name}.zip`}>
          Bundle
        </a>
        <button
          type="button"
          className="linkbtn small"
          onClick={async () => {
            await remove("outing", o.id, o.version, `${o.name} is deleted.`);
          }}
        >
          Delete
        </button>
      </div>
      <div className="tagrow">
        {item.tags.map((t) => (
          <Tag
            key={t.id}
            tag={t}
            onClick={() => {
              keepDeployment(o.id, t.id);
              void go(`/o/${o.id}/${t.state === "planned" ? "raise" : "sweep"}`);
            }}
          />
        ))}
        {item.tags.length === 0 && <Link to={`/o/${o.id}/cut`}>No antenna yet: plan one</Link>}
      </div>
    </li>
  );
}

export function Shelf() {
  const me = useMe();
  const list = useGet("/api/outings");
  const go = useNavigate();
  const begin = (
    <Button variant="contained" onClick={() => go(`/o/${uuid()}/scout?new=1`)}>
      New outing
    </Button>
  );
  if (!me.data || !list.data) return <Opening of={[me, list]} />;
  if (me.data.call === "")
    return (
      <div className="stack say">
        <h1>Welcome. Start with your callsign and region.</h1>
        <p>Your call, region and segments decide where SWR counts. It takes a minute and can be changed at any time.</p>
        <div>
          <Button variant="contained" onClick={() => go("/settings")}>
            Set up your station
          </Button>
        </div>
        <LookRound />
      </div>
    );
  if (list.data.length === 0)
    return (
      <div className="stack say">
        <h1>Add your first outing.</h1>
        <p>
          An outing is one place on one day. Give it a name such as “Gannet Spit” and a locator such as IN36; the antennas, sweeps and
          contacts then belong to it.
        </p>
        <div>{begin}</div>
        <Merge />
        <LookRound />
      </div>
    );
  const n = list.data.length;
  return (
    <>
      <div className="row between">
        <h1>
          {many(n, "outing")}, the last at {list.data[0]?.outing.name}.
        </h1>
        {begin}
      </div>
      <Conflicts />
      <ul className="stack plain">
        {list.data.map((i) => (
          <OutingRow key={i.outing.id} item={i} />
        ))}
      </ul>
      <Recipes />
      <Merge />
    </>
  );
}

type Merged = Schemas["MergedBundle"];

const whats: Record<string, string> = {
  new: "new",
  theirs: "changed by them",
  joined: "changed by both, joined",
  conflict: "changed by both in the same field",
  removed: "deleted by them",
};

/** Another notebook's bundle: what it would change is listed before anything is, and a merge is undone as one step. */
function Merge() {
  const [told, setTold] = useState("");
  const [file, setFile] = useState<{ name: string; content: string }>();
  const [seen, setSeen] = useState<Merged>();
  // Without the link nothing can be listed, but the bundle can be kept for later.
  const [blind, setBlind] = useState(false);
  const queries = useQueryClient();
  const close = () => {
    setFile(undefined);
    setSeen(undefined);
    setBlind(false);
  };
  const tried = async (what: () => Promise<void>) => {
    try {
      await what();
    } catch (e) {
      close();
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  const look = (f: File) =>
    tried(async () => {
      setTold("Reading…");
      close();
      const body = { name: f.name, content: await base64(f) };
      setFile(body);
      try {
        setSeen(await answered(wire.POST("/api/bundles", { body: { ...body, preview: true } })));
      } catch (e) {
        if (!(e instanceof NoLink)) throw e;
        setBlind(true);
      }
      setTold("");
    });
  const take = () =>
    tried(async () => {
      if (!file) return;
      const got = await send("post", "/api/bundles", {}, file, `Merge of ${file.name}`);
      close();
      setTold(got ? got.says : "No connection: the bundle is saved on this device and merged later.");
      if (!got) return;
      const number = got.merged.id;
      if (number)
        say(got.says, async () => {
          await answered(wire.DELETE("/api/merges/{number}", { params: { path: { number } } }));
          setTold("The merge is undone.");
          await queries.invalidateQueries();
        });
    });
  // What is here already comes first: what is new replaces nothing.
  const listed = (seen?.merged.changes ?? []).toSorted((a, b) => Number(a.what === "new") - Number(b.what === "new")).slice(0, 40);
  const more = Object.entries(seen?.merged.counts ?? {}).reduce((n, [what, c]) => n + (what in whats ? c : 0), 0) - listed.length;
  return (
    <section className="stack tight" aria-label="Other notebooks">
      <div className="row">
        <Link to="/record" className="linkbtn">
          Antenna records
        </Link>
        <FileButton label="Merge a bundle" name="bundle" accept=".zip,application/zip" onFile={(f) => void look(f)} />
        <a className="linkbtn" href="/api/bundle.zip" download="notebook.zip">
          Export the whole notebook
        </a>
        <span role="status">{told}</span>
      </div>
      {blind && (
        <div className="ruled stack tight">
          <h2>No connection: the changes of this bundle cannot be listed now.</h2>
          <p>A merge replaces nothing, and can be undone as one step.</p>
          <div className="row">
            <Button variant="contained" onClick={() => void take()}>
              Merge when connected
            </Button>
            <Button variant="outlined" onClick={close}>
              Cancel
            </Button>
          </div>
        </div>
      )}
      {seen && (
        <div className="ruled stack tight">
          <h2>{seen.says}</h2>
          <div className="row">
            {(listed.length > 0 || seen.merged.reports > 0 || (seen.merged.counts.earlier ?? 0) > 0) && (
              <Button variant="contained" onClick={() => void take()}>
                Merge it
              </Button>
            )}
            <Button variant="outlined" onClick={close}>
              Cancel
            </Button>
          </div>
          {listed.length > 0 && (
            <table className="dense">
              <tbody>
                {listed.map((c) => (
                  <tr key={c.kind + c.id}>
                    <td>{whats[c.what]}</td>
                    <td>{c.kind}</td>
                    <td className="mono">{c.label}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {more > 0 && <p className="small soft">and {more} more</p>}
        </div>
      )}
    </section>
  );
}

/** Fields that two notebooks changed, each in its own way: all values side by side, until one is chosen. */
function Conflicts() {
  const list = useGet("/api/conflicts").data ?? [];
  if (list.length === 0) return null;
  return (
    <section className="stack" aria-label="Conflicts">
      <h2>{many(list.length, "conflict")} to decide. Nothing is lost: what you do not choose stays in history.</h2>
      {list.map((c) => (
        <OneConflict key={c.kind + c.id} of={c} />
      ))}
    </section>
  );
}

function OneConflict({ of: c }: { of: Schemas["MergeConflict"] }) {
  // The value that is shown now is the last.
  const [choice, setChoice] = useState<Record<string, number>>(() =>
    Object.fromEntries(c.fields.map((f) => [f.path, f.values.length - 1])),
  );
  const [told, setTold] = useState("");
  const queries = useQueryClient();
  const decide = async () => {
    try {
      await answered(
        wire.POST("/api/conflicts/{kind}/{id}", { params: { path: { kind: c.kind, id: c.id } }, body: { from: c.version, choice } }),
      );
      await queries.invalidateQueries();
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <div className="note error stack tight">
      <p>
        <b>
          {c.kind} {c.label}
        </b>
      </p>
      {c.fields.map((f) => (
        <fieldset key={f.path} className="row both">
          <legend>{f.label}</legend>
          {f.values.map((v, n) => (
            <label key={n} className="tall">
              <input
                type="radio"
                name={`${c.kind}:${c.id}:${f.path}`}
                checked={choice[f.path] === n}
                onChange={() => setChoice({ ...choice, [f.path]: n })}
              />{" "}
              <span className="mono">{v}</span>
            </label>
          ))}
        </fieldset>
      ))}
      <div className="row">
        <Button variant="contained" onClick={() => void decide()}>
          Save the selection
        </Button>
        <span role="status">{told}</span>
      </div>
    </div>
  );
}
