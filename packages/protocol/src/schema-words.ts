import { z } from "zod";

type Issue = z.core.$ZodRawIssue;

const list = (values: readonly unknown[]) => values.map(String).join(", ");

/** What each kind of value is called by those who write configuration files and clients. */
const kinds: Readonly<Record<string, string>> = {
  string: "text",
  number: "a number",
  int: "a whole number",
  boolean: "true or false",
  array: "a list",
  object: "an object",
  record: "an object",
  null: "null",
  undefined: "nothing",
};

function bound(issue: Issue, side: "at least" | "at most"): string {
  const value = side === "at least" ? issue.minimum : issue.maximum;
  const edge = issue.inclusive === false ? (side === "at least" ? "more than" : "less than") : side;
  switch (issue.origin) {
    case "string":
      return `expected ${edge} ${value} characters`;
    case "array":
    case "set":
      return `expected ${edge} ${value} of them`;
    default:
      return `expected ${edge} ${value}`;
  }
}

/** What a value should have been, said the way the rest of a message is: it follows the name of the field. */
function wordsFor(issue: Issue): string | undefined {
  switch (issue.code) {
    case "invalid_type":
      return `${issue.input === undefined ? "is missing; " : ""}expected ${kinds[String(issue.expected)] ?? String(issue.expected)}`;
    case "too_small":
      return bound(issue, "at least");
    case "too_big":
      return bound(issue, "at most");
    case "invalid_value":
      return `expected ${(issue.values as unknown[]).length === 1 ? "" : "one of "}${list(issue.values as unknown[])}`;
    case "unrecognized_keys":
      return `does not have ${list(issue.keys as unknown[])}`;
    case "invalid_union":
      return "fits none of the forms that it may have";
    case "not_multiple_of":
      return `expected a multiple of ${String(issue.divisor)}`;
    case "invalid_format":
      return issue.format === "regex" ? "has characters or a form that are not taken" : `expected a ${issue.format}`;
    case "invalid_key":
    case "invalid_element":
      return "has a key or value that does not fit";
    default:
      return undefined;
  }
}

// From here on schemas say what they expect in these words. A message of a schema's own goes before.
z.config({ customError: wordsFor });
