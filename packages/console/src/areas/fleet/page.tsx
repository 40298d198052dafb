import { addressText, type HarborView, type InstanceView } from "@yellow-harbor/protocol";
import { useMemo } from "react";
import { useInAddress, useOpen } from "../../live/use-address.ts";
import { useHarbor } from "../../live/use-live.ts";
import { useNow } from "../../live/use-now.ts";
import { Columns } from "../../parts/columns.tsx";
import { InstanceDetail } from "./instance-detail.tsx";
import { Instances } from "./instances.tsx";
import { PoolDetail } from "./pool-detail.tsx";
import { POOL, Pools } from "./pools.tsx";

/** Pools, and the instances that run in them; one of either beside the lists. */
export function FleetPage() {
  const state = useHarbor();
  const now = useNow();
  const { open, choose, close } = useOpen();
  const [find] = useInAddress("find");
  const wanted = find.trim().toLowerCase();
  // Those that run first; those that have ended stand below until they are forgotten.
  const instances = useMemo(
    () =>
      Object.values(state.instances)
        .filter((one) => fits(one, wanted))
        .sort((a, b) => Number(a.exit !== undefined) - Number(b.exit !== undefined) || a.launchedAtMs - b.launchedAtMs),
    [state.instances, wanted],
  );
  return (
    <Columns chosen={open && <Chosen id={open} state={state} now={now} close={close} />} hasEvents>
      <Pools chosen={open} choose={choose} />
      <Instances
        instances={instances}
        rooms={state.rooms}
        total={Object.keys(state.instances).length}
        open={open}
        choose={choose}
      />
    </Columns>
  );
}

interface ChosenProps {
  readonly id: string;
  readonly state: HarborView;
  readonly now: number;
  readonly close: () => void;
}

function Chosen({ id, state, now, close }: ChosenProps) {
  if (id.startsWith(POOL)) return <PoolDetail key={id} pool={id.slice(POOL.length)} close={close} />;
  const instance = state.instances[id];
  if (instance) return <InstanceDetail instance={instance} now={now} close={close} />;
  return (
    <p className="rounded-box bg-base-200 p-4 text-sm">
      Instance {id} has ended; <code>yh instance list --ended</code> still shows it.{" "}
      <button type="button" className="link" onClick={close}>
        Close
      </button>
    </p>
  );
}

function fits({ id, state, pool, address, berths }: InstanceView, find: string): boolean {
  if (find === "") return true;
  return [id, state, pool, addressText(address), ...berths.map(({ name }) => name)].some((word) =>
    word.toLowerCase().includes(find),
  );
}
