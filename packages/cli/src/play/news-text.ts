import type { Picture } from "@yellow-harbor/client";
import type { LobbyNews, RoomNews } from "@yellow-harbor/protocol";

/** A piece of news in a sentence, as the player sees it. `before` is the picture that was held when it came. */
export function newsText(news: LobbyNews | RoomNews, before: Picture, after: Picture): string {
  const name = (id: string) =>
    after.room?.members[id]?.name ??
    before.room?.members[id]?.name ??
    after.lobby?.players[id]?.name ??
    before.lobby?.players[id]?.name ??
    id;
  switch (news.kind) {
    case "player-arrived":
      return `${news.name} arrives in the lobby.`;
    case "player-gone":
      return news.reason === "into-room"
        ? `${name(news.player)} goes into a room.`
        : `${name(news.player)} leaves the lobby (${news.reason}).`;
    case "player-away":
    case "member-away":
      return `${name(news.player)} lost the connection; the place is kept.`;
    case "player-back":
    case "member-back":
      return `${name(news.player)} is back.`;
    case "room-opened":
      return "The room is open.";
    case "member-joined":
      return `${news.name} joins the room.`;
    case "member-left":
      return `${name(news.player)} is gone from the room (${news.reason}${news.why ? `: ${news.why}` : ""})${news.host ? `; ${name(news.host)} is host now` : ""}.`;
    case "settings-changed": {
      const { name: title, capacity, visibility } = after.room ?? {};
      return `${name(news.by)} changes the room: ${title}, for ${capacity}, ${visibility}.`;
    }
    case "board-changed":
      return `${name(news.by)} ${news.removed ? "erases" : "writes"} ${news.key}${news.removed ? "" : ` = ${JSON.stringify(after.room?.board[news.key]?.box[0])}`}.`;
    case "host-changed":
      return `${name(news.host)} is host now.`;
    case "level-picked":
      return `${name(news.by)} picks level ${news.level.id}.`;
    case "ready-changed": {
      const missing = after.room?.missing.map((row) => row.text) ?? [];
      const rest = missing.length === 0 ? "everything is there" : missing.join("; ");
      return `${name(news.player)} is ${news.ready ? "ready" : "not ready"}: ${rest}.`;
    }
    case "counting":
      return `The travel starts in ${Math.max(0, Math.round((news.startsAtMs - Date.now()) / 1000))} s.`;
    case "count-stopped":
      return `The countdown stops: ${news.why}.`;
    case "started":
      return `The room starts for ${news.level.id}.`;
    case "travel-called":
      return "Waiting for an instance.";
    case "travel-updated":
      return "The travel goes on.";
    case "travel-boarding": {
      const address = after.room?.travel?.address;
      return `The instance answers at ${address?.host}:${address?.port}; board now.`;
    }
    case "member-arrived":
      return `${name(news.player)} has arrived.`;
    case "travel-ended":
      return news.completed ? "Everybody has arrived." : "The travel is given up.";
    case "playing":
      return "The run begins.";
    case "result": {
      const standings = after.room?.result?.standings ?? [];
      return `Result: ${standings.map((row) => `${row.rank}. ${name(row.player)} (${row.score})`).join(", ")}. The room gathers again.`;
    }
    case "returned":
      return `Back to gathering: ${news.detail}`;
    case "room-closed":
      return "The room is closed.";
  }
}
