import type { MachineView, PoolView } from "@yellow-harbor/protocol";
import { store } from "../live/use-live.ts";
import { useLooks } from "../live/use-looks.ts";
import { PlannerMark } from "./marks.tsx";
import { Empty, plural, Section } from "./section.tsx";

/** Begins the name of a pool among the things that can be chosen. */
export const POOL = "pool:";

const COLUMNS: readonly { readonly name: string; readonly of: (pool: PoolView) => number | string }[] = [
  { name: "Wanted", of: ({ plan }) => plan?.wanted ?? "-" },
  { name: "Run", of: ({ live }) => live },
  { name: "Held", of: ({ held }) => held },
  { name: "Free", of: ({ idle }) => idle },
  { name: "Booting", of: ({ coming }) => coming },
  { name: "Draining", of: ({ draining }) => draining },
  { name: "Max", of: ({ max }) => max },
];

interface PoolsProps {
  readonly chosen: string | undefined;
  readonly choose: (id: string) => void;
}

/** The pools: what runs in each and what should, and the machines that are away. */
export function Pools({ chosen, choose }: PoolsProps) {
  const { answer, fault } = useLooks("pools", async () => {
    const [{ pools }, { machines }] = await Promise.all([store.operator.pools(), store.operator.machines()]);
    return { pools, machines };
  });
  const pools = answer?.pools ?? [];
  return (
    <Section id="pools" title="Pools" count={plural(pools.length, "pool")}>
      {fault && <p className="text-sm text-warning">{fault}</p>}
      <Away machines={answer?.machines ?? []} />
      {answer && pools.length === 0 ? (
        <Empty>No pools. Configure them under pools.</Empty>
      ) : (
        <div className="overflow-x-auto rounded-box border border-base-300">
          <table className="table table-sm">
            <thead>
              <tr>
                <th>Pool</th>
                <th>Planner</th>
                {COLUMNS.map(({ name }) => (
                  <th key={name} className="text-right">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {pools.map((pool) => (
                <Row key={pool.id} pool={pool} isChosen={chosen === POOL + pool.id} choose={choose} />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  );
}

function Row({ pool, isChosen, choose }: { pool: PoolView; isChosen: boolean; choose: (id: string) => void }) {
  const { id, build } = pool;
  return (
    <tr
      onClick={() => choose(POOL + id)}
      className={`cursor-pointer hover:bg-base-200 ${isChosen ? "bg-base-300 shadow-[inset_3px_0_0_var(--color-primary)]" : ""}`}
    >
      <td>
        <button type="button" className="cursor-pointer font-semibold" aria-pressed={isChosen}>
          {id}
        </button>
        <div className="text-xs opacity-70">runs {build}</div>
      </td>
      <td>
        <PlannerMark pool={pool} />
      </td>
      {COLUMNS.map(({ name, of }) => (
        <td key={name} className="text-right tabular-nums">
          {of(pool)}
        </td>
      ))}
    </tr>
  );
}

/** Machines on which nothing can be started now. */
function Away({ machines }: { machines: readonly MachineView[] }) {
  const closed = machines.filter(({ isThere, mode }) => !isThere || mode !== undefined);
  return closed.map(({ id, why, running, isThere }) => (
    <p key={id} className="mb-2 text-sm text-warning">
      {isThere ? `Machine ${id} is ${why}.` : `Machine ${id} is away: ${why}.`}{" "}
      {running > 0 && `${plural(running, "instance")} of it ${isThere ? "left" : "may run on"}.`}
    </p>
  ));
}
