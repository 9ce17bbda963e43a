import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { answered, type Schemas, Trouble, useGet, useMe, wire } from "../../api/client";
import { many } from "../../draw/numbers";
import { base64, FileButton } from "../../parts/Import";
import { Opening } from "../../parts/Opening";
import { keepDeployment } from "../../parts/place";
import { Tag } from "../../parts/Tag";
import { remove } from "../../parts/Undo";
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
        <button
          type="button"
          className="linkbtn small end"
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
      Begin an outing
    </Button>
  );
  if (!me.data || !list.data) return <Opening of={[me, list]} />;
  if (me.data.call === "")
    return (
      <div className="stack say">
        <h1>A new notebook. Say first who writes in it.</h1>
        <p>Your call, region and segments decide where SWR counts. It takes a minute and can be changed at any time.</p>
        <div>
          <Button variant="contained" onClick={() => go("/settings")}>
            Set up yourself
          </Button>
        </div>
        <LookRound />
      </div>
    );
  if (list.data.length === 0)
    return (
      <div className="stack say">
        <h1>The shelf is empty. Begin with where you go.</h1>
        <p>
          An outing is one place on one day. Give it a name such as “Gannet Spit” and a locator such as IN36; the antennas, sweeps and
          contacts then belong to it.
        </p>
        <div>{begin}</div>
        <BringIn />
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
      <ul className="stack plain">
        {list.data.map((i) => (
          <OutingRow key={i.outing.id} item={i} />
        ))}
      </ul>
      <Recipes />
      <BringIn />
    </>
  );
}

/** Outings of another notebook, as a bundle: what is new or newer comes in. */
function BringIn() {
  const [told, setTold] = useState("");
  const queries = useQueryClient();
  const take = async (file: File) => {
    setTold("Reading…");
    try {
      const got = await answered(wire.POST("/api/bundles", { body: { name: file.name, content: await base64(file) } }));
      await queries.invalidateQueries();
      setTold(got.says);
    } catch (e) {
      setTold(e instanceof Trouble ? e.whole : String(e));
    }
  };
  return (
    <div className="row">
      <Link to="/record" className="linkbtn">
        What the antennas did over all outings
      </Link>
      <FileButton label="Bring in a bundle" name="bundle" accept=".zip,application/zip" onFile={(f) => void take(f)} />
      <span role="status">{told}</span>
    </div>
  );
}
