import { geoAzimuthalEquidistant, geoCircle, geoPath } from "d3-geo";
import { useMemo, useState } from "react";
import { feature } from "topojson-client";
import type { GeometryCollection, Topology } from "topojson-specification";
import world from "world-atlas/land-110m.json";
import type { Schemas } from "../../api/client";
import { AerialMark } from "../../draw/Aerials";

const land = feature(world as unknown as Topology, (world as unknown as { objects: { land: GeometryCollection } }).objects.land);
const sphere = { type: "Sphere" } as const;
const size = 560;
const earth = 6371.0088;
const degrees = (km: number) => ((km / earth) * 180) / Math.PI;
const rings = [500, 1000, 2000, 5000, 10000, 15000];

type Props = { who: Schemas["WhoHeard"]; number: (deployment: string) => number; pick: (receiver: string) => void; picked: string };

/** Who heard one, as it lies from where one is: every distance and bearing from the middle is right. */
export function HeardMap({ who, number, pick, picked }: Props) {
  const placed = who.receivers.filter((r) => r.lat !== undefined && r.lon !== undefined);
  const farthest = Math.max(600, ...placed.map((r) => (r.heard.distance_m ?? 0) / 1000));
  const [reach, setReach] = useState(0);
  const km = reach || Math.min(20000, farthest * 1.1);
  const { path, projection } = useMemo(() => {
    const projection = geoAzimuthalEquidistant()
      .rotate([-(who.lon ?? 0), -(who.lat ?? 0)])
      .clipAngle(Math.min(179.9, degrees(km)))
      .translate([size / 2, size / 2])
      .scale((size / 2 - 14) / ((degrees(km) * Math.PI) / 180))
      .precision(0.3);
    return { projection, path: geoPath(projection) };
  }, [who.lat, who.lon, km]);
  if (who.lat === undefined || who.lon === undefined) return <p className="note">The outing has no position, so there is no map.</p>;
  const home: [number, number] = [who.lon, who.lat];
  return (
    <figure className="heardmap">
      <svg viewBox={`0 0 ${size} ${size}`} width="100%" role="group" aria-label={`Map around your station, out to ${Math.round(km)} km`}>
        <path d={path(sphere) ?? ""} className="map-sea" />
        <path d={path(land) ?? ""} className="map-land" />
        {rings
          .filter((r) => r < km && r > km / 9)
          .map((r) => (
            <g key={r}>
              <path d={path(geoCircle().center(home).radius(degrees(r))()) ?? ""} className="map-ring" />
              <text x={size / 2 + 4} y={size / 2 - ((size / 2 - 14) * r) / km - 3} className="map-text mono">
                {r} km
              </text>
            </g>
          ))}
        {["N", "E", "S", "W"].map((n, i) => (
          <text
            key={n}
            x={size / 2 + Math.sin((i * Math.PI) / 2) * (size / 2 - 22)}
            y={size / 2 - Math.cos((i * Math.PI) / 2) * (size / 2 - 22) + 5}
            textAnchor="middle"
            className="map-text"
          >
            {n}
          </text>
        ))}
        <circle cx={size / 2} cy={size / 2} r="4" className="map-home" />
        {placed.map((r) => {
          const at = projection([r.lon ?? 0, r.lat ?? 0]);
          if (!at || (r.heard.distance_m ?? 0) / 1000 > km) return null;
          const n = number(r.heard.deployment_id);
          return (
            // Marks of one receiver for two antennas stand beside each other, not on each other.
            // biome-ignore lint/a11y/noStaticElementInteractions: the list below opens the same by keyboard
            <g key={`${r.heard.receiver}${r.heard.deployment_id}`} className="map-mark" onClick={() => pick(r.heard.receiver)}>
              <title>{`${r.heard.receiver}: ${r.heard.reports} reports`}</title>
              <AerialMark
                n={n}
                x={at[0] + 5 * Math.max(0, n)}
                y={at[1]}
                size={0.7 + 0.25 * Math.log10(r.heard.reports)}
                solid={picked === r.heard.receiver}
              />
            </g>
          );
        })}
      </svg>
      <label className="row small">
        out to
        <select className="pick" aria-label="Map range" value={reach} onChange={(e) => setReach(Number(e.target.value))}>
          <option value={0}>the farthest</option>
          {[1000, 3000, 8000, 20000].map((r) => (
            <option key={r} value={r}>
              {r} km
            </option>
          ))}
        </select>
      </label>
    </figure>
  );
}
