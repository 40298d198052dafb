import { stripVTControlCharacters } from "node:util";
import { eastAsianWidth } from "get-east-asian-width";

const PLAIN = /^[\x20-\x7e]*$/;
/** What takes no column of its own: marks, joiners, variation selectors. */
const WIDTHLESS = /^[\p{Mark}\p{Default_Ignorable_Code_Point}]*$/u;
/** What is shown as an emoji, which is two columns wide (UAX 11): by a variation selector, or two letters of a flag. */
const EMOJI = /\ufe0f|^\p{RI}{2}/u;

let segmenter: Intl.Segmenter | undefined;

/** Columns that a text takes in a terminal, colours left out. */
export function textWidth(text: string): number {
  const shown = stripVTControlCharacters(text);
  if (PLAIN.test(shown)) return shown.length;
  segmenter ??= new Intl.Segmenter();
  let width = 0;
  for (const { segment } of segmenter.segment(shown)) {
    if (WIDTHLESS.test(segment)) continue;
    width += EMOJI.test(segment) ? 2 : eastAsianWidth(segment.codePointAt(0) ?? 0);
  }
  return width;
}
