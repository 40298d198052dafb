import { problemCodes, problemTable } from "@yellow-harbor/protocol";
import { configJsonSchema } from "../config/json-schema.ts";

const GENERATED = "<!-- Made by `npm run docs` from the schemas. Change those, not this file. -->";

/** The table of problems. */
export function problemsPage(): string {
  const retry = { never: "no", later: "later", changed: "changed" };
  const rows = problemCodes.map((code) => {
    const { title, status, close, exit, retry: again } = problemTable[code];
    return `| \`${code}\` | ${title} | ${status} | ${close ?? "-"} | ${exit} | ${retry[again]} |`;
  });
  return [
    "# Problems",
    GENERATED,
    "",
    "Every refusal has a code. Over HTTP it comes as problem details (RFC 9457) with the status below; over a player's WebSocket as a",
    "`problem` in a reply, or in a `closing` frame before the socket is closed with the close code below; `yh` ends with the exit code below.",
    "A code that is no longer used is never given another meaning.",
    "",
    "*Again?* says whether trying again helps: `later` with the same request, `changed` after changing it, `no` not at all.",
    "",
    "| code | what it means | HTTP status | close code | exit code | again? |",
    "|---|---|---|---|---|---|",
    ...rows,
    "",
  ].join("\n");
}

interface SchemaNode {
  readonly type?: string;
  readonly description?: string;
  readonly default?: unknown;
  readonly enum?: readonly unknown[];
  readonly minimum?: number;
  readonly maximum?: number;
  readonly properties?: Readonly<Record<string, SchemaNode>>;
  readonly required?: readonly string[];
  readonly additionalProperties?: SchemaNode | boolean;
  readonly items?: SchemaNode;
  readonly prefixItems?: readonly SchemaNode[];
  readonly anyOf?: readonly SchemaNode[];
  readonly oneOf?: readonly SchemaNode[];
  readonly $ref?: string;
  readonly $defs?: Readonly<Record<string, SchemaNode>>;
}

/** Every key of the configuration file. */
export function configurationReference(): string {
  const schema = configJsonSchema() as SchemaNode;
  const resolve = (node: SchemaNode): SchemaNode => {
    const name = node.$ref?.split("/").at(-1);
    const known = name === undefined ? node : { ...schema.$defs?.[name], ...node };
    // What may be left out may be said to be null as well, which nobody has to read.
    const [own, ...others] = known.anyOf?.filter(({ type }) => type !== "null") ?? [];
    if (own === undefined || others.length > 0) return known;
    const { anyOf: _, ...more } = known;
    return { ...resolve(own), ...more };
  };
  const rowsOf = (node: SchemaNode, path: string): string[] =>
    Object.entries(node.properties ?? {}).flatMap(([key, raw]) => {
      const child = resolve(raw);
      const here = path === "" ? key : `${path}.${key}`;
      const inside = partsOf(child, resolve).flatMap(([part, suffix]) => rowsOf(part, here + suffix));
      if (isGroup(child, resolve)) return inside;
      return [row(here, child, node.required?.includes(key) ?? false, resolve), ...inside];
    });
  const rows = rowsOf(schema, "");
  return ["| key | takes | when left out | about |", "|---|---|---|---|", ...rows].join("\n");
}

type Resolve = (node: SchemaNode) => SchemaNode;

/** What a map holds under names that people choose. */
const namedIn = ({ additionalProperties: inner }: SchemaNode, resolve: Resolve): SchemaNode | undefined =>
  typeof inner === "object" ? resolve(inner) : undefined;

/** Whether a key only holds others, and has nothing to be said of it by itself. */
const isGroup = (node: SchemaNode, resolve: Resolve): boolean =>
  node.properties !== undefined || namedIn(node, resolve)?.properties !== undefined;

/** What has keys of its own within a key, each with what is put behind its name. */
function partsOf(node: SchemaNode, resolve: Resolve): [part: SchemaNode, suffix: string][] {
  if (node.properties) return [[node, ""]];
  const named = namedIn(node, resolve);
  if (named?.properties) return [[named, ".NAME"]];
  if (node.items) return [[formsOf(resolve(node.items), resolve), "[]"]];
  return node.anyOf || node.oneOf ? [[formsOf(node, resolve), ""]] : [];
}

/** What has several forms, as one: only what all must have is required. */
function formsOf(node: SchemaNode, resolve: Resolve): SchemaNode {
  const forms = (node.anyOf ?? node.oneOf)?.map(resolve);
  if (forms === undefined) return node;
  const keys = [...new Set(forms.flatMap(({ properties = {} }) => Object.keys(properties)))];
  const first = (key: string) => forms.find(({ properties = {} }) => Object.hasOwn(properties, key))?.properties?.[key];
  const properties = Object.fromEntries(keys.map((key) => [key, first(key) ?? {}]));
  return { properties, required: keys.filter((key) => forms.every((form) => form.required?.includes(key))) };
}

function row(path: string, node: SchemaNode, isRequired: boolean, resolve: Resolve): string {
  const absent = node.default === undefined ? (isRequired ? "required" : "-") : `\`${JSON.stringify(node.default)}\``;
  return `| \`${path}\` | ${takes(node, resolve)} | ${absent} | ${(node.description ?? "").replaceAll("|", "\\|")} |`;
}

function takes(node: SchemaNode, resolve: Resolve): string {
  if (node.enum) return node.enum.map((value) => `\`${value}\``).join(", ");
  if (node.prefixItems) return `[${node.prefixItems.map((one) => takes(resolve(one), resolve)).join(", ")}]`;
  if (node.type === "array") return `list of ${takes(resolve(node.items ?? {}), resolve)}`;
  const forms = node.anyOf ?? node.oneOf;
  if (forms) return [...new Set(forms.map((one) => takes(resolve(one), resolve)))].join(" or ");
  if (node.type === "boolean") return "`true`, `false`";
  if (node.type === "number") return node.maximum === undefined ? "a number" : `up to ${node.maximum}`;
  if (node.type === "integer") return `${node.minimum} to ${node.maximum}`;
  if (node.properties) return "maps with the keys below";
  if (typeof node.additionalProperties === "object")
    return `map of ${takes(resolve(node.additionalProperties), resolve)}`;
  if (node.type === "object") return "map of text";
  return "text";
}
