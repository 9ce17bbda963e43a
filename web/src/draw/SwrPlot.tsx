import { ChartsClipPath } from "@mui/x-charts/ChartsClipPath";
import { ChartsContainer } from "@mui/x-charts/ChartsContainer";
import { ChartsGrid } from "@mui/x-charts/ChartsGrid";
import { ChartsXAxis } from "@mui/x-charts/ChartsXAxis";
import { ChartsYAxis } from "@mui/x-charts/ChartsYAxis";
import { useDrawingArea, useXScale, useYScale } from "@mui/x-charts/hooks";
import { LinePlot } from "@mui/x-charts/LineChart";
import { useId } from "react";
import type { Schemas } from "../api/client";
import { lettering } from "./axis";
import "./plot.css";

export interface Stroke {
  id: string;
  label: string;
  swr: (number | null)[];
  kind: "measured" | "second" | "earlier";
}

type Scale = (v: number) => number;

const look = {
  measured: { color: "var(--copper)", width: 3.4, dash: "none" },
  second: { color: "var(--ink)", width: 2.4, dash: "none" },
  earlier: { color: "var(--older)", width: 1.3, dash: "none" },
};

function Shade({ own, limit }: { own: Schemas["Segment"][]; limit: number }) {
  const x = useXScale() as unknown as Scale;
  const y = useYScale() as unknown as Scale;
  const area = useDrawingArea();
  return (
    <g>
      {own.map((s, i) => {
        const [a, b] = [x(s.lo / 1e6), x(s.hi / 1e6)];
        return (
          <g key={s.lo}>
            <rect x={a} y={area.top} width={Math.max(b - a, 1)} height={area.height} fill="var(--wash)" />
            {i === 0 && (
              <text x={(a + b) / 2} y={area.top + 18} textAnchor="middle" fontSize="14" fill="var(--ink)">
                your segment
              </text>
            )}
          </g>
        );
      })}
      <path d={`M${area.left} ${y(limit)}h${area.width}`} stroke="var(--reed)" strokeWidth="1.5" strokeDasharray="2 4" />
    </g>
  );
}

function Dip({ at, swr, target }: { at: number; swr: number; target?: number }) {
  const x = useXScale() as unknown as Scale;
  const y = useYScale() as unknown as Scale;
  const area = useDrawingArea();
  const px = x(at / 1e6);
  const right = px > area.left + area.width - 130;
  const tx = target ? x(target / 1e6) : px;
  const high = area.top + area.height * 0.34;
  const apart = Math.abs(tx - px) > 14;
  const foot = area.top + area.height;
  return (
    <g>
      <path d={`M${px} ${high + 26}V${y(Math.min(swr, 50))}`} stroke="var(--copper)" strokeWidth="1.4" />
      <text
        x={right ? px - 16 : px + 16}
        y={high}
        textAnchor={right ? "end" : "start"}
        fontSize="20"
        fontWeight="700"
        className="mono"
        fill="var(--ink)"
      >
        {(at / 1e6).toFixed(3)}
      </text>
      <text x={right ? px - 16 : px + 16} y={high + 20} textAnchor={right ? "end" : "start"} fontSize="14.5" fill="var(--ink)">
        lowest, SWR {swr.toFixed(2)}
      </text>
      {apart && (
        <g stroke="var(--reed)" fill="var(--reed)">
          <path d={`M${tx} ${foot - 76}V${foot}`} strokeWidth="2" />
          <path d={`M${px + Math.sign(tx - px) * 6} ${foot - 38}H${tx - Math.sign(tx - px) * 10}`} strokeWidth="2" />
          <path d={`M${tx - 1} ${foot - 38}l${Math.sign(px - tx) * 14} -6v12z`} stroke="none" />
        </g>
      )}
    </g>
  );
}

/** How far up the SWR is drawn: to 5, or so far that the lowest of it stands no higher than half way. */
function upTo(strokes: Stroke[], computed?: Computed): { max: number; ticks: number[] } {
  const lowest = Math.min(
    ...strokes.filter((s) => s.kind !== "earlier").flatMap((s) => s.swr.filter((v) => v !== null)),
    ...(strokes.length === 0 ? (computed?.points.map((p) => p.swr) ?? []) : []),
  );
  const scales = [
    [1, 1.5, 2, 3, 4, 5],
    [1, 2, 4, 6, 8, 10],
    [1, 5, 10, 15, 20],
    [1, 10, 20, 30, 40, 50],
  ];
  const ticks = scales.find((t) => lowest <= 3 || (t.at(-1) ?? 0) >= 2 * lowest) ?? scales.at(-1) ?? [];
  return { max: ticks.at(-1) ?? 5, ticks };
}

/** What was computed: a dashed line, and behind it what the soil's unsureness makes of it. */
export interface Computed {
  points: { hz: number; swr: number }[];
  low?: number[];
  high?: number[];
  label: string;
}

function ComputedLine({ of }: { of: Computed }) {
  const x = useXScale() as unknown as Scale;
  const y = useYScale() as unknown as Scale;
  const path = (values: number[]) =>
    values.map((v, i) => `${x((of.points[i]?.hz ?? 0) / 1e6).toFixed(1)} ${y(Math.min(v, 50)).toFixed(1)}`);
  const { low, high } = of;
  return (
    <g>
      {low && high && <path d={`M${[...path(high), ...path(low).reverse()].join("L")}Z`} fill="var(--tide)" opacity="0.16" />}
      <path
        d={`M${path(of.points.map((p) => p.swr)).join("L")}`}
        fill="none"
        stroke="var(--tide)"
        strokeWidth="2.6"
        strokeDasharray="8 5"
      />
    </g>
  );
}

/** Several sweeps of the same thing: what lies between the lowest and the highest of them. */
function Between({ mhz, of }: { mhz: number[]; of: Schemas["Takes"] }) {
  const x = useXScale() as unknown as Scale;
  const y = useYScale() as unknown as Scale;
  const at = (list: (number | null)[]) =>
    list.flatMap((v, i) => (v === null || of.low[i] === null ? [] : [`${x(mhz[i] ?? 0).toFixed(1)} ${y(Math.min(v, 50)).toFixed(1)}`]));
  const [low, high] = [at(of.low as (number | null)[]), at(of.high as (number | null)[])];
  if (low.length < 2) return null;
  return <path d={`M${[...high, ...low.reverse()].join("L")}Z`} fill="var(--copper)" opacity="0.22" />;
}

export default function SwrPlot({
  frequencies,
  strokes,
  own,
  limit,
  dip,
  computed,
  takes,
  title,
  height = 340,
}: {
  frequencies: number[];
  strokes: Stroke[];
  own: Schemas["Segment"][];
  limit: number;
  dip?: { at: number; swr: number; target?: number };
  computed?: Computed;
  takes?: Schemas["Takes"];
  title: string;
  height?: number;
}) {
  const clip = useId().replaceAll(":", "");
  if (frequencies.length === 0) return null;
  const mhz = frequencies.map((f) => f / 1e6);
  const scale = upTo(strokes, computed);
  const ordered = [...strokes].sort((a, b) => Number(a.kind === "measured") - Number(b.kind === "measured"));
  return (
    <figure role="img" aria-label={title}>
      <div aria-hidden="true">
        <ChartsContainer
          disableKeyboardNavigation
          height={height}
          skipAnimation
          margin={{ left: 4, right: 18, top: 8, bottom: 4 }}
          series={ordered.map((s) => ({
            type: "line" as const,
            id: s.id,
            data: s.swr.map((v) => (v === null ? null : Math.min(v, 50))),
            color: look[s.kind].color,
            showMark: false,
            curve: "linear" as const,
          }))}
          xAxis={[
            {
              data: mhz,
              scaleType: "linear",
              min: mhz[0],
              max: mhz[mhz.length - 1],
              tickNumber: innerWidth < 600 ? 4 : 6,
              valueFormatter: (v: number) => v.toFixed(v % 0.1 > 0.001 && v % 0.1 < 0.099 ? 2 : 1),
              height: 52,
              label: "MHz",
            },
          ]}
          yAxis={[
            {
              min: 1,
              max: scale.max,
              scaleType: "linear",
              tickInterval: scale.ticks,
              valueFormatter: (v: number) => String(v),
              tickLabelInterval: () => true,
              width: 50,
              label: "SWR",
            },
          ]}
          sx={{
            ...lettering,
            ...Object.fromEntries(ordered.map((s) => [`& [data-series="${s.id}"]`, { strokeWidth: look[s.kind].width, fill: "none" }])),
          }}
        >
          <ChartsClipPath id={clip} />
          <Shade own={own} limit={limit} />
          <ChartsGrid horizontal />
          <g clipPath={`url(#${clip})`}>
            {takes && <Between mhz={mhz} of={takes} />}
            {computed && <ComputedLine of={computed} />}
            <LinePlot />
          </g>
          {dip && <Dip at={dip.at} swr={dip.swr} target={dip.target} />}
          <ChartsXAxis />
          <ChartsYAxis />
        </ChartsContainer>
      </div>
      <ul className="keyline">
        {strokes.map((s) => (
          <li key={s.id}>
            <svg viewBox="0 0 34 10" aria-hidden="true">
              <path d="M1 5H33" stroke={look[s.kind].color} strokeWidth={look[s.kind].width} />
            </svg>
            {s.label}
          </li>
        ))}
        {computed && (
          <li>
            <svg viewBox="0 0 34 10" aria-hidden="true">
              <path d="M1 5H33" stroke="var(--tide)" strokeWidth="2.6" strokeDasharray="8 5" />
            </svg>
            {computed.label}
          </li>
        )}
        {takes && (
          <li>
            <svg viewBox="0 0 34 10" aria-hidden="true">
              <path d="M1 5H33" stroke="var(--copper)" strokeWidth="9" opacity="0.3" />
            </svg>
            {takes.takes} sweeps of it
          </li>
        )}
        {computed?.low && (
          <li>
            <svg viewBox="0 0 34 10" aria-hidden="true">
              <path d="M1 5H33" stroke="var(--tide)" strokeWidth="9" opacity="0.25" />
            </svg>
            where 19 of 20 built like it lie
          </li>
        )}
      </ul>
    </figure>
  );
}
