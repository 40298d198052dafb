import { z } from "zod";
import { PersonErased, PersonExport, Who } from "../people.ts";
import type { HttpRoutes } from "./route.ts";

const administers = { tag: "people", needs: "administer", params: z.object({ who: Who }) } as const;

/** What is kept of people, for those who ask for it. */
export const peopleRoutes = {
  exportPerson: {
    ...administers,
    method: "GET",
    path: "/v1/people/:who",
    summary: "All that is kept of an account, or of a guest by the id of its player.",
    reply: PersonExport,
  },
  erasePerson: {
    ...administers,
    method: "POST",
    path: "/v1/people/:who/erase",
    summary: "Replace the names and the account of a person in all that is kept. Who is here is kicked; a ban stays.",
    reply: PersonErased,
  },
} as const satisfies HttpRoutes;
