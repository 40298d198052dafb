import { type OperatorClient, ProblemError } from "@yellow-harbor/client";

const ID = /^p_[0-9a-z]+$/;
const ASKED = 6;

/** The id of the player that an operator names, by id or by name. Throws when nobody, or more than one, is called so. */
export async function playerId(operator: OperatorClient, named: string): Promise<string> {
  if (ID.test(named)) return named;
  const { players, next } = await operator.players({ name: named, limit: ASKED });
  const [first, second] = players;
  if (first === undefined) {
    throw ProblemError.of("player-unknown", `No player is called ${named}; yh player list shows who is there.`);
  }
  if (second !== undefined) {
    const ids = players.map(({ id, room }) => `${id} (${room === undefined ? "in the lobby" : `in ${room}`})`);
    const more = next === undefined ? "" : " and more";
    throw ProblemError.of("usage", `Several players are called ${named}; give the id: ${ids.join(", ")}${more}.`);
  }
  return first.id;
}

/** The same, and the account of somebody as it is: `ISSUER:ACCOUNT`. */
export const personNamed = async (operator: OperatorClient, named: string): Promise<string> =>
  named.includes(":") ? named : playerId(operator, named);

/** The same for somebody whom a room knows: of several of one name its own member is meant. */
export async function memberId(operator: OperatorClient, room: string, named: string): Promise<string> {
  if (ID.test(named)) return named;
  const { members } = await operator.room(room);
  const wanted = named.toLocaleLowerCase();
  const own = Object.values(members).filter(({ name }) => name.toLocaleLowerCase() === wanted);
  return own.length === 1 && own[0] ? own[0].id : playerId(operator, named);
}
