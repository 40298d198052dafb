import type { DestinationKind, RoomView, TravellerView, TravelView } from "@yellow-harbor/protocol";
import { Check, CircleAlert, CircleDashed, EyeOff, Hourglass } from "lucide-react";
import { Fact } from "../../parts/panel.tsx";
import { span } from "../../parts/time.ts";

export const destinationWords: Record<DestinationKind, string> = {
  relayed: "relayed by the service",
  "player-hosted": "a member's world",
  dedicated: "an instance",
};

/** A travel on its way: where to, who is how far, whom it waits for, what happens next and when. */
export function Travel({ travel, room, now }: { travel: TravelView; room: RoomView; now: number }) {
  const travellers = Object.values(travel.travellers);
  const there = travellers.filter(({ arrived }) => arrived).length;
  return (
    <section aria-label="Travel" className="space-y-2 rounded-box bg-base-300/50 p-3">
      <Course travel={travel} isThere={there === travellers.length} />
      <dl className="grid grid-cols-[6rem_1fr] gap-y-1 text-sm">
        <Fact label="to">
          {destinationWords[travel.by]}
          {travel.player && `, ${room.members[travel.player]?.name ?? "a member"}'s`}
        </Fact>
        <Fact label="on the way">{span(now - travel.calledAtMs)}</Fact>
        <Fact label={`in ${span(travel.deadlineMs - now)}`}>{nextOf(travel)}</Fact>
        {travel.from && <Fact label="comes from">{travel.from.instance.slice(0, 7)}, kept until all are there</Fact>}
      </dl>
      {travel.tried.map(({ by, why }) => (
        <p key={by} className="flex gap-1.5 text-sm text-warning">
          <CircleAlert size={14} className="mt-0.5 shrink-0" aria-hidden />
          <span>
            Not {destinationWords[by]}: {why}
          </span>
        </p>
      ))}
      <ul className="space-y-1.5">
        {travellers.map((traveller) => (
          <TravellerRow
            key={traveller.id}
            traveller={traveller}
            room={room}
            isWaitedFor={travel.waitingFor.includes(traveller.id)}
          />
        ))}
      </ul>
    </section>
  );
}

/** The steps of a travel, with the one that it is at. */
function Course({ travel, isThere }: { travel: TravelView; isThere: boolean }) {
  const at = travel.step === "preparing" ? 1 : isThere ? 3 : 2;
  return (
    <ol className="steps w-full text-xs">
      {["called", "preparing", "boarding", "playing"].map((word, n) => (
        <li key={word} className={`step ${n <= at ? "step-primary" : ""}`} aria-current={n === at ? "step" : undefined}>
          {word}
        </li>
      ))}
    </ol>
  );
}

interface TravellerProps {
  readonly traveller: TravellerView;
  readonly room: RoomView;
  readonly isWaitedFor: boolean;
}

function TravellerRow({ traveller: { id, percent, arrived, trouble }, room, isWaitedFor }: TravellerProps) {
  const member = room.members[id];
  const name = member?.name ?? id;
  const state = stateOf(arrived, isWaitedFor, member);
  return (
    <li className="text-sm">
      <div className="flex items-center justify-between gap-2">
        <span className="min-w-0 truncate">{name}</span>
        <span className={`flex shrink-0 items-center gap-1 whitespace-nowrap text-xs ${state.tone}`}>
          <state.icon size={13} aria-hidden />
          {state.word}
          {!arrived && <span className="tabular-nums">{percent} %</span>}
        </span>
      </div>
      <progress
        className="progress progress-primary h-1.5 w-full"
        value={percent}
        max={100}
        aria-label={`${name} loads`}
      />
      {!arrived && !isWaitedFor && <p className="text-xs opacity-80">not waited for; it may follow</p>}
      {trouble && <p className="text-warning text-xs">cannot get there: {trouble}</p>}
    </li>
  );
}

function stateOf(arrived: boolean, isWaitedFor: boolean, member: RoomView["members"][string] | undefined) {
  if (arrived) return { icon: Check, tone: "text-success", word: "has arrived" };
  const calm = "opacity-80";
  const late = isWaitedFor ? "text-warning" : calm;
  if (member?.presence === "away") return { icon: Hourglass, tone: late, word: "away" };
  if (member?.attention === "background") return { icon: EyeOff, tone: late, word: "in the background" };
  if (member?.attention === "silent") return { icon: EyeOff, tone: late, word: "silent" };
  return { icon: CircleDashed, tone: calm, word: "loads" };
}

/** What its deadline brings. */
function nextOf({ step, stragglers }: TravelView): string {
  if (step === "preparing") return "the next destination is tried, or the travel fails";
  return {
    wait: "the travel fails, unless all are there",
    "go-without": "the others go, if they are enough; who is late may follow",
    drop: "the others go, if there are enough of them; late members leave the room",
  }[stragglers];
}
