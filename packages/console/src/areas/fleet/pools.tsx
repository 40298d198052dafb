import type { MachineView, PoolView } from "@yellow-harbor/protocol";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Grid, type GridColumn } from "../../parts/grid.tsx";
import { PlannerMark } from "../../parts/marks.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";

/** Begins the name of a pool among the things that can be chosen. */
export const POOL = "pool:";

const figure = (heading: string, of: (pool: PoolView) => number | undefined): GridColumn<PoolView> => ({
  id: heading.toLowerCase(),
  heading,
  isFigure: true,
  sortBy: (pool) => of(pool) ?? -1,
  cell: (pool) => of(pool) ?? "-",
});

const COLUMNS: readonly GridColumn<PoolView>[] = [
  {
    id: "pool",
    heading: "Pool",
    sortBy: ({ id }) => id,
    cell: ({ id, build }) => (
      <div>
        <button type="button" className="cursor-pointer font-semibold">
          {id}
        </button>
        <div className="text-xs opacity-70">runs {build}</div>
      </div>
    ),
  },
  { id: "planner", heading: "Planner", cell: (pool) => <PlannerMark pool={pool} /> },
  figure("Wanted", ({ plan }) => plan?.wanted),
  figure("Run", ({ live }) => live),
  figure("Held", ({ held }) => held),
  figure("Free", ({ idle }) => idle),
  figure("Booting", ({ coming }) => coming),
  figure("Draining", ({ draining }) => draining),
  figure("Max", ({ max }) => max),
];
const NONE: readonly PoolView[] = [];

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
  const pools = answer?.pools ?? NONE;
  return (
    <Section id="pools" title="Pools" count={plural(pools.length, "pool")}>
      {fault && <p className="text-sm text-warning">{fault}</p>}
      <Away machines={answer?.machines ?? []} />
      {answer && pools.length === 0 ? (
        <Empty>No pools. Configure them under pools.</Empty>
      ) : (
        <Grid
          label="Pools"
          rows={pools}
          columns={COLUMNS}
          idOf={({ id }) => POOL + id}
          open={chosen}
          choose={choose}
          sortName="pools"
        />
      )}
    </Section>
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
