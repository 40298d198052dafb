import type { RoomView } from "@yellow-harbor/protocol";
import { useState } from "react";
import { store } from "../../live/use-live.ts";
import { May } from "../../parts/may.tsx";
import { Reason } from "../../parts/reason.tsx";
import { plural } from "../../parts/section.tsx";
import { Sure } from "../../parts/sure.tsx";
import { wordsOf } from "../../parts/words.ts";

/** What an operator does to a room and its members: with a reason that they are told, and a second click. */
export function RoomVerbs({ room }: { room: RoomView }) {
  const [member, setMember] = useState("");
  const [text, setText] = useState("");
  const [said, setSaid] = useState<{ readonly text: string; readonly isFault: boolean }>();
  const members = Object.values(room.members).sort((a, b) => a.place - b.place);
  const chosen = room.members[member];
  const reason = text.trim() === "" ? undefined : text.trim();
  const because = reason === undefined ? {} : { reason };
  const act = (does: () => Promise<unknown>, done: string) => () =>
    void does().then(
      () => setSaid({ text: done, isFault: false }),
      (error: unknown) => setSaid({ text: wordsOf(error), isFault: true }),
    );
  const { operator } = store;
  return (
    <May needs="operate">
      <section aria-label="What you can do to it" className="space-y-2 text-sm">
        <h3 className="font-semibold">Act</h3>
        <Reason label="Reason, or notice, that is told" value={text} onChange={setText} />
        <label className="flex items-center gap-2">
          Member
          <select
            className="select select-sm flex-1"
            value={chosen ? member : ""}
            onChange={(event) => setMember(event.target.value)}
          >
            <option value="">nobody</option>
            {members.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <div className="flex flex-wrap gap-1">
          <button
            type="button"
            className="btn btn-xs"
            disabled={reason === undefined}
            onClick={act(() => operator.notifyRoom(room.id, reason ?? ""), "They were told so.")}
          >
            Notify all
          </button>
          {chosen && (
            <>
              <Sure
                word={`Kick ${chosen.name}`}
                question={`${chosen.name} is in the lobby again and may come back: do it`}
                onSure={act(() => operator.kickFromRoom(room.id, chosen.id, because), `${chosen.name} was kicked.`)}
              />
              <Sure
                word={`Ban ${chosen.name}`}
                question={`${chosen.name} is out of this room for good: do it`}
                onSure={act(
                  () => operator.banFromRoom(room.id, chosen.id, reason),
                  `${chosen.name} is banned from it.`,
                )}
              />
            </>
          )}
          {room.phase === "gathering" && (
            <Sure
              word="Start"
              question="It starts for who is in it, whatever the host wants: do it"
              onSure={act(() => operator.startRoom(room.id), "It starts.")}
            />
          )}
          {room.phase === "playing" && (
            <Sure
              word="End the run"
              question="The run ends without a result: do it"
              onSure={act(() => operator.endRun(room.id, because), "The run has ended.")}
            />
          )}
          <Sure
            word="Close the room"
            question={`${plural(members.length, "member")} in the lobby again, told why: do it`}
            onSure={act(() => operator.closeRoom(room.id, reason), "It is closed.")}
          />
        </div>
        {said && (
          <p role="status" className={said.isFault ? "text-error" : ""}>
            {said.text}
          </p>
        )}
      </section>
    </May>
  );
}
