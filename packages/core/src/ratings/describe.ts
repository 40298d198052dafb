import { assertNever } from "../model/decision.ts";
import type { RatingEvent } from "../model/ratings/events.ts";
import type { QueuesPart } from "../model/state.ts";

/** The event in a sentence, from the state after it. */
export function describeRating({ seen }: QueuesPart, event: RatingEvent): string | undefined {
  switch (event.kind) {
    case "rating.match-began":
      return undefined;
    case "rating.changed": {
      const room = seen.rooms.room(event.room)?.code ?? event.room;
      const changes = event.changes.map(({ account, went, before, after }) => {
        const by = Math.round(after.rating) - Math.round(before);
        return `${account} ${went}, ${Math.round(before)} to ${Math.round(after.rating)} (${by < 0 ? "" : "+"}${by})`;
      });
      const what = changes.length === 0 ? "nobody in it has an account" : changes.join("; ");
      return `The result of room ${room} counts in ${event.queue}: ${what}.`;
    }
    case "rating.match-void":
      return `The result of room ${seen.rooms.room(event.room)?.code ?? event.room} does not count in ${event.queue}: ${event.why}.`;
    case "rating.set":
      return `${event.by} sets the rating of ${event.account} in ${event.queue} to ${event.rating.rating}.`;
    case "rating.season-began":
      return `${event.by} begins a season in ${event.queue}: ratings keep ${Math.round(100 * event.keep)} % of their distance to ${event.start}.`;
    default:
      return assertNever(event);
  }
}
