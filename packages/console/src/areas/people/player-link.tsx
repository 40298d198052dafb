import { Link } from "react-router";
import { addressOf } from "../../live/use-address.ts";

/** A player as a link to what happened to it. */
export const PlayerLink = ({ id, name }: { id: string; name: string }) => (
  <Link className="link link-hover" to={addressOf("people", id)}>
    {name}
  </Link>
);
