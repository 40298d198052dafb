import type { Player } from "@yellow-harbor/core";
import { ChatMessage, DisplayName, type PlayerId, type Problem, problem } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { z } from "zod";
import type { Config } from "../config/schema.ts";
import type { TextFilterConfig } from "../config/text-filter.ts";
import { secretNamed } from "../machines/secrets.ts";
import { type Posted, postTo } from "../webhooks/post.ts";
import { secretsNamed, signatureHeaders } from "../webhooks/sign.ts";

export type FilteredText = TextFilterConfig["texts"][number];

/** A text, and whose it is. */
export interface TextToLookAt {
  readonly kind: FilteredText;
  readonly text: string;
  readonly by?: Pick<Player, "id" | "name" | "identity" | "lobby" | "room"> | undefined;
  /** For a name that nobody has yet. */
  readonly account?: string | undefined;
  /** To whom alone it is said. */
  readonly to?: PlayerId | undefined;
}

export type LookedAt = { readonly text: string } | { readonly refused: Problem };

interface TextFilterParts {
  readonly config: TextFilterConfig;
  readonly secretNamed: (name: string) => string | undefined;
  readonly log: Pick<Logger, "info" | "warn">;
}

/** Texts that are looked at once; one more is as one without an answer. */
const AT_ONCE = 256;
const ANSWER_MAX = 8_192;

const Answer = z.object({ allow: z.boolean(), text: z.string().optional() });

/** Shows texts to the game's own service, which lets them through, changes or refuses them, within a time. */
export class TextFilter {
  readonly #parts: TextFilterParts;
  readonly #stopping = new AbortController();
  #underWay = 0;
  #given = 0;
  #isFailing = false;

  constructor(parts: TextFilterParts) {
    this.#parts = parts;
  }

  isFor(kind: FilteredText): boolean {
    return this.#parts.config.texts.includes(kind);
  }

  /** Never rejects. */
  async lookAt(asked: TextToLookAt): Promise<LookedAt> {
    const { config, log } = this.#parts;
    const posted = this.#underWay < AT_ONCE ? await this.#ask(asked) : { failed: "too many texts wait for an answer" };
    const answer = answerOf(posted);
    if ("failed" in answer) {
      if (!this.#isFailing)
        log.warn({ why: answer.failed, texts: config.onFailure }, "the text filter does not answer");
      this.#isFailing = true;
      return config.onFailure === "pass" ? { text: asked.text } : { refused: unavailable };
    }
    if (this.#isFailing) log.info({}, "the text filter answers again");
    this.#isFailing = false;
    if (!answer.allow) return { refused: problem("text-refused", refusedWords[asked.kind]) };
    const schema = asked.kind.endsWith("name") ? DisplayName : ChatMessage;
    const changed = answer.text === undefined ? undefined : schema.safeParse(answer.text);
    // What it makes of a text has to be one as well.
    if (changed?.success === false) return { refused: problem("text-refused", refusedWords[asked.kind]) };
    return { text: changed?.data ?? asked.text };
  }

  stop(): void {
    this.#stopping.abort();
  }

  async #ask({ kind, text, by, account, to }: TextToLookAt): Promise<Posted> {
    const { config, secretNamed } = this.#parts;
    const secrets = secretsNamed(config.secrets, secretNamed);
    if (secrets === undefined) return { failed: "a secret of it cannot be read, or has not 24 to 64 bytes" };
    const who = by && {
      player: { id: by.id, name: by.name, ...(by.identity && { account: by.identity.account }) },
      lobby: by.lobby,
      ...(by.room !== null && { room: by.room }),
    };
    const body = JSON.stringify({ kind, text, ...who, ...(account !== undefined && { account }), ...(to && { to }) });
    this.#given += 1;
    const atS = Math.floor(Date.now() / 1_000);
    const headers = {
      "content-type": "application/json; charset=utf-8",
      ...signatureHeaders(secrets, { id: `text-${this.#given}`, atS, body }),
    };
    this.#underWay += 1;
    try {
      return await postTo(config, { body, headers, signal: this.#stopping.signal, answerMax: ANSWER_MAX });
    } finally {
      this.#underWay -= 1;
    }
  }
}

/** The filter that a configuration asks for. */
export function textFilterOf(
  { players: { textFilter: config }, secrets }: Pick<Config, "players" | "secrets">,
  folder: string,
  log: TextFilterParts["log"],
): TextFilter | undefined {
  return config && new TextFilter({ config, log, secretNamed: (name) => secretNamed(name, { secrets, folder }) });
}

const unavailable = problem(
  "text-filter-unavailable",
  "What players say is looked at before others see it, which cannot be done now; try again in a few seconds.",
);

const refusedWords: Readonly<Record<FilteredText, string>> = {
  chat: "The game does not let this text through; say it in other words.",
  message: "The game does not let this text through; say it in other words.",
  "player-name": "The game does not let this name through; take another.",
  "room-name": "The game does not let this name of a room through; take another.",
};

function answerOf(posted: Posted): z.output<typeof Answer> | { readonly failed: string } {
  if ("failed" in posted) return posted;
  if (posted.status < 200 || posted.status > 299) return { failed: `it answered with status ${posted.status}` };
  const answer = Answer.safeParse(parsed(posted.text));
  return answer.success ? answer.data : { failed: 'its answer is not { "allow": true } or the like' };
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
