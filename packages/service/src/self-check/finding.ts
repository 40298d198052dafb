/** What a look at one thing came to. */
export interface Finding {
  readonly check: string;
  /** ok; look: it works, and somebody should see to it; bad: the service does not run so, or not for long. */
  readonly state: "ok" | "look" | "bad";
  readonly text: string;
  /** What to do, where there is something to be done. */
  readonly remedy?: string;
}

export const ok = (check: string, text: string): Finding => ({ check, state: "ok", text });
export const look = (check: string, text: string, remedy: string): Finding => ({ check, state: "look", text, remedy });
export const bad = (check: string, text: string, remedy: string): Finding => ({ check, state: "bad", text, remedy });
