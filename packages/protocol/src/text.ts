import { z } from "zod";
import {
  BUILD_MAX_CHARACTERS,
  NAME_MAX_BYTES,
  NAME_MAX_CHARACTERS,
  PASSWORD_MAX_CHARACTERS,
  PASSWORD_MIN_CHARACTERS,
} from "./limits.ts";

// Made with the first text: it takes longer than all the rest of this file.
let graphemes: Intl.Segmenter | undefined;

/** Number of characters a reader would count: grapheme clusters (UAX #29), so that a flag or an accented letter is one. */
export function visibleLength(text: string): number {
  graphemes ??= new Intl.Segmenter("und", { granularity: "grapheme" });
  let count = 0;
  for (const _ of graphemes.segment(text)) count++;
  return count;
}

// Controls (Cc), format characters that reorder or hide text (Cf but for the two joiners that scripts and emoji need),
// line and paragraph separators, lone surrogates, private use and unassigned code points.
const unprintable = /[\p{Cc}\p{Zl}\p{Zp}\p{Cs}\p{Co}\p{Cn}]|(?![\u200c\u200d])\p{Cf}/u;
// Whitespace, joiners and characters that draw nothing by themselves.
const onlyBlank = /^(?:\s|\u200c|\u200d|\u115f|\u1160|\u3164|\uffa0|\u2800|\p{M})*$/u;

/** Whether a text has nothing in it that hides or reorders other text. */
export const hasOnlyPrintable = (text: string) => !unprintable.test(text);
const everyUnprintable = new RegExp(unprintable.source, "gu");

/**
 * A text as it is safe to show to people, whoever wrote it: what moves a cursor, begins a sequence, or hides or reorders
 * other text stands as its number, `\\u{202e}`. `but` names characters that are let through, such as line breaks of a log.
 */
export const shownText = (text: string, but = "", write: (character: string) => string = byNumber): string =>
  text.replace(everyUnprintable, (found) => (but.includes(found) ? found : write(found)));

const byNumber = (character: string): string => `\\u{${(character.codePointAt(0) ?? 0).toString(16)}}`;

const hasSomethingVisible = (text: string) => !onlyBlank.test(text);

/** Bytes of a text in UTF-8 (RFC 3629, section 3). */
export function utf8Length(text: string): number {
  let bytes = 0;
  for (const character of text) {
    const code = character.codePointAt(0) ?? 0;
    bytes += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x1_0000 ? 3 : 4;
  }
  return bytes;
}

/** A room's password as somebody types it, in normal form C, so that it is the same from any keyboard. */
export const RoomPassword = z
  .string()
  .max(PASSWORD_MAX_CHARACTERS * 4, `expected at most ${PASSWORD_MAX_CHARACTERS} characters`)
  .transform((typed) => typed.normalize("NFC"))
  .pipe(
    z
      .string()
      .min(PASSWORD_MIN_CHARACTERS, `expected at least ${PASSWORD_MIN_CHARACTERS} characters`)
      .max(PASSWORD_MAX_CHARACTERS, `expected at most ${PASSWORD_MAX_CHARACTERS} characters`)
      .refine(hasOnlyPrintable, "expected no control or invisible characters"),
  );

/** A name that people read on a screen, in any script; trimmed and in normal form C. */
export const DisplayName = z
  .string()
  // A character may be many code units; this bound only keeps the checks below cheap.
  .max(NAME_MAX_CHARACTERS * 16, `expected 1 to ${NAME_MAX_CHARACTERS} visible characters`)
  .transform((typed) => typed.normalize("NFC").trim())
  .pipe(
    z
      .string()
      .refine(hasOnlyPrintable, "expected no control, direction-override or other invisible characters")
      .refine(hasSomethingVisible, `expected 1 to ${NAME_MAX_CHARACTERS} visible characters, got none`)
      .refine(
        (name) => visibleLength(name) <= NAME_MAX_CHARACTERS,
        `expected 1 to ${NAME_MAX_CHARACTERS} visible characters`,
      )
      // One character may be built of many: what is kept and sent on is bounded as well.
      .refine((name) => utf8Length(name) <= NAME_MAX_BYTES, `expected at most ${NAME_MAX_BYTES} bytes of UTF-8`),
  );
export type DisplayName = string;

/** A reason that people give and read, up to 200 characters, in any script. */
export const Reason = z
  .string()
  .max(200, "expected at most 200 characters")
  .transform((typed) => typed.normalize("NFC").trim())
  .pipe(
    z
      .string()
      .min(1, "expected a reason")
      .refine(hasOnlyPrintable, "expected no control or direction-override characters"),
  );

/** What people say to each other, 1 to 200 visible characters, in any script. */
export const ChatMessage = z
  .string()
  .max(1_000, "expected at most 200 visible characters")
  .transform((typed) => typed.normalize("NFC").trim())
  .pipe(
    z
      .string()
      .refine(hasOnlyPrintable, "expected no control or direction-override characters")
      .refine(hasSomethingVisible, "expected 1 to 200 visible characters, got none")
      .refine((text) => visibleLength(text) <= 200, "expected at most 200 visible characters"),
  );

/** Build string of a game client, such as `tidewrights-0.3`. */
export const BuildString = z
  .string()
  .min(1, "expected a build string, such as tidewrights-0.3")
  .max(BUILD_MAX_CHARACTERS, `expected at most ${BUILD_MAX_CHARACTERS} characters`)
  .regex(/^[\x21-\x7e]+$/, "expected printable ASCII without spaces");
export type BuildString = string;
