import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { answered, NoLink, type Schemas, useGet, useMe, wire } from "../../api/client";
import { send } from "../../api/outbox";
import { slot } from "../../parts/AskFields";
import { keepDraft, useDraft, useLater } from "../../parts/draft";
import { keepDeployment } from "../../parts/place";
import { useComputed } from "../../parts/useComputed";
import { empty } from "../cut/plan";

/** What is typed of a site and of what one goes there for. */
export type Typed = {
  site: string;
  name: string;
  lines: string;
  from: string;
  until: string;
  bands: string;
  where: "anywhere" | "near" | "far";
  near: string;
  bearing: string;
  km: string;
  mode: string;
  minutes: string;
  carry: string;
  kg: string;
  wind: string;
  sunspots: string;
  high: string;
  alone: boolean;
  storm: boolean;
  bulletin: string;
  noise: string;
  /** Where the pole was put, in metres east and north; anywhere without it. */
  foot?: [number, number];
};

const number = (t: string) => (t.trim() === "" ? undefined : Number(t.replace(",", ".")));
const listed = (t: string) => t.split(/[\s;]+/).filter(Boolean);
/** What is no number is sent as one that cannot be, so that the server says so at its field. */
const sent = (t: string) => {
  const n = number(t);
  return n !== undefined && Number.isNaN(n) ? -1 : n;
};

function typedOf(o: Schemas["Outing"], kept?: Schemas["Site"]): Typed {
  const p = o.purpose;
  return {
    site: o.site ?? "",
    name: kept?.name ?? o.name,
    lines: (kept?.lines ?? []).join("\n"),
    from: p?.from ?? "09:00",
    until: p?.until ?? o.until ?? "15:00",
    bands: (p?.frequencies_mhz ?? [14.06, 7.03]).join(" "),
    where: p?.far ? "far" : p?.near_km ? "near" : "anywhere",
    near: String(p?.near_km ?? 500),
    bearing: String(p?.far?.bearing ?? 290),
    km: String(p?.far?.km ?? 3000),
    mode: p?.mode ?? "cw",
    minutes: String(p?.setup_minutes ?? ""),
    carry: String(p?.carry_minutes ?? ""),
    kg: String(p?.most_kg ?? ""),
    wind: String(p?.wind_ms ?? ""),
    sunspots: String(p?.sunspots ?? ""),
    high: (p?.high_water ?? []).join(" "),
    alone: p?.alone ?? false,
    storm: p?.storm ?? false,
    bulletin: p?.bulletin ?? "",
    foot: p?.foot as Typed["foot"],
    noise: kept?.noise ?? "rural",
  };
}

function purposeOf(t: Typed, date: string, power: number | undefined, weights?: Schemas["ScoutWeights"]): Schemas["Purpose"] {
  return {
    date,
    from: t.from || undefined,
    until: t.until || undefined,
    frequencies_mhz: listed(t.bands).map((b) => sent(b) ?? -1),
    near_km: t.where === "near" ? sent(t.near) : undefined,
    far: t.where === "far" ? { bearing: sent(t.bearing) ?? -1, km: sent(t.km) ?? -1 } : undefined,
    mode: t.mode,
    power_w: power,
    setup_minutes: sent(t.minutes),
    carry_minutes: sent(t.carry),
    most_kg: sent(t.kg),
    wind_ms: sent(t.wind),
    sunspots: sent(t.sunspots),
    high_water: listed(t.high).slice(0, 4),
    alone: t.alone || undefined,
    storm: t.storm || undefined,
    bulletin: t.bulletin.trim() || undefined,
    foot: t.foot,
    weights,
  };
}

/** What is typed of an outing's site, what it comes to, and what fits it. */
export function useScout(outing: Schemas["OutingDetail"]) {
  const o = outing.outing;
  const me = useMe();
  const shelf = useGet("/api/sites");
  const kept = shelf.data?.sites.find((x) => x.id === o.site);
  const [typed, put, forget] = useDraft<Typed | null>(`scout:${o.id}`, null);
  const v = typed ? { ...typedOf(o, kept), ...typed } : typedOf(o, kept);
  const [dragged, setWeights] = useState<Schemas["ScoutWeights"] | undefined>(o.purpose?.weights);
  const weights = dragged ?? shelf.data?.weights;
  const [at, setAt] = useState(0);
  const [told, setTold] = useState("");
  const unit = me.data?.imperial ? "ft" : "m";
  const set = (change: Partial<Typed>) => put({ ...v, ...change });
  const lines = useLater(v.lines, 250).split("\n");
  const read = useQuery<Schemas["SiteRead"], Error>({
    queryKey: ["site", lines, unit],
    queryFn: () => answered(wire.POST("/api/sites/lines", { body: { lines, unit } })),
    placeholderData: (before) => before,
  });
  const wrong = (read.data?.faults ?? []).some((f) => f.severity === "error");
  const site: Schemas["Site"] = {
    id: v.site || o.id,
    name: v.name || o.name,
    place: o.place,
    ground: o.ground,
    noise: v.noise,
    unit,
    lines,
    version: 0,
  };
  const ready = me.data && shelf.data && !wrong && !read.isPlaceholderData && read.data;
  const settled = useLater(purposeOf(v, o.date, me.data?.power_w, weights), 200);
  const computed = useComputed("scout", "scout", ready ? { site, purpose: settled } : undefined);
  // The last answer stays with the page: the packing list is ticked where there is no link.
  const [last, keepLast] = useDraft<Schemas["ScoutAnswer"] | null>(`scouted:${o.id}`, null);
  useEffect(() => {
    if (computed.result) keepLast(computed.result);
    if (computed.result) setAt(0);
  }, [computed.result, keepLast]);
  const answer = { ...computed, result: computed.result ?? last ?? undefined };
  const change = async (how: Pick<Schemas["SiteLines"], "move" | "add">) => {
    setTold("");
    try {
      const done = await answered(wire.POST("/api/sites/lines", { body: { lines: v.lines.split("\n"), unit, ...how } }));
      set({ lines: done.lines.join("\n") });
    } catch (e) {
      setTold(`Not changed: ${e instanceof NoLink ? "no connection." : (e as Error).message}`);
    }
  };
  const move = (line: number, point: number, to: [number, number]) => change({ move: { line, point, to } });
  const add = (kind: string, points: [number, number][]) => change({ add: { kind, points } });
  const fetchBulletin = async () => {
    setTold("");
    try {
      const got = await answered(wire.GET("/api/bulletin", { params: { query: { place: o.place ?? "", date: o.date } } }));
      set({ bulletin: got.text });
    } catch (e) {
      setTold(e instanceof NoLink ? "No connection: type the bulletin." : (e as Error).message);
    }
  };
  const save = async () => {
    setTold("");
    const id = v.site || uuid();
    try {
      const version = shelf.data?.sites.find((x) => x.id === id)?.version ?? 0;
      await send("put", "/api/sites/{id}", { id }, { ...site, id }, `Site ${v.name}`, version);
      const purpose = purposeOf(v, o.date, undefined, weights);
      const done = await send("put", "/api/outings/{id}", { id: o.id }, { ...o, site: id, purpose }, `Outing ${o.name}`, o.version);
      if (done) forget();
      else set({ site: id });
      setTold(done ? "Saved." : "No connection: saved on this device, synced later.");
    } catch (e) {
      setTold(e instanceof Error ? e.message : String(e));
    }
  };
  return {
    v,
    set,
    weights,
    setWeights,
    at,
    setAt,
    read: read.data,
    answer,
    shelf: shelf.data,
    move,
    add,
    save,
    fetchBulletin,
    told,
    outing: o,
  };
}

export type Scouting = ReturnType<typeof useScout>;

/** Carries a candidate on: a recipe is laid out, a plan stands filled in at Cut. */
export function useCarry(outing: Schemas["Outing"]) {
  const go = useNavigate();
  return async (c: Schemas["ScoutCandidate"]) => {
    if (c.recipe) {
      const id = uuid();
      const done = await send(
        "put",
        "/api/deployments/{id}/layout",
        { id },
        { outing_id: outing.id, recipe_id: c.recipe, name: c.name },
        `Lay out ${c.name}`,
      );
      keepDeployment(outing.id, id);
      if (!done) throw new Error("No connection: saved on this device, placed when it is back.");
      void go(`/o/${outing.id}/raise`);
      return;
    }
    const t = Object.fromEntries(Object.entries(c.texts ?? {}).map(([k, text]) => [slot(k).slice(2), text]));
    const { wire: reel = "", ...parts } = c.parts ?? {};
    keepDraft(`cut:${outing.id}:new`, {
      ...empty,
      family: c.family,
      variant: c.variant,
      wire: reel ? `bag:${reel}` : "pvc",
      parts,
      t: { ...empty.t, ...t },
    });
    keepDeployment(outing.id, "new");
    void go(`/o/${outing.id}/cut`);
  };
}
