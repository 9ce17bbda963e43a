import { type Schemas, useReference } from "../../api/client";
import { type Asked, slot } from "../../parts/AskFields";
import type { Form } from "./asBuilt";

/** The set-up on one sheet of paper: what stands, what is dangerous, and room for what is found on the spot. */
export function OnPaper({
  outing: o,
  name,
  family,
  revision,
  form: v,
  fields,
  things,
  unit,
  of,
}: {
  outing: Schemas["Outing"];
  name: string;
  family: string;
  revision: string;
  form: Form;
  fields: Asked[];
  things: Schemas["BagThing"][];
  unit: string;
  of?: Schemas["Checked"];
}) {
  const reference = useReference().data;
  const kind = reference?.families.find((f) => f.id === family);
  const hung = kind?.variants.find((x) => x.id === v.variant)?.name;
  const typed = (f: Asked) => v.t[slot(f.id).slice(2)] ?? "";
  const figures: [string, string][] = [
    ...fields.map((f): [string, string] => [f.label, f.options?.find((x) => x.id === typed(f))?.name ?? typed(f)]),
    ["Coax", things.find((x) => `bag:${x.part.id}` === v.coax)?.part.name ?? [v.coax_length, v.coax].filter(Boolean).join(" of ")],
    [
      "Choke",
      { "": "none", feed: "at the feed point", along: `${v.choke_distance} from the feed`, radio: "at the radio" }[v.choke] ?? v.choke,
    ],
    ["Power", v.power && `${v.power} W`],
  ];
  return (
    <section className="onpaper sheetpaper">
      <p>
        <b>{name}</b>, {kind?.name.toLowerCase()}
        {hung && `, ${hung}`}, {revision}. {o.name}, {o.date}
        {o.place && `, ${o.place}`}. Lengths without a unit in {unit}.
      </p>
      <table>
        <thead>
          <tr>
            <th>What</th>
            <th>Recorded</th>
            <th>Measured on site</th>
          </tr>
        </thead>
        <tbody>
          {figures
            .filter(([, is]) => is)
            .map(([what, is]) => (
              <tr key={what}>
                <td>{what}</td>
                <td className="mono">{is}</td>
                <td />
              </tr>
            ))}
        </tbody>
      </table>
      <ul className="boxes">
        {(of?.cautions ?? []).map((c) => (
          <li key={c.code}>
            {v.confirmed.includes(c.code) ? "☑" : "☐"} {c.title}
            {c.figure && `: ${c.figure}`}
          </li>
        ))}
      </ul>
      <p>Estimates; local rules, the land's owner and the licence decide.</p>
    </section>
  );
}
