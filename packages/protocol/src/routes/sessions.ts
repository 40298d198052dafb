import { z } from "zod";
import { Acknowledged } from "../instance-protocol.ts";
import { LogIn, LogInLink, SessionId, SessionList, WhoAmI } from "../sessions.ts";
import type { HttpRoutes } from "./route.ts";

const tag = "sessions";

/** Browsers that are logged in to the console. */
export const sessionRoutes = {
  logIn: {
    method: "POST",
    path: "/v1/log-in",
    tag,
    needs: null,
    summary: "Begin a session with a key, or the code of a link: the answer sets its cookie.",
    body: LogIn,
    example: { key: "yhk_..." },
    reply: WhoAmI,
  },
  logOut: {
    method: "POST",
    path: "/v1/log-out",
    tag,
    needs: "look",
    summary: "End one's own session.",
    reply: Acknowledged,
  },
  whoAmI: {
    method: "GET",
    path: "/v1/who-am-i",
    tag,
    needs: "look",
    summary: "Who is asking, and what it may do.",
    reply: WhoAmI,
  },
  sessions: {
    method: "GET",
    path: "/v1/sessions",
    tag,
    needs: "look",
    summary: "Sessions of one's own key; all of them for whoever administers.",
    reply: SessionList,
  },
  endSession: {
    method: "POST",
    path: "/v1/sessions/:session/end",
    tag,
    needs: "look",
    summary: "End a session of one's own key; any for whoever administers.",
    params: z.object({ session: SessionId }),
    reply: Acknowledged,
  },
  logInLink: {
    method: "POST",
    path: "/v1/log-in-links",
    tag,
    needs: "look",
    summary: "A code that logs one browser in as whoever asks for it, once.",
    reply: LogInLink,
  },
} as const satisfies HttpRoutes;
