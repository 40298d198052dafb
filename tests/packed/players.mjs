// Two players of somebody who has installed the client: they meet, travel, board and hear the result.
import { once } from "node:events";
import { connect } from "node:net";
import { PlayerClient } from "@yellow-harbor/client";

const [url] = process.argv.slice(2);
const join = (name) => PlayerClient.connect({ url, name, build: "game-1", strict: true });
const [ansel, brisa] = [await join("Ansel"), await join("Brisa")];
const { room } = await ansel.openRoom({ capacity: 2 });
await brisa.joinRoom({ room: room.id });
await ansel.pickLevel("brine-gate");
await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
const passes = [ansel.nextPass(), brisa.nextPass()];
await ansel.start();
const boarded = [];
let last;
for (const { address, pass } of await Promise.all(passes)) {
  last = connect(address.port, address.host);
  last.write(`${pass}\n`);
  const [name] = await once(last, "data");
  boarded.push(String(name).trim());
}
await ansel.until((state) => state.room?.phase === "playing");
last.write("report\n");
const { room: after } = await brisa.until((state) => state.room?.result !== undefined);
process.stdout.write(JSON.stringify({ boarded, standings: after.result.standings.length }));
await Promise.all([ansel.leave(), brisa.leave()]);
process.exit(0);
