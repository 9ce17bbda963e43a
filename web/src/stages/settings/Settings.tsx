import Button from "@mui/material/Button";
import { Fragment } from "react";
import type { UseFormReturn } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { metres } from "../../draw/numbers";
import { Below } from "../../parts/Below";
import { Fold } from "../../parts/Fold";
import { Choose, Field, Picks } from "../../parts/fields";
import { Opening } from "../../parts/Opening";
import { type Light, lightNames, lights, setLight, useLight } from "../../theme/light";
import { Devices } from "./Devices";
import { Schemes } from "./Schemes";
import { type Form, rows, useSettings } from "./useSettings";
import "./settings.css";

/** Settings: who writes, in which units, and what counts. */
export default function Settings() {
  const { me, reference, form, save, told } = useSettings();
  const light = useLight();
  if (!me.data || !reference.data) return <Opening of={[me, reference]} />;
  return (
    <div className="stack">
      <form onSubmit={save} noValidate className="stack">
        <div className="say">
          <h1>{me.data.call ? `${me.data.call}: station settings` : "Set up your station"}</h1>
          <p>SWR is rated inside these segments. They are the usual ones for your region: check them against your licence.</p>
        </div>
        <Below>
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
              label="Acceptable SWR"
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
              help="host and port, like 192.168.4.1:7390; leave empty if you have none"
              autoComplete="off"
              className="full"
            />
            <Field
              form={form}
              name="radio"
              label="Radio on the network"
              help="host and port; leave empty for the simulated radio"
              autoComplete="off"
              className="full"
            />
          </div>
          <Picks
            legend="Light (key t)"
            name="light"
            value={light}
            onChange={(v) => setLight(v as Light)}
            options={lights.map((l) => ({ id: l, label: lightNames[l] }))}
          />
          <div>
            <Button type="submit" variant="contained">
              Save settings
            </Button>{" "}
            <span role="status">{told}</span>
          </div>
          <Fold head name="Your segments, MHz" says="where SWR counts">
            <Segments form={form} customs={reference.data.segments} />
          </Fold>
        </Below>
      </form>
      <Below>
        <Fold head name="Activation rules" says="minimum, duplicates, references, operators">
          <Schemes />
        </Fold>
        <Fold head name="Devices">
          <Devices />
        </Fold>
      </Below>
    </div>
  );
}

/** The parts of the bands that count, and the way back to the region's customs. */
function Segments({ form, customs }: { form: UseFormReturn<Form>; customs: Schemas["Segment"][] }) {
  const segments = form.watch("segments") ?? [];
  const bands = [...new Set(segments.map((s) => s.band))];
  return (
    <>
      <div className="segments">
        {bands.map((b) => (
          <Fragment key={b}>
            <b className="mono">{metres(b)}</b>
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
        <Button variant="outlined" onClick={() => form.setValue("segments", rows(customs), { shouldDirty: true })}>
          Reset to the defaults of region {form.watch("region")}
        </Button>
      </div>
    </>
  );
}
