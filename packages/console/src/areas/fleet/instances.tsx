import { addressText, type InstanceView, type RoomView } from "@yellow-harbor/protocol";
import { useMemo } from "react";
import { Contains, Filters } from "../../parts/filters.tsx";
import { Grid, type GridColumn } from "../../parts/grid.tsx";
import { Id } from "../../parts/id.tsx";
import { StateMark } from "../../parts/marks.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Since } from "../../parts/since.tsx";

interface InstancesProps {
  readonly instances: readonly InstanceView[];
  readonly rooms: Readonly<Record<string, RoomView>>;
  readonly total: number;
  readonly open: string | undefined;
  readonly choose: (id: string) => void;
}

/** Instances, as many as there are: narrowed down, sorted, each with what it serves and why it runs. */
export function Instances({ instances, rooms, total, open, choose }: InstancesProps) {
  const count =
    instances.length === total ? plural(total, "instance") : `${instances.length} of ${plural(total, "instance")}`;
  const columns = useMemo(() => columnsFor(rooms), [rooms]);
  return (
    <Section id="instances" title="Instances" count={`${count}, ended ones for a minute`} fills>
      <Filters>
        <Contains placeholder="Id, pool, address or player" />
      </Filters>
      {instances.length === 0 ? (
        <Empty>
          {total > 0 ? "No instance fits." : "No instances. One is started when a room starts, and ends with its room."}
        </Empty>
      ) : (
        <Grid
          label="Instances"
          rows={instances}
          columns={columns}
          idOf={({ id }) => id}
          open={open}
          choose={choose}
          className="min-h-64"
        />
      )}
    </Section>
  );
}

const columnsFor = (rooms: Readonly<Record<string, RoomView>>): readonly GridColumn<InstanceView>[] => [
  { id: "instance", heading: "Instance", sortBy: ({ id }) => id, cell: ({ id }) => <Id id={id} /> },
  { id: "state", heading: "State", sortBy: ({ state }) => state, cell: ({ state }) => <StateMark state={state} /> },
  {
    id: "room",
    heading: "Room",
    isMono: true,
    cell: (one) => one.rooms.map(({ room }) => rooms[room]?.code ?? room.slice(0, 7)).join(" ") || "-",
  },
  {
    id: "players",
    heading: "Players",
    isFigure: true,
    sortBy: ({ berths }) => berths.filter(({ state }) => state === "taken").length,
    cell: aboard,
  },
  {
    id: "address",
    heading: "Address",
    isMono: true,
    sortBy: ({ address }) => addressText(address),
    cell: ({ address }) => addressText(address),
  },
  { id: "process", heading: "Process", isFigure: true, isMono: true, cell: ({ pid }) => pid ?? "-" },
  {
    id: "why",
    heading: "Why",
    cell: ({ why }) => (
      <span className="line-clamp-2 max-w-44" title={why}>
        {why}
      </span>
    ),
  },
  {
    id: "since",
    heading: "Since",
    isFigure: true,
    sortBy: ({ changedAtMs }) => -changedAtMs,
    cell: ({ changedAtMs }) => <Since atMs={changedAtMs} />,
  },
];

function aboard({ berths }: InstanceView): string {
  if (berths.length === 0) return "-";
  return `${berths.filter((berth) => berth.state === "taken").length}/${berths.length}`;
}
