import type { HarborView, Series, SeriesSpan } from "@yellow-harbor/protocol";
import { lazy, Suspense, useMemo, useState } from "react";
import { store, useHarbor } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { useNow } from "../../live/use-now.ts";
import { useTheme } from "../../live/use-theme.ts";
import { Alerts } from "../../parts/alerts.tsx";
import { Columns } from "../../parts/columns.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Lobbies } from "./lobbies.tsx";
import { barsOf, linesOf, mostOf, spanOf, sumOf } from "./series.ts";

// What draws is large, and no other area needs it.
const Plot = lazy(async () => ({ default: (await import("./plot.tsx")).Plot }));

const LOOK_MS = 10_000;

/** Whether players get together: now, and over the last hour, day or month. */
export function OverviewPage() {
  const state = useHarbor();
  const now = useNow();
  const [span, setSpan] = useState<SeriesSpan>("hour");
  const { answer, fault } = useLooks(
    span,
    () => store.operator.series(span).then((series) => ({ span, series })),
    LOOK_MS,
  );
  // What was asked for another span is no answer to this one.
  const series = answer?.span === span ? answer.series : undefined;
  return (
    <Columns hasEvents>
      <Alerts now={now} />
      <Now state={state} />
      <Section id="over-time" title="Over time" count={series ? findingOf(series, span) : ""}>
        <fieldset className="join mb-3" aria-label="How far back">
          {(Object.keys(spanOf) as SeriesSpan[]).map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={one === span}
              onClick={() => setSpan(one)}
              className={`btn btn-sm join-item ${one === span ? "btn-neutral" : ""}`}
            >
              {spanOf[one].word}
            </button>
          ))}
        </fieldset>
        {fault && <p className="mb-2 text-error text-sm">{fault}</p>}
        {series && series.points.length > 1 ? (
          <Plots series={series} span={span} now={now} />
        ) : (
          <Empty>
            {series
              ? `Nothing is kept of the last ${spanOf[span].word} yet: a point comes every ${every(series)}.`
              : "Loading."}
          </Empty>
        )}
      </Section>
      {series && <Flow series={series} span={span} />}
      <Lobbies lobbies={Object.values(state.lobbies)} />
    </Columns>
  );
}

const every = ({ everyMs }: Series): string => (everyMs < 60_000 ? `${everyMs / 1_000} s` : `${everyMs / 60_000} min`);

function findingOf({ points }: Series, span: SeriesSpan): string {
  const most = mostOf(points);
  if (most === undefined) return "";
  const at = new Date(most.atMs).toLocaleString(undefined, {
    ...(span === "hour" ? {} : { day: "numeric", month: "short" }),
    hour: "2-digit",
    minute: "2-digit",
    hour12: false,
  });
  return `${plural(Math.round(most.players), "player")} at the most, ${at}`;
}

function Now({ state }: { state: HarborView }) {
  const lobbies = Object.values(state.lobbies);
  const sum = (of: (one: (typeof lobbies)[number]) => number) => lobbies.reduce((all, one) => all + of(one), 0);
  const rooms = Object.values(state.rooms);
  const playing = rooms.filter(({ phase }) => phase === "playing");
  const stuck = rooms.filter(({ setback }) => setback !== undefined).length;
  const instances = Object.values(state.instances).filter(({ exit }) => exit === undefined);
  const idle = instances.filter(({ state: one, berths }) => one === "open" && berths.length === 0).length;
  return (
    <Section id="now" title="Now" count={plural(rooms.length, "room")}>
      <dl className="grid grid-cols-2 gap-3 sm:grid-cols-3 lg:grid-cols-6">
        <Tile label="in lobbies" value={sum(({ players }) => players)} />
        <Tile label="searching" value={sum(({ searching }) => searching)} />
        <Tile label="in rooms" value={sum(({ inRooms }) => inRooms)} />
        <Tile label="playing" value={playing.reduce((all, { members }) => all + Object.keys(members).length, 0)} />
        <Tile label="instances" value={instances.length} more={`${idle} spare`} />
        <Tile label="rooms set back" value={stuck} more={stuck === 0 ? "none" : "see Rooms"} isOff={stuck > 0} />
      </dl>
    </Section>
  );
}

interface TileProps {
  readonly label: string;
  readonly value: number;
  readonly more?: string;
  readonly isOff?: boolean;
}

function Tile({ label, value, more, isOff = false }: TileProps) {
  return (
    <div className="rounded-box bg-base-200 px-4 py-3">
      <dd className={`font-semibold text-2xl tabular-nums leading-tight ${isOff ? "text-warning" : ""}`}>{value}</dd>
      <dt className="text-xs opacity-80">
        {label}
        {more && <span className="opacity-80">; {more}</span>}
      </dt>
    </div>
  );
}

function Plots({ series, span, now }: { series: Series; span: SeriesSpan; now: number }) {
  const theme = useTheme();
  const { ms, bar, word } = spanOf[span];
  // The axis moves with what is kept, not with each second.
  const toMs = series.points.at(-1)?.atMs ?? now;
  const lines = useMemo(() => linesOf(series), [series]);
  const bars = useMemo(() => barsOf(series, bar), [series, bar]);
  // What is not kept yet takes no place, but for a start that is too short to be seen.
  const fromMs = Math.max(toMs - ms, Math.min(series.points[0]?.atMs ?? toMs, toMs - ms / 12));
  const barsToMs = Math.max(toMs, ...bars.flatMap(({ points }) => points.map(([atMs]) => atMs)));
  return (
    <Suspense fallback={<Empty>Loading.</Empty>}>
      <div className="grid gap-6 xl:grid-cols-2">
        <Plot
          label={`Players over the last ${word}`}
          kind="line"
          curves={lines}
          fromMs={fromMs}
          toMs={toMs}
          theme={theme}
        />
        <Plot
          label={`What happened over the last ${word}`}
          kind="bar"
          curves={bars}
          fromMs={fromMs}
          toMs={barsToMs}
          theme={theme}
        />
      </div>
    </Suspense>
  );
}

/** How far players came, step by step, and how many did not. */
function Flow({ series: { points }, span }: { series: Series; span: SeriesSpan }) {
  const [started, failed] = [sumOf(points, "started"), sumOf(points, "failed")];
  const travels = started + failed;
  const share = travels === 0 ? "" : `${Math.round((100 * failed) / travels)} % of ${plural(travels, "travel")}`;
  return (
    <Section id="flow" title="From coming in to a result" count={`the last ${spanOf[span].word}`}>
      <dl className="grid grid-cols-2 gap-3 sm:grid-cols-5">
        <Tile label="players came in" value={sumOf(points, "arrived")} />
        <Tile label="matches made by queues" value={sumOf(points, "matched")} />
        <Tile label="travels with everybody there" value={started} />
        <Tile label="travels came to nothing" value={failed} more={share} isOff={failed > 0} />
        <Tile label="matches with a result" value={sumOf(points, "played")} />
      </dl>
    </Section>
  );
}
