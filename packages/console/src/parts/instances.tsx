import { addressText, type InstanceView, type RoomView } from "@yellow-harbor/protocol";
import { Id } from "./id.tsx";
import { StateMark } from "./marks.tsx";
import { Empty, plural, Section } from "./section.tsx";
import { span } from "./time.ts";

interface InstancesProps {
  readonly instances: readonly InstanceView[];
  readonly rooms: Readonly<Record<string, RoomView>>;
  readonly total: number;
  readonly now: number;
  readonly chosen: string | undefined;
  readonly choose: (id: string) => void;
}

export function Instances({ instances, rooms, total, now, chosen, choose }: InstancesProps) {
  const count =
    instances.length === total ? plural(total, "instance") : `${instances.length} of ${plural(total, "instance")}`;
  return (
    <Section id="instances" title="Instances" count={`${count}, ended ones for a minute`}>
      {instances.length === 0 ? (
        <Empty>
          {total > 0
            ? "No instance fits the search."
            : "No instances. One is started when a room starts, and ends with its room."}
        </Empty>
      ) : (
        <div className="overflow-x-auto rounded-box border border-base-300">
          <table className="table table-sm">
            <thead>
              <tr>
                <th>Instance</th>
                <th>State</th>
                <th>Room</th>
                <th className="text-right">Players</th>
                <th>Address</th>
                <th className="text-right">Process</th>
                <th>Why</th>
                <th className="text-right">Since</th>
              </tr>
            </thead>
            <tbody>
              {instances.map((one) => (
                <tr
                  key={one.id}
                  onClick={() => choose(one.id)}
                  className={`cursor-pointer hover:bg-base-200 ${one.id === chosen ? "bg-base-300 shadow-[inset_3px_0_0_var(--color-primary)]" : ""}`}
                >
                  <td>
                    <Id id={one.id} />
                  </td>
                  <td>
                    <StateMark state={one.state} />
                  </td>
                  <td className="font-mono">
                    {one.rooms.map(({ room }) => rooms[room]?.code ?? room.slice(0, 7)).join(" ") || "-"}
                  </td>
                  <td className="text-right tabular-nums">{aboard(one)}</td>
                  <td className="font-mono text-xs">{addressText(one.address)}</td>
                  <td className="text-right font-mono text-xs">{one.pid ?? "-"}</td>
                  <td title={one.why}>
                    <span className="line-clamp-2 max-w-44">{one.why}</span>
                  </td>
                  <td className="whitespace-nowrap text-right tabular-nums">{span(now - one.changedAtMs)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  );
}

function aboard({ berths }: InstanceView): string {
  if (berths.length === 0) return "-";
  return `${berths.filter((berth) => berth.state === "taken").length}/${berths.length}`;
}
